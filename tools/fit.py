"""Fit every instrument's dimensions to its anchors and write them to src/data/acoustics/fitted.

An instrument's ensemble has several geometries of each of its mouthpiece families. The rows that are
held out are taken from the chart before anything else is done with it.
"""

import argparse
import os
import sys
import time
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

SRC = Path(__file__).resolve().parent.parent / "src"
sys.path.insert(0, str(SRC))
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

from django.conf import settings  # noqa: E402

from catalogue import shipped  # noqa: E402
from core.acoustics.fit import Anchor, draws, fit  # noqa: E402
from core.acoustics.geometry import format_ensemble  # noqa: E402
from core.evidence.sources import pitch_estimate  # noqa: E402
from core.music.pitch import frequency_hz  # noqa: E402

SEED, OF_EACH_FAMILY = 20261125, 4


def anchors(name):
    """The rows that the fit may see, each with the pitch that it is taught to have."""
    model, visible = shipped.instrument(name), set(shipped.split(name)["anchors"])
    rows = [entry for entry in shipped.catalogue(name).entries if entry.id in visible]
    taught = [frequency_hz(model.to_sounding.apply(row.note)) for row in rows]
    return [
        Anchor(row.fingering, hz * 2 ** (pitch_estimate(row).value / 1200))
        for row, hz in zip(rows, taught, strict=True)
    ]


def fit_one(name, start):
    return fit(start, shipped.instrument(name), anchors(name))


def main():
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("instruments", nargs="*", default=list(shipped.INSTRUMENTS))
    parser.add_argument("--processes", type=int, default=os.cpu_count())
    asked = parser.parse_args()
    with ProcessPoolExecutor(asked.processes) as pool:
        for name in asked.instruments:
            began = time.perf_counter()
            plan = shipped.plan(name)
            starts = draws(plan.geometries, OF_EACH_FAMILY, SEED)
            fits = list(pool.map(fit_one, [name] * len(starts), starts))
            provenance = {
                "made_by": "make fit",
                "dimensions": f"{name}.toml" + (f", scaled from {plan.scaled_from}" * bool(plan.scaled_from)),
                "anchors": len(anchors(name)),
                "seed": SEED,
                "rms_cents": [round(found.rms, 2) for found in fits],
            }
            text = format_ensemble([found.geometry for found in fits], provenance)
            (settings.DATA / "acoustics" / "fitted" / f"{name}.json").write_text(text, "utf-8")
            took = time.perf_counter() - began
            print(f"{name:<22} rms {provenance['rms_cents']} cents, {took:.0f} s", flush=True)


if __name__ == "__main__":
    main()
