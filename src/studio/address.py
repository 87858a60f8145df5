"""Where a page stands: on which instrument, in which state of a passage, at which note, with which fingering.

Every address that leads to a note, a move or a spot is made here, and every one is read here.
"""

from dataclasses import dataclass, fields, replace
from urllib.parse import urlencode

from django.urls import reverse

# An address is not read further than this; nothing that it names is so long.
LONGEST = 300
# Where an address uses another word than the code, for which it is one of its own.
IN_ADDRESS = {"first": "from", "last": "to"}


@dataclass(frozen=True)
class Address:
    """What an address names; what is empty is not named.

    Parameters
    ----------
    passage : int or None
        Key of a passage; it stands in the path.
    on : str
        The instrument: ``i12`` for a student's, else the name of a model.
    state : str
        Number of a state of the passage.
    note : str
        Id of a note of the passage; where no passage is named, a written note such as ``Bb4``.
    entry : str
        Id of the fingering looked at, or counted.
    touches : str
        A fingering by its touches, which perhaps no chart has.
    first, last : str
        Ids of the first and the last note of a spot.
    move : str
        ``into`` where the move into the note is looked at.
    """

    passage: int | None = None
    on: str = ""
    state: str = ""
    note: str = ""
    entry: str = ""
    touches: str = ""
    first: str = ""
    last: str = ""
    move: str = ""

    @classmethod
    def read(cls, asked, passage=None):
        """What was asked for; `asked` is the query of a request, or what a form sent."""
        return cls(passage, **{name: asked.get(word, "")[:LONGEST] for name, word in WORDS.items()})

    def at(self, **other):
        """The same but for some parts."""
        return replace(self, **other)

    def parts(self, **more):
        """What stands after the ``?``, without what is empty; `more` is what a page asks besides."""
        named = {word: getattr(self, name) for name, word in WORDS.items()} | more
        return {word: value for word, value in named.items() if value}

    def query(self, **more):
        """The address within its own page."""
        return "?" + urlencode(self.parts(**more), doseq=True)

    def to(self, view, **more):
        """The address of another page, by its name; that of a passage where one is named."""
        args = None if self.passage is None else [self.passage]
        return reverse(view, args=args, query=self.parts(**more))


WORDS = {
    part.name: IN_ADDRESS.get(part.name, part.name) for part in fields(Address) if part.name != "passage"
}
