"""Time pages and the start: a visit first and again, how long nobody else gets a turn, what is kept.

Run by `make bench`. The application runs as it is served, with its workers, on a database that is thrown
away; the baseline of a page visited again is its first visit, that of the engraver is the same music set in
this process. Each start is a process of its own.
"""

import os
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
SRC = ROOT / "src"
SIXTEENTHS = "L:1/16\nQ:1/4=96\nK:G\n" + "GABc dedc BAGA Bcde |\n" * 64
EIGHTHS = "L:1/8\nQ:1/4=96\nK:G\n" + "G2A2 B2c2 d2e2 d2c2 |\n" * 200
BEAT_S, AGAIN = 0.002, 5
SUITE = "Over the Top Sluice"
START = """
import resource, time
begun = time.process_time()
import django
django.setup()
import config.urls
print(time.process_time() - begun, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1000)
"""


def main():
    sys.path.insert(0, str(SRC))
    os.environ["DJANGO_SETTINGS_MODULE"] = "config.settings"
    start()
    with tempfile.TemporaryDirectory() as data:
        os.environ |= {"FAIR_REACH_DATA": data, "FAIR_REACH_WORKERS": "2"}
        import django

        django.setup()
        from django.conf import settings
        from django.core.management import call_command

        settings.ALLOWED_HOSTS = ["*"]
        call_command("migrate", verbosity=0)
        call_command("load_demo", verbosity=0)
        for name in ("bench of 64 bars", "drills", "sheet"):
            first_page(name)
        from config import start as beginning
        from jobs import pool

        beginning.begin()
        beginning.wait_until_ready()
        pages()
        pool.stop()


def start():
    """Imports of the application, each in a process of its own."""
    environment = {**os.environ, "PYTHONPATH": str(SRC)}
    rows = []
    for _ in range(AGAIN):
        done = subprocess.run([sys.executable, "-c", START], env=environment, capture_output=True, check=True)
        rows.append([float(word) for word in done.stdout.split()])
    cpu, mb = (statistics.median(column) for column in zip(*rows, strict=True))
    print(f"Imports of the application\n  CPU {cpu:27.2f} s\n  memory {mb:24.0f} MB")


def first_page(name):
    """The first page of its kind after a start, in a process of its own."""
    code = f"import sys; sys.path[:0] = [{str(ROOT / 'tools')!r}, {str(SRC)!r}]; import bench_pages\n"
    code += f"bench_pages.open_first({name!r})"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    print(f"  first after a start: {name:<16} {1e3 * float(done.stdout.split()[-1]):8.0f} ms")


def open_first(name):
    import django

    django.setup()
    from django.conf import settings

    settings.ALLOWED_HOSTS = ["*"]
    from config import start as beginning
    from passages.models import KeptPassage

    client, teacher = signed_in()
    suite = KeptPassage.objects.get(teacher=teacher, title__contains=SUITE)
    long = entered(teacher, SIXTEENTHS, suite.owned) if "64" in name else suite
    address = {
        "bench of 64 bars": f"/passages/{long.pk}/",
        "drills": f"/passages/{suite.pk}/drills/?from=n114&to=n118",
        "sheet": f"/students/sheet/?on=i{suite.owned_id}",
    }[name]
    beginning.begin()
    beginning.wait_until_ready()
    begun = time.perf_counter()
    assert client.get(address).status_code == 200
    print(time.perf_counter() - begun)
    from jobs import pool

    pool.stop()


def signed_in():
    from django.contrib.auth import get_user_model
    from django.test import Client

    client, teacher = Client(), get_user_model().objects.get(username="demo")
    client.force_login(teacher)
    return client, teacher


def entered(teacher, abc, owned):
    from passages import services

    passage, notices, _ = services.read_source(abc.encode(), owned.model, "written")
    return services.add_passage(
        teacher, title="x", instrument=owned.model, passage=passage, notices=notices, owned=owned
    )


def timed(act):
    begun = time.perf_counter()
    act()
    return 1e3 * (time.perf_counter() - begun)


class Beat:
    """The longest time that another thread did not get its turn."""

    def __enter__(self):
        self.longest, self.going = 0.0, True
        self.thread = threading.Thread(target=self._beat)
        self.thread.start()
        return self

    def _beat(self):
        last = time.perf_counter()
        while self.going:
            time.sleep(BEAT_S)
            now = time.perf_counter()
            self.longest, last = max(self.longest, now - last), now

    def __exit__(self, *_):
        self.going = False
        self.thread.join()


def pages():
    from bench import kept
    from bench.queries import opened
    from core.music.notation.abc import read_abc
    from drawing import engraving
    from passages.models import KeptPassage

    client, teacher = signed_in()
    suite = KeptPassage.objects.get(teacher=teacher, title__contains=SUITE)
    long = entered(teacher, SIXTEENTHS, suite.owned)
    print("Pages of 1,024 notes, first and again with nothing changed, the application at work")
    client.get(f"/passages/{long.pk}/")
    for name, address in (("ways", "ways/"), ("ossia", "ossia/?top=D5"), ("elsewhere", "elsewhere/")):
        visits = [timed(lambda at=address: client.get(f"/passages/{long.pk}/{at}")) for _ in range(1 + AGAIN)]
        again = statistics.median(visits[1:])
        print(
            f"  {name:<12} first {visits[0]:8.0f} ms   again {again:6.0f} ms   {visits[0] / again:.1f} times"
        )
    wide = entered(teacher, EIGHTHS, suite.owned)
    opened(wide, wide.current).solution()
    with Beat() as here:
        here_ms = timed(lambda: engraving.engrave.__wrapped__(read_abc(EIGHTHS).passage, 840))
    with Beat() as there:
        there_ms = timed(lambda: kept.engraving_of(read_abc(EIGHTHS).passage, 840))
    print("200 bars set: the whole time, and the longest that another page waits for the interpreter")
    for words, ms, beat in (("in this process", here_ms, here), ("by another", there_ms, there)):
        print(f"  {words:<16} {ms:8.0f} ms   {1e3 * beat.longest:6.0f} ms")
    for passage in KeptPassage.objects.filter(teacher=teacher).order_by("pk"):
        for tempo in range(60, 100, 4):
            at = opened(passage, passage.current)
            from dataclasses import replace

            at.solution_of(replace(at.settings, tempo_bpm=float(tempo)))
    from bench.solution import solutions

    print("Kept after every passage at ten tempi")
    for name, held in (("solutions", solutions), ("engravings", engraving.kept)):
        mb, most = held.currsize / 1e6, held.maxsize / 1e6
        print(f"  {name:<10} {mb:8.1f} MB of {most:.0f}, {len(held)} of them")


if __name__ == "__main__":
    main()
