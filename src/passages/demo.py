"""The demo: a youth wind band, four of its students, and a passage each from the suite that it prepares."""

from dataclasses import dataclass

from django.conf import settings

from catalogue import services as fingerings
from catalogue.queries import hand_of
from passages import services
from studio.models import Student
from studio.services import add_instrument, save_student
from studio.shipped import instrument


@dataclass(frozen=True)
class Desk:
    """A made-up student with instrument and passage.

    `readings` are typed at the tuner: entry id and cents; `judged`: entry id and words.
    """

    student: str
    level: str
    notes: str
    model: str
    name: str
    lacks: tuple[str, ...]
    a4_hz: float
    reed: str
    mouthpiece: str
    score: str
    pitch_is: str
    readings: tuple[tuple[str, str], ...] = ()
    judged: tuple[tuple[str, dict[str, str]], ...] = ()


DESKS = [
    Desk(
        *(
            "Tamsin Reedmace",
            Student.Level.ADVANCED,
            "First alto. Works on the top of the range for movement III.",
        ),
        *(
            "alto-saxophone",
            "band alto 2",
            ("highF#",),
            442.0,
            "strength 2½, cane",
            "medium tip, short facing",
        ),
        *("over-the-top-sluice.musicxml", "file"),
        (
            *(("Cs5-open", "-14 -11 -16 -12"), ("Cs5-covered", "-2 3 0"), ("D5-plain", "15 19 14 17 16")),
            *(
                ("E5-plain", "10 9 12"),
                ("A5-plain", "4 8 5"),
                ("F6-front", "18 11 14"),
                ("E6-front", "9 6 12"),
            ),
            ("A6-two-three", "-18 -25 -12 30 -20"),
        ),
        (
            ("A6-two-three", {"tone": "light", "speaks": "ready", "hands": "easy"}),
            ("A6-hand-down", {"pitch": "sharp", "tone": "full", "speaks": "needs care", "hands": "careful"}),
        ),
    ),
    Desk(
        *(
            "Odo Fennick",
            Student.Level.MOVING_ON,
            "Second clarinet; crosses the break well, new to C-sharp 6.",
        ),
        *("b-flat-clarinet", "own clarinet", ("LAb",), 442.0, "strength 3, cane", "close tip"),
        *("mill-race.abc", "concert"),
        (("Bb4-throat", "14 18 12"), ("A4-throat", "8 11"), ("Cs6-lift", "-6 2 -3")),
        (
            ("Bb4-throat", {"tone": "thin", "speaks": "ready"}),
            ("Cs6-half", {"speaks": "ready", "hands": "fair"}),
        ),
    ),
    Desk(
        *("Isolde Marrow", Student.Level.MOVING_ON, "Only oboe of the band; a student model."),
        *("oboe", "band oboe", ("leftF", "third8", "fullAutomatic"), 442.0, "medium, hand-made", "staple 47"),
        *("eel-ladder.abc", "file"),
        (("C5-plain", "12 9 15 10"), ("F4-forked", "-8 -4 -9")),
        (("F4-forked", {"tone": "light", "speaks": "ready", "hands": "easy"}),),
    ),
    Desk(
        *("Bram Tolliver", Student.Level.BEGINNING, "Came from the clarinet last year."),
        *("bassoon", "short-reach bassoon", ("D", "highE"), 442.0, "medium-soft", "crook 2"),
        *("below-the-lock.abc", "file"),
        (("Eb3-fork", "-12 -9 -15"), ("G3-plain", "16 12 18"), ("A3-flick-A", "2 5 3")),
        (("A3-plain", {"speaks": "unsure"}), ("A3-flick-A", {"speaks": "sure", "hands": "careful"})),
    ),
]


def load(teacher):
    """Make the students, their instruments, what was judged and read on them, and a passage each."""
    for desk in DESKS:
        student = save_student(teacher, name=desk.student, level=desk.level, notes=desk.notes)
        fitted = set(instrument(desk.model).optional) - set(desk.lacks)
        owned = add_instrument(
            teacher,
            student,
            model=desk.model,
            name=desk.name,
            fitted=fitted,
            a4_hz=desk.a4_hz,
            reed=desk.reed,
            mouthpiece=desk.mouthpiece,
        )
        hand = hand_of(owned)
        for entry, cents in desk.readings:
            fingerings.take_readings(teacher, owned, hand, entry, cents)
        for entry, words in desk.judged:
            fingerings.judge(teacher, owned, hand, entry, **words)
        data = (settings.DATA / "demo" / desk.score).read_bytes()
        passage, notices = services.read_source(data, desk.model, desk.pitch_is)
        services.add_passage(
            teacher, title="", instrument=desk.model, passage=passage, notices=notices, owned=owned
        )
