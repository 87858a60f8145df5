"""The music of a passage as it is stored."""

from functools import lru_cache

from core.music.notation.musicxml import read_musicxml
from core.music.passage import Passage


@lru_cache(maxsize=64)
def read_passage(musicxml: str) -> Passage:
    """The passage stored as our own MusicXML."""
    return read_musicxml(musicxml.encode()).passage
