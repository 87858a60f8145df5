"""Scores that cannot be read: a clear message each, with bar and beat where there is one."""

import contextlib
import io
import zipfile

import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.errors import CoreError, NotationError, PitchError
from core.music.notation.formats import ABC_BYTES_LIMIT, FILE_BYTES_LIMIT, read_score
from core.music.notation.mxl import ENTRIES_LIMIT, UNPACKED_LIMIT
from core.music.notation.score import Choices
from core.music.passage import NOTES_LIMIT
from core.music.pitch import Interval
from core.music.playing_order import PLAYED_LIMIT, Signs, playing_order
from core_shapes import bar, note, score

BOMB = (
    b'<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "aaaaaaaaaa">'
    + b"".join(b'<!ENTITY %c "%s">' % (98 + n, (b"&%c;" % (97 + n)) * 10) for n in range(8))
    + b"]><score-partwise>&i;</score-partwise>"
)
EXTERNAL = (
    b'<?xml version="1.0"?><!DOCTYPE x [<!ENTITY f SYSTEM "file:///etc/passwd">]>'
    b"<score-partwise><part-list/>&f;</score-partwise>"
)
CHORD = note(octave=4).replace("<note>", "<note><chord/>")
SECOND_VOICE = note(more="<voice>2</voice>")
BACKUP = "<backup><duration>1</duration></backup>"
TUPLET = (
    "<time-modification><actual-notes>1000</actual-notes><normal-notes>1</normal-notes></time-modification>"
)
MANY_PARTS = score(bar(note())).replace(
    b"</part>", b"</part>" + b"".join(b'<part id="Q%d"><measure/></part>' % n for n in range(400))
)
UNPITCHED = "<note><unpitched/><duration>1</duration></note>"


def with_attributes(text):
    return score(bar(note(), attributes="<divisions>1</divisions>" + text))


def sound(tempo):
    return score(bar(note(), f'<sound tempo="{tempo}"/>', note()))


@pytest.mark.parametrize(
    ("data", "message"),
    [
        pytest.param(b"", "nothing to read", id="empty"),
        pytest.param(b"  \n ", "nothing to read", id="blank"),
        pytest.param(b"\x00\x01\xff\xfe binary", "neither MusicXML nor MIDI nor ABC", id="binary"),
        pytest.param(b"a" * (FILE_BYTES_LIMIT + 1), "at most 20 MB", id="too large"),
        pytest.param(score(bar(note()))[:-40], "breaks off or is damaged at line 3", id="truncated"),
        pytest.param(b"<html><body>hi</body></html>", "must be MusicXML, got <html>", id="other XML"),
        pytest.param(b"<score-timewise/>", "no note with a pitch", id="empty timewise"),
        pytest.param(BOMB, "entities", id="entity bomb"),
        pytest.param(EXTERNAL, "entities", id="external entity"),
        pytest.param(
            b'<?xml version="1.0" encoding="no-such"?><a/>', "cannot be read|damaged", id="encoding"
        ),
        pytest.param(score(""), "no note with a pitch", id="no bars"),
        pytest.param(score(bar(note(rest=True))), "no note with a pitch", id="rests only"),
        pytest.param(MANY_PARTS, "at most 400 parts, got 401", id="parts without end"),
        pytest.param(score(bar(UNPITCHED)), "no note with a pitch", id="percussion"),
        pytest.param(
            score(bar(note("H"))), "no note could be read: A pitch that cannot be: bar 1", id="step"
        ),
        pytest.param(score(bar(note(octave=44))), "no note could be read: A pitch", id="octave"),
        pytest.param(score(bar(note(duration=-1))), "no note could be read: A length", id="negative length"),
        pytest.param(score(bar(note(duration="9" * 50))), "no note could be read: Not understood", id="long"),
        pytest.param(b"K:C\nC D F# G|", "^Bar 1, beat 2: “F#” is not how ABC .* as in .F", id="a sharp"),
        pytest.param(b"K:C\nz4|", "no note could be read", id="ABC rests"),
        pytest.param(b"hello there, this is a letter", "cannot be read as notes", id="prose"),
        pytest.param(b"T:only a title", "no notes were found", id="ABC title only"),
        pytest.param(b"K:C\n(" + b"3" * 5_000 + b"abc|", "cannot be read as notes", id="5,000 digits"),
        pytest.param(b"K:C\n" + b"c" * 3_001, "at most 3,000 notes; .* without a bar line", id="one bar"),
        pytest.param(b"K:C\nC9999|", "no notes were found", id="ABC endless"),
    ],
)
def test_message(data, message):
    with pytest.raises(CoreError, match=message):
        read_score(data)


