"""One way in for a score, whatever its format."""

from __future__ import annotations

from core.errors import NotationError
from core.music.notation.abc import read_abc
from core.music.notation.midi import read_midi
from core.music.notation.musicxml import read_musicxml
from core.music.notation.mxl import unpack_mxl
from core.music.notation.score import DEFAULT, Choices, Score
from core.music.passage import Passage
from core.music.pitch import Interval

FILE_BYTES_LIMIT, ABC_BYTES_LIMIT = 20_000_000, 5_000_000


def read_score(data: bytes, choices: Choices = DEFAULT) -> Score:
    """Read MusicXML, compressed MusicXML, a Standard MIDI File or ABC, told apart by content.

    Parameters
    ----------
    data : bytes, at most 20 MB
    choices : Choices
        What of it is wanted.

    Returns
    -------
    Score

    Raises
    ------
    NotationError
        If it is none of these, or cannot be read; names bar and beat where there is one.
    PassageError
        If it is readable but beyond the limits of a passage.
    """
    if len(data) > FILE_BYTES_LIMIT:
        raise NotationError(
            f"the file must have at most {FILE_BYTES_LIMIT // 1_000_000} MB, "
            f"got {len(data) / 1e6:.1f} MB; export the one part that is worked on"
        )
    if data.startswith(b"MThd"):
        return read_midi(data, choices)
    if data.startswith(b"PK"):
        return read_musicxml(unpack_mxl(data), choices)
    text = data.lstrip(b"\xef\xbb\xbf \t\r\n")
    if text.startswith((b"<", b"\xff\xfe", b"\xfe\xff")):
        return read_musicxml(data, choices)
    if not text:
        raise NotationError("there is nothing to read; choose a file or type a line of notes")
    if len(text) > ABC_BYTES_LIMIT:
        raise NotationError(
            f"an ABC text must have at most {ABC_BYTES_LIMIT // 1_000_000} MB, got {len(text) / 1e6:.1f} MB; "
            "bring in the tune that is worked on"
        )
    try:
        return read_abc(data.decode("utf-8-sig"), choices)
    except UnicodeDecodeError as error:
        raise NotationError(
            "this is neither MusicXML nor MIDI nor ABC text; export the part as MusicXML and try again"
        ) from error


def written_for(score: Score, instrument_to_sounding: Interval, pitch_is: str) -> Passage:
    """Move a passage as read to written pitch for an instrument.

    Parameters
    ----------
    score : Score
    instrument_to_sounding : Interval
        From written to sounding pitch of the instrument that will play.
    pitch_is : {'file', 'written', 'concert'}
        ``file`` believes what the source says of itself, and takes it as written for the
        instrument where it says nothing.

    Returns
    -------
    Passage
    """
    own = instrument_to_sounding
    if pitch_is == "concert" or (pitch_is == "file" and score.concert):
        own = Interval(0, 0)
    elif pitch_is == "file" and score.to_sounding is not None:
        own = score.to_sounding
    up = instrument_to_sounding.inverse
    shift = Interval(own.steps + up.steps, own.semitones + up.semitones)
    return score.passage if shift == Interval(0, 0) else score.passage.transposed(shift)
