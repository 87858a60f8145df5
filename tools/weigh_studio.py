"""Ten years of one studio: what the pages cost with 200 students and half a million attempts.

Run with `make studio`; a minute or two, in a database of its own that is thrown away. A page is asked for as
a browser would, the first time after a start and then again; CPU is of the whole answer, and no test.
"""

import os
import random
import sys
import tempfile
import time
import uuid
from datetime import timedelta
from pathlib import Path
from statistics import median

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT / "src"))
os.environ["DJANGO_SETTINGS_MODULE"] = "config.settings"
os.environ["FAIR_REACH_MODE"] = "demo"

STUDENTS, ATTEMPTS, FEW, MANY, AGAIN = 200, 500_000, 10, 10_000, 7
YEARS, SPOTS, AT_SPOTS = 10, 40, 0.2
ABC = b"T:Reeds in the Rain\nL:1/8\nQ:1/4=96\nK:C\n" + b"CDEF GABc | dcBA GFED |\n" * 8


def main():
    with tempfile.TemporaryDirectory() as data:
        os.environ["FAIR_REACH_DATA"] = data
        import django

        django.setup()
        from django.core.management import call_command

        call_command("collectstatic", verbosity=0, interactive=False)
        call_command("migrate", verbosity=0)
        few, many = studio()
        for owned, count in ((few, FEW), (many, MANY)):
            print(
                f"{STUDENTS} students, {ATTEMPTS:,} attempts, {count:,} of them on the instrument looked at"
            )
            weigh(owned)


def studio():
    """The teacher's students with what was counted; gives back those with the fewest and the most."""
    from catalogue.queries import of_instrument
    from evidence.models import AttemptMade
    from passages import services as passages
    from practice import services
    from studio.demo import make_demo_teacher
    from studio.models import OwnedInstrument
    from studio.services import add_instrument, save_student

    teacher, _ = make_demo_teacher()
    rest = (ATTEMPTS - FEW - MANY) // (STUDENTS - 2)
    counts = [FEW, MANY] + [rest] * (STUDENTS - 2)
    score, notices, _ = passages.read_source(ABC, "oboe", "file")
    made = []
    for n, count in enumerate(counts):
        student = save_student(teacher, name=f"Student {n:03}", level="moving on")
        owned = add_instrument(teacher, student, model="oboe", name="oboe", fitted=set())
        in_hand = of_instrument(owned)
        services.set_plan(teacher, owned, in_hand, target_midi=89)
        passage = passages.add_passage(
            teacher, title="", instrument="oboe", passage=score, notices=notices, owned=owned
        )
        spots = spots_of(passage)
        AttemptMade.objects.bulk_create(attempts(owned, count, n, spots), batch_size=5_000)
        services.tell(teacher, owned, in_hand)
        made.append(owned)
    assert OwnedInstrument.objects.count() == STUDENTS
    return made[:2]


def spots_of(passage):
    """Spots of a passage from two notes to five, from each of its first notes on."""
    from bench.queries import opened
    from counting.asked import spot_asked
    from evidence.models import SpotPlayed

    at = opened(passage, passage.current)
    events, found = at.solution().events, []
    for first in range(SPOTS):
        spot = spot_asked(at, events[first].id, events[first + 1 + first % 4].id).drawn.spot
        notes = [[step.midi, step.fingering, step.quarters] for step in spot.steps]
        row = SpotPlayed(
            instrument=passage.owned, name=uuid.uuid4(), passage=passage, first=first, notes=notes
        )
        found.append(row)
    return SpotPlayed.objects.bulk_create(found)


def attempts(owned, count, seed, spots):
    """Attempts over the years, every fifth of them at a spot."""
    from django.utils import timezone

    from evidence.models import AttemptMade

    drawn, now = random.Random(seed), timezone.now()
    moments = sorted(drawn.random() * YEARS * 365 for _ in range(count))
    for days in moments:
        clean = drawn.random() < 0.7
        spot = drawn.choice(spots) if drawn.random() < AT_SPOTS else None
        midi, entry, _ = spot.notes[1] if spot else (drawn.randint(75, 88), "", 0)
        yield AttemptMade(
            instrument=owned,
            key=uuid.UUID(int=drawn.getrandbits(128)),
            setup=1,
            note_midi=midi,
            entry=entry,
            spot=spot,
            at=1 if spot else 0,
            bpm=drawn.randrange(60, 120, 3) if spot else None,
            result="clean" if clean else "stumbled" if spot else "cracked",
            cracked_to=None if clean or spot else 70,
            place=drawn.choice([*["practice room"] * 3, "lesson", "stage"]),
            made=now - timedelta(days=YEARS * 365 - days, minutes=1),
        )


def weigh(owned):
    from django.conf import settings
    from django.test import Client

    settings.ALLOWED_HOSTS = ["*"]
    passage, client, on = owned.passages.first(), Client(), f"?on=i{owned.pk}"
    pages = {
        "students": "/students/",
        "a student": f"/students/{owned.student_id}/",
        "week": f"/students/week/{on}",
        "log": f"/students/log/{on}",
        "plan": f"/practice/plan/{on}",
        "reach": f"/practice/reach/{on}",
        "count": f"/practice/count/{on}&note=D6",
        "a spot": f"/passages/{passage.pk}/count/",
        "passages": "/passages/",
        "bench": f"/passages/{passage.pk}/",
        "fingerings": f"/fingerings/{on}",
    }
    client.get("/help/")  # what every first page of a process costs
    print(f"{'':12}{'first':>8}{'again':>8}  ms CPU")
    for name, address in pages.items():
        first = cpu(client, address)
        print(f"{name:12}{first:8.0f}{median(cpu(client, address) for _ in range(AGAIN)):8.0f}")


def cpu(client, address):
    begin = time.process_time()
    status = client.get(address).status_code
    if status != 200:
        sys.exit(f"{address} answered {status}")
    return 1000 * (time.process_time() - begin)


if __name__ == "__main__":
    main()