LOSSES = {
    "chord": (score(bar(note(), CHORD, number=3)), "Of chords all but the highest note: bar 3, beat 1."),
    "second voice": (score(bar(note(), note(), BACKUP, SECOND_VOICE)), "Another voice (2): bar 1."),
    "percussion": (score(bar(note(), UNPITCHED)), "Notes without pitch: bar 1, beat 2."),
    "empty note": (
        score(bar(note(), "<note><duration>1</duration></note>")),
        "A note with neither pitch nor rest: bar 1, beat 2.",
    ),
    "octave": (score(bar(note(), note(octave="x"))), "Not understood, octave “x”: bar 1, beat 2."),
    "no length": (score(bar(note(), note(duration=0))), "A note without a length: bar 1, beat 2."),
    "endless note": (
        score(bar(note(), note(duration=65))),
        "A length that is not from 0 to 64 quarters: bar 1, beat 2.",
    ),
    "exponent": (
        score(bar(note(), note(duration="1e999"))),
        "Not understood, duration “1e999”: bar 1, beat 2.",
    ),
    "odd length": (
        score(bar(note(duration="0.02"))),
        "Lengths that cannot be written, rounded: bar 1, beat 1.",
    ),
    "divisions": (
        score(bar(note(), attributes="<divisions>0</divisions>")),
        "Divisions of a quarter that cannot be: bar 1, beat 1.",
    ),
    "key": (
        with_attributes("<key><fifths>9</fifths></key>"),
        "A key signature of more than seven signs: bar 1, beat 1.",
    ),
    "time": (
        with_attributes("<time><beats>4</beats><beat-type>5</beat-type></time>"),
        "A time signature that cannot be: bar 1, beat 1.",
    ),
    "tempo 0": (sound(0), "A tempo that cannot be played (0): bar 1, beat 2."),
    "tempo 10,000": (sound(10_000), "A tempo that cannot be played (10000): bar 1, beat 2."),
    "tempo word": (sound("fast"), "Not understood, tempo “fast”: bar 1, beat 2."),
    "20,000 notes": (
        score(bar(*[note()] * 2_999) + bar(*[note()] * 20_000, number=2)),
        "Left out, since a passage has at most 3,000 notes, from here on: bar 2.",
    ),
    "ABC chord": (b"K:C\nC D [CEG] F|", "Of chords all but the highest note: bar 1, beat 2."),
    "ABC overlay": (b"K:C\nC8|C2 & E2|", "A second voice inside a bar: bar 2."),
    "ABC sign": (b"K:C\nC8|D2 @ E|", "The sign “@”: bar 2, beat 2."),
    "ABC tempo": (b"Q:0\nK:C\nC|", "The tempo “0”: bar 1, beat 1."),
    "ABC metre": (b"M:4/5\nK:C\nC|", "The time signature “4/5”: bar 1, beat 1."),
    "ABC key": (b"K:Hxyz\nC|", "The key “Hxyz”: bar 1, beat 1."),
    "ABC length 0": (b"K:C\nC0|", "The length “0”, which cannot be: bar 1, beat 1."),
    "ABC no such note": (b"K:C\nC1/17|", "Lengths that cannot be written, rounded: bar 1, beat 1."),
    "tuplet": (
        score(bar(note(more=TUPLET), note(duration="0.001"))),
        "Notes too short to be written: bar 1, beat 2.",
    ),
    "ABC endless": (b"K:C\nC C9999|", "A note of more than 64 quarters: bar 1, beat 1½."),
    "ABC broken": (b"K:C\n>C|", "“>” that does not stand between two notes: bar 1, beat 1."),
    "ABC tuplet": (b"K:C\n(1C|", "The tuplet (1, which cannot be: bar 1, beat 1."),
    "ABC octave": (b"K:C\nCC,,,,,,|", "A note beyond all instruments: bar 1, beat 1½."),
    "ABC rests": (b"K:C\nC|Z999|", "Rests of whole bars that are not from 1 to 200: bar 1, beat 1."),
    "ABC bar": (
        b"M:2/4\nL:1/4\nK:C\nC2|C3|",
        "Bars longer than their time signature, read as they stand: bar 2.",
    ),
}


