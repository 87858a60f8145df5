"""One way in for a score, whatever its format."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction

from core.errors import NotationError
from core.passage import NOMINAL, Note, Passage, split_length
from core.pitch import Interval

FILE_BYTES_LIMIT = 5_000_000


@dataclass(frozen=True)
class Reading:
    """A score as read.

    Parameters
    ----------
    passage : Passage
        Pitches as they stand in the source.
    concert : bool
        The source says that it is at concert pitch.
    to_sounding : Interval or None
        The source's own transposition from written to sounding, if it names one.
    notices : tuple of str
        What was left out, in a teacher's words.
    """

    passage: Passage
    concert: bool = False
    to_sounding: Interval | None = None
    notices: tuple[str, ...] = ()


def read_score(data: bytes) -> Reading:
    """Read MusicXML, compressed MusicXML or ABC, told apart by content.

    Parameters
    ----------
    data : bytes, at most 5 MB

    Raises
    ------
    NotationError
        If it is none of these, or cannot be read; names bar and beat where there is one.
    PassageError
        If it is readable but beyond the limits of a passage.
    """
    from core.notation import abc, musicxml  # both build on this module

    if len(data) > FILE_BYTES_LIMIT:
        raise NotationError(
            f"the file must have at most {FILE_BYTES_LIMIT // 1_000_000} MB, "
            f"got {len(data) / 1e6:.1f} MB; export the one part that is worked on"
        )
    if data.startswith(b"PK"):
        return musicxml.read_musicxml(musicxml.unpack_mxl(data))
    text = data.lstrip(b"\xef\xbb\xbf \t\r\n")
    if text.startswith((b"<", b"\xff\xfe", b"\xfe\xff")):
        return musicxml.read_musicxml(data)
    if not text:
        raise NotationError("there is nothing to read; choose a file or type a line of notes")
    try:
        return abc.read_abc(data.decode("utf-8-sig"))
    except UnicodeDecodeError as error:
        raise NotationError(
            "this is neither MusicXML nor ABC text; export the part as MusicXML and try again"
        ) from error


def written_for(reading: Reading, instrument_to_sounding: Interval, pitch_is: str) -> Passage:
    """Move a passage as read to written pitch for an instrument.

    Parameters
    ----------
    instrument_to_sounding : Interval
        From written to sounding pitch of the instrument that will play.
    pitch_is : {'file', 'written', 'concert'}
        ``file`` believes what the source says of itself, and takes it as written for the
        instrument where it says nothing.
    """
    own = instrument_to_sounding
    if pitch_is == "concert" or (pitch_is == "file" and reading.concert):
        own = Interval(0, 0)
    elif pitch_is == "file" and reading.to_sounding is not None:
        own = reading.to_sounding
    up = instrument_to_sounding.inverse
    shift = Interval(own.steps + up.steps, own.semitones + up.semitones)
    return reading.passage if shift == Interval(0, 0) else reading.passage.transposed(shift)


def single_notes(note: Note, fail: Callable[[str], NotationError]) -> list[Note]:
    """Split a note whose length no single note can have into tied notes.

    Parameters
    ----------
    fail : callable
        Makes an error that names the place of the note.

    Raises
    ------
    NotationError
        If the length is no multiple of a 256th note.
    """
    if note.nominal in NOMINAL:
        return [note]
    try:
        lengths = split_length(note.nominal)
    except ValueError as error:
        raise fail(f"a note length cannot be written: {error}") from error
    scale = Fraction(note.tuplet[1], note.tuplet[0])
    parts = []
    for place, length in enumerate(lengths):
        first, last = place == 0, place == len(lengths) - 1
        parts.append(
            Note(
                id=note.id if first else f"{note.id}.{place}",
                written_pitch=note.written_pitch,
                quarters=length * scale,
                tuplet=note.tuplet,
                tied=note.tied if last else not note.is_rest,
                slur_start=note.slur_start and first,
                slur_stop=note.slur_stop and last,
                articulations=note.articulations if first else frozenset(),
                dynamic=note.dynamic if first else "",
                tempo_bpm=note.tempo_bpm if first else None,
                fingering=note.fingering if first else "",
            )
        )
    return parts
