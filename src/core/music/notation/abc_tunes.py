"""An ABC text taken apart: its tunes, the voices of one, and which line belongs to which voice."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

from core.music.notation.score import Option

FIELD = re.compile(r"([A-Za-z+]):(.*)")
# Fields that may stand among the music; the letters of notes with a colon after are a repeat sign.
IN_BODY = frozenset("IKLMmNPQRrsTUVWw+")
INLINE_VOICE = re.compile(r"\[V:\s*([^\]\s]+)[^\]]*\]")
TUNES_LIMIT, VOICES_LIMIT, NAME_LIMIT = 2_000, 64, 60


@dataclass(frozen=True)
class TuneLine:
    """A line of a tune: a field with its letter, or music (an empty letter), and the voice it is of.

    `voice` is empty for what stands before any voice, and is of all.
    """

    letter: str
    text: str
    voice: str
    in_body: bool


def split_tunes(text: str) -> list[list[str]]:
    """Lines of every tune, without comments and blocks of text; a text without X: is one tune.

    Parameters
    ----------
    text : str

    Returns
    -------
    list of list of str
    """
    tunes: list[list[str]] = [[]]
    in_text = False
    for raw in text.splitlines():
        if raw.startswith("%%"):
            in_text = raw[2:].strip().startswith("begin") or (in_text and "end" not in raw[:7])
            continue
        line = re.sub(r"(?<!\\)%.*", "", raw).strip()
        if in_text or not line:
            continue
        if line.startswith("X:") and len(tunes) <= TUNES_LIMIT:
            tunes.append([])
        tunes[-1].append(line)
    return [tune for tune in tunes if any(not FIELD.fullmatch(line) for line in tune)] or [tunes[-1]]


def tune_options(tunes: list[list[str]]) -> tuple[Option, ...]:
    """The tunes to choose from, each by its place and its title.

    Parameters
    ----------
    tunes : list of list of str
        Lines of each.

    Returns
    -------
    tuple of Option
    """
    options = []
    for place, lines in enumerate(tunes, start=1):
        titles = (line[2:].strip() for line in lines if line.startswith("T:"))
        options.append((str(place), f"{place}. {next(titles, 'without a title')[:NAME_LIMIT]}"))
    return tuple(options)


def lines_of(tune: list[str]) -> Iterator[TuneLine]:
    """Every line with its voice; what stands before the key among the fields is no music.

    Parameters
    ----------
    tune : list of str
        Its lines as they stand.

    Returns
    -------
    iterator of TuneLine
    """
    voice, has_key = "", any(line.startswith("K:") for line in tune)
    in_body = False
    for text in tune:
        field = FIELD.fullmatch(text)
        if field and not (in_body and field[1] not in IN_BODY):
            letter, value = field[1], field[2].strip()
            if letter == "V" and in_body:
                voice = _voice_name(value)
            yield TuneLine(letter, value, voice, in_body)
            in_body = in_body or letter == "K"
            continue
        if has_key and not in_body:
            continue  # prose between the fields
        in_body = True
        for part_voice, part in _by_voice(text, voice):
            voice = part_voice
            if part.strip():
                yield TuneLine("", part, part_voice, True)


def _by_voice(text: str, voice: str) -> Iterator[tuple[str, str]]:
    """A line of music in its stretches, each with its voice."""
    at = 0
    for match in INLINE_VOICE.finditer(text):
        yield voice, text[at : match.start()]
        voice, at = match[1], match.end()
    yield voice, text[at:]


def voice_options(tune: list[str]) -> tuple[Option, ...]:
    """The voices to choose from; none where there is only one.

    Parameters
    ----------
    tune : list of str
        Its lines as they stand.

    Returns
    -------
    tuple of Option
    """
    names: dict[str, str] = {}
    music: set[str] = set()
    for line in lines_of(tune):
        if line.letter == "V":
            key = _voice_name(line.text)
            name = re.search(r'(?:name|nm)=(?:"([^"]*)"|(\S+))', line.text)
            names.setdefault(key, "")
            names[key] = names[key] or ((name[1] or name[2] or "") if name else "")
        elif not line.letter:
            music.add(line.voice)
            names.setdefault(line.voice, "")
    found = [key for key in names if key in music and key][:VOICES_LIMIT]
    if "" in music and not found:
        return ()
    return tuple((key, names[key][:NAME_LIMIT] or f"voice {key}") for key in found)


def _voice_name(value: str) -> str:
    return value.split()[0][:20] if value.split() else ""