@pytest.mark.parametrize(("data", "loss"), LOSSES.values(), ids=LOSSES.keys())
def test_one_odd_element_never_refuses_a_score_and_is_listed_with_its_place(data, loss):
    assert loss in read_score(data).notices


def mxl(entries, root="score.xml", container=True):
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
        if container:
            inner = f'<container><rootfiles><rootfile full-path="{root}"/></rootfiles></container>'
            archive.writestr("META-INF/container.xml", inner)
        for name, content in entries.items():
            archive.writestr(name, content)
    return stream.getvalue()


def test_compressed_score():
    assert len(list(read_score(mxl({"score.xml": score(bar(note()))})).passage)) == 1


@pytest.mark.parametrize(
    ("data", "message"),
    [
        pytest.param(b"PK\x03\x04 rest is missing", "damaged", id="not a zip"),
        pytest.param(mxl({"score.xml": score(bar(note()))})[:-30], "damaged", id="truncated"),
        pytest.param(mxl({}, container=False), "does not say which", id="no container"),
        pytest.param(mxl({}), "no entry 'score.xml'", id="no score"),
        pytest.param(mxl({}, root="../../etc/passwd"), "does not say which", id="path upward"),
        pytest.param(mxl({}, root="/etc/passwd"), "does not say which", id="absolute path"),
        pytest.param(mxl({}, root=""), "does not say which", id="no path"),
        pytest.param(mxl({"score.xml": b"<" + b" " * UNPACKED_LIMIT}), "at most 20 MB", id="zip bomb"),
        pytest.param(
            mxl({f"{n}.xml": b"" for n in range(ENTRIES_LIMIT)}), "at most 100 entries", id="many entries"
        ),
        pytest.param(mxl({"score.xml": BOMB}), "entities", id="entity bomb inside"),
    ],
)
def test_compressed_scores_that_cannot_be_read(data, message):
    with pytest.raises(NotationError, match=message):
        read_score(data)


def read_or_refuse(data):
    """Whatever comes in, there is a passage with notes or a message; anything else is a failure."""
    try:
        return read_score(data).passage
    except CoreError as error:
        return str(error)


@given(st.text(alphabet="XTMLQKV:CDEabc^_='|,/(3)>-z{}[]!&~.\"% \n0123456789", max_size=120))
def test_any_text_is_read_or_refused(text):
    found = read_or_refuse(text.encode())
    assert found
    assert isinstance(found, str) or not all(note.is_rest for note in found)


@given(st.binary(max_size=200), st.sampled_from([b"", b"<", b"PK\x03\x04", b"\xff\xfe"]))
def test_any_bytes_are_read_or_refused(data, start):
    assert read_or_refuse(start + data)


def transposed(chromatic, more=""):
    return with_attributes(f"<transpose><chromatic>{chromatic}</chromatic>{more}</transpose>")


