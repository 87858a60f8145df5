"""The kinds of work that is done by other processes, and what each may cost."""

from dataclasses import dataclass


@dataclass(frozen=True)
class WorkKind:
    """A kind of work.

    Parameters
    ----------
    words : str
        What it does, said where it was not done.
    function : str
        The function that does it, by its full name; it is found in the process that works.
    seconds : float
        So long it may take, the wait for a free process not counted.
    megabytes : int
        So much memory it may take beyond what the process has at rest.
    """

    words: str
    function: str
    seconds: float
    megabytes: int


KINDS = {
    "score": WorkKind("reading the score", "core.music.notation.formats.read_score", 30, 900),
    "engraving": WorkKind("setting the music", "drawing.engraving.engrave", 30, 500),
    "drills": WorkKind("making the drills", "practice.background.drills_of_spot", 60, 500),
    "sheet": WorkKind("making the sheet", "students.background.sheet_of", 90, 700),
}
