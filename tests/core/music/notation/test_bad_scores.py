"""Scores that cannot be read: a clear message each, with bar and beat where there is one."""

import contextlib
import io
import zipfile

import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.errors import CoreError, NotationError, PitchError
from core.music.notation.formats import FILE_BYTES_LIMIT, read_score
from core.music.notation.mxl import ENTRIES_LIMIT, UNPACKED_LIMIT
from core.music.pitch import Interval
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
CHORD = note().replace("<note>", "<note><chord/>")
SECOND_VOICE = note(more="<voice>2</voice>")
BACKUP = "<backup><duration>1</duration></backup>"
TUPLET = "<time-modification><actual-notes>0</actual-notes><normal-notes>2</normal-notes></time-modification>"
TWO_PARTS = score(bar(note())).replace(b"</part>", b'</part><part id="P2"></part>')
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
        pytest.param(b"\x00\x01\xff\xfe binary", "neither MusicXML nor ABC", id="binary"),
        pytest.param(b"a" * (FILE_BYTES_LIMIT + 1), "at most 5 MB", id="too large"),
        pytest.param(score(bar(note()))[:-40], "breaks off or is damaged at line 3", id="truncated"),
        pytest.param(
            b"<html><body>hi</body></html>", "must be partwise MusicXML, got <html>", id="other XML"
        ),
        pytest.param(b"<score-timewise/>", "got <score-timewise>", id="timewise"),
        pytest.param(BOMB, "entities", id="entity bomb"),
        pytest.param(EXTERNAL, "entities", id="external entity"),
        pytest.param(
            b'<?xml version="1.0" encoding="no-such"?><a/>', "cannot be read|damaged", id="encoding"
        ),
        pytest.param(score(""), "at least one note, got none", id="no bars"),
        pytest.param(score(bar(note(rest=True))), "at least one note, got none", id="rests only"),
        pytest.param(TWO_PARTS, r"must have one part, got 2 \(A\)", id="two parts"),
        pytest.param(score(bar(note(), CHORD, number=3)), "^Bar 3, beat 2: a chord", id="chord"),
        pytest.param(score(bar(note(), SECOND_VOICE)), "^Bar 1, beat 2: a second voice", id="second voice"),
        pytest.param(score(bar(note(), BACKUP, note("E"))), "^Bar 1, beat 2: a second voice", id="backup"),
        pytest.param(score(bar(UNPITCHED)), "^Bar 1, beat 1: a note without pitch", id="percussion"),
        pytest.param(
            score(bar(note(), "<note><duration>1</duration></note>")), "neither pitch", id="empty note"
        ),
        pytest.param(score(bar(note("H"))), "^Bar 1, beat 1: step must be", id="step"),
        pytest.param(score(bar(note(octave=44))), "octave must be from -1 to 9", id="octave"),
        pytest.param(score(bar(note(octave="x"))), "octave must be a number, got 'x'", id="octave word"),
        pytest.param(score(bar(note(duration=0))), "last from above 0", id="no length"),
        pytest.param(score(bar(note(duration=-1))), "last from above 0", id="negative length"),
        pytest.param(score(bar(note(duration=65))), "to 64 quarters", id="endless note"),
        pytest.param(score(bar(note(duration="1e9999999"))), "duration must be a number", id="exponent"),
        pytest.param(score(bar(note(duration="9" * 50))), "duration must be a number", id="long number"),
        pytest.param(score(bar(note(duration="1/7"))), "^Bar 1, beat 1: a note length", id="no such note"),
        pytest.param(score(bar(note(), attributes="<divisions>0</divisions>")), "divisions", id="divisions"),
        pytest.param(score(bar(note(more=TUPLET))), "a tuplet of 0", id="tuplet"),
        pytest.param(with_attributes("<key><fifths>9</fifths></key>"), "7 flats to 7 sharps", id="key"),
        pytest.param(
            with_attributes("<time><beats>4</beats><beat-type>5</beat-type></time>"),
            "cannot be 4/5",
            id="time",
        ),
        pytest.param(sound(0), "^Bar 1, beat 2: the tempo must be from 20 to 400", id="tempo 0"),
        pytest.param(sound(10_000), "got 10000", id="tempo 10,000"),
        pytest.param(sound("fast"), "tempo must be a number", id="tempo word"),
        pytest.param(score(bar(*[note()] * 20_000)), "at most 3,000 notes .* bar 1", id="20,000 notes"),
        pytest.param(b"K:C\nC " * 1 + b"C" * 20_000, "at most 3,000 notes", id="20,000 notes of ABC"),
        pytest.param(b"K:C\nC D [CEG] F|", "^Bar 1, beat 2: a chord", id="ABC chord"),
        pytest.param(b"K:C\nC8|C2 & E2|", "^Bar 2, beat 2: a second voice", id="ABC overlay"),
        pytest.param(b"V:1\nK:C\nC|\nV:2\nE|", "a second voice", id="ABC voices"),
        pytest.param(b"K:C\nC8|D2 @ E|", "^Bar 2, beat 2: '@ E|' cannot be read", id="ABC sign"),
        pytest.param(b"K:C\nz4|", "at least one note", id="ABC rests"),
        pytest.param(b"hello there", "cannot be read", id="prose"),
        pytest.param(b"T:only a title", "no notes were found", id="ABC title only"),
        pytest.param(b"Q:0\nK:C\nC|", "from 20 to 400", id="ABC tempo 0"),
        pytest.param(b"Q:fast\nK:C\nC|", "Q: must be a tempo", id="ABC tempo word"),
        pytest.param(b"M:4/5\nK:C\nC|", "M: must be a time signature", id="ABC metre"),
        pytest.param(b"M:0/4\nK:C\nC|", "M: must be a time signature", id="ABC metre of nought"),
        pytest.param(b"L:0/8\nK:C\nC|", "L: must be a length", id="ABC unit of nought"),
        pytest.param(b"K:Hxyz\nC|", "K: must be a key", id="ABC key"),
        pytest.param(b"K:G# sharpish\nC|", "K: must be a key|7 flats", id="ABC mode"),
        pytest.param(b"K:C\nC0|", "length '0' cannot be read", id="ABC length 0"),
        pytest.param(b"K:C\nC9999|", "at most 64 quarters", id="ABC endless"),
        pytest.param(b"K:C\nC1/7|", "^Bar 1, beat 1: a note length", id="ABC no such note"),
        pytest.param(b"K:C\n>C|", "must stand between", id="ABC broken rhythm"),
        pytest.param(b"K:C\n-C|", "a tie stands before", id="ABC tie"),
        pytest.param(b"K:C\n(1C|", "a tuplet must have", id="ABC tuplet"),
        pytest.param(b"K:C\nC,,,,,,|", "beyond all instruments", id="ABC octave"),
        pytest.param(b"K:C\nC|Z999|", "from 1 to 200 bars", id="ABC rests of bars"),
    ],
)
def test_message(data, message):
    with pytest.raises(CoreError, match=message):
        read_score(data)


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
        pytest.param(mxl({}, container=False), "no entry 'META-INF/container.xml'", id="no container"),
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
            with_attributes(f"<time><beats>{'1+' * 50_000}1</beats><beat-type>4</beat-type></time>")
        ),
        pytest.param(b"K:C\n(" + b"3" * 5_000 + b"abc|", id="a tuplet of 5,000 digits"),
        pytest.param(b"L:1/" + b"9" * 5_000 + b"\nK:C\nabc|", id="a length of 5,000 digits"),
        pytest.param(b"K:C\n" + b"a" + b"'" * 100_000 + b"|", id="octaves without end"),
        pytest.param(b"K:C\na" + b"9" * 5_000 + b"|", id="a note of 5,000 digits"),
    ],
)
def test_numbers_without_end_are_refused_at_the_border(data):
    with pytest.raises(CoreError):
        read_score(data)


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
