"""Fingerings as rows, thousands at once, against the keywork and the hands one by one."""

import numpy as np
import pytest

from catalogue import shipped
from core.instruments.keywork import unholdable
from core.instruments.variants import Variants
from studio.shipped import INSTRUMENTS


@pytest.mark.parametrize("model", INSTRUMENTS)
@pytest.mark.parametrize("everything", [True, False])
def test_rows_say_what_the_keywork_and_the_hands_say(model, everything):
    chart, acoustic = shipped.catalogue(model), shipped.model(model)
    fitted = frozenset(chart.instrument.optional) if everything else chart.instrument.usually_fitted
    acoustic = shipped.model(model, fitted)
    variants = Variants(chart.instrument, fitted)
    some = variants.rows([entry.fingering for entry in chart.entries[::9]])
    flips = np.random.default_rng(3).random((len(some) * 8, some.shape[1])) < 0.08
    rows = np.repeat(some, 8, axis=0) ^ flips
    fingerings = [variants.fingering(row) if one_way(variants, row) else None for row in rows]
    can = variants.holdable(rows)
    for row, fingering, holdable in zip(rows, fingerings, can, strict=True):
        assert holdable == (fingering is not None and not unholdable(chart.instrument, fingering))
        assert fingering is None or (variants.row(fingering) == row).all()
    kept = [fingering for fingering, holdable in zip(fingerings, can, strict=True) if holdable]
    assert 20 < len(kept) < len(rows)
    assert (variants.states(rows[can]) == acoustic.states(kept)).all()


def one_way(variants, row):
    """Whether no touch is held both full and half."""
    held = [name for (name, _), at in variants.columns.items() if row[at]]
    return len(set(held)) == len(held)


def test_what_is_changed_is_near_and_holdable_and_comes_once():
    chart = shipped.catalogue("b-flat-clarinet")
    variants = Variants(chart.instrument, chart.instrument.usually_fitted)
    bases = variants.rows([entry.fingering for entry in chart.entries[:3]])
    found = variants.changed(bases, 2)
    assert len(np.unique(found, axis=0)) == len(found) > 300
    assert variants.holdable(found).all()
    assert min((found[:, None] ^ bases[None]).sum(axis=2).min(axis=1).tolist()) == 0
    assert (found[:, None] ^ bases[None]).sum(axis=2).min(axis=1).max() == 2