@pytest.mark.parametrize(
    "data",
    [
        pytest.param(transposed("1" + "0" * 30), id="a chromatic of 10 to the 30"),
        pytest.param(transposed(0, "<octave-change>99</octave-change>"), id="99 octaves"),
        pytest.param(transposed(2, "<diatonic>999999</diatonic>"), id="steps without end"),
        pytest.param(
            with_attributes(f"<time><beats>{'1+' * 50_000}1</beats><beat-type>4</beat-type></time>"),
            id="beats without end",
        ),
        pytest.param(b"L:1/" + b"9" * 5_000 + b"\nK:C\nabc|", id="a length of 5,000 digits"),
        pytest.param(b"K:C\nb" + b"a" + b"'" * 100_000 + b"|", id="octaves without end"),
        pytest.param(b"K:C\nba" + b"9" * 5_000 + b"|", id="a note of 5,000 digits"),
        pytest.param(
            score(bar(note(), '<barline><repeat direction="backward" times="999999999"/></barline>')),
            id="repeats without end",
        ),
        pytest.param(b"K:C\n|:" + b"C|" * 3 + b":|" * 3_000, id="signs without end"),
    ],
)
def test_numbers_without_end_are_left_out(data):
    reading = read_score(data, Choices(play_out=True))
    assert 1 <= len(list(reading.passage)) <= NOTES_LIMIT
    assert reading.to_sounding in (None, Interval(0, 0))


@pytest.mark.parametrize("interval", [Interval(0, 10_000), Interval(10**30, 0), Interval(-(10**30), 1)])
def test_a_transposition_without_end_ends(interval):
    passage = read_score(b"K:C\nabc|").passage
    with contextlib.suppress(PitchError):
        assert abs(passage.transposed(interval).bars[0].key_fifths) <= 7


def packed(way):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", way) as archive:
        container = '<container><rootfiles><rootfile full-path="a.xml"/></rootfiles></container>'
        archive.writestr("META-INF/container.xml", container)
        archive.writestr("a.xml", score(bar(note())))
    return out.getvalue()


@pytest.mark.parametrize("way", [zipfile.ZIP_LZMA, zipfile.ZIP_BZIP2])
def test_a_score_packed_in_an_unusual_way_is_refused(way):
    with pytest.raises(NotationError, match="packed in an unusual way"):
        read_score(packed(way))


@pytest.mark.parametrize("way", [zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED])
def test_a_packed_score_with_bytes_missing_anywhere_is_refused_or_read(way):
    data = packed(way)
    read_score(data)
    for at in range(0, len(data), 7):
        with contextlib.suppress(CoreError):
            read_score(b"PK" + (data[:at] + data[at + 3 :])[2:])


def test_a_part_without_end_is_looked_at_no_further_than_a_passage_can_go(monkeypatch):
    monkeypatch.setattr("core.music.notation.musicxml.READ_LIMIT", 4_000)
    endless = score("".join(bar(*[note()] * 20, number=n) for n in range(1, 300)))
    (beyond, most) = read_score(endless).notices
    assert beyond == "Not looked at, for the part has more than 4,000 notes, what follows: bar 201."
    assert most.startswith("Left out, since a passage has at most 3,000 notes")
    late = read_score(endless, Choices(bars=(190, 192)))
    assert len(list(late.passage)) == 60
    assert late.notices == ()


def test_sixty_four_voices_are_said_in_stretches():
    voices = "".join(
        note(duration=4, more=f"<voice>{n}</voice>") + BACKUP.replace("1", "4") for n in range(1, 65)
    )
    reading = read_score(score("".join(bar(voices, number=n) for n in range(1, 40))))
    assert len(reading.offered.voices) == 64
    assert "Another voice (7): bars 1 to 39." in reading.notices


@pytest.mark.parametrize(
    "signs",
    [
        [Signs(da_capo=True)] + [Signs(to_coda=True)] * 100_000,
        [Signs(endings=frozenset({1}), repeat_to=True)] * 100_000,
        [Signs()] + [Signs(endings=frozenset({19}))] * 100_000 + [Signs(repeat_to=True, times=20)],
    ],
    ids=["signs to a coda that is not there", "endings", "endings never played"],
)
def test_playing_out_looks_at_every_bar_a_bounded_number_of_times(signs):
    assert 1 <= len(playing_order(signs)) <= PLAYED_LIMIT


def test_a_text_of_signs_without_end_is_left_alone():
    (said,) = read_score(b"K:C\nc" + b"(" * 200_000).notices
    assert said == "Not looked at, what follows the first 100,000 signs."
    with pytest.raises(CoreError, match="at most 5 MB"):
        read_score(b"K:C\n" + b"c" * ABC_BYTES_LIMIT)
