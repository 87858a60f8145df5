"""Pages and their addresses: each teacher's own, constant in queries, kind to bad input."""

import re

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from tests.pages import words_of

from bench import services
from bench.queries import opened
from core.music.pitch import spell
from core_shapes import DATA, bar, note, score
from passages.models import KeptPassage, State
from studio.shipped import INSTRUMENTS, instrument

pytestmark = pytest.mark.django_db
ABC = "L:1/8\nK:C\nC2 B2 c2 d2 | _b4 g'4 |]"


def post_new(client, text="", file=None, **more):
    data = {"instrument": "alto-saxophone", "pitch_is": "file", "title": "", "text": text, **more}
    if file is not None:
        data["file"] = SimpleUploadedFile("score.musicxml", file)
    return client.post(reverse("passages:new"), data)


def of_passage(name, passage):
    """The address of a page of a passage; of the list for all."""
    args = {"list": [], "download": [passage.pk, "musicxml"]}.get(name, [passage.pk])
    room = "passages" if name in ("list", "delete") else "bench"
    return reverse(f"{room}:{name}", args=args)


def change(client, passage, action, **more):
    data = {"action": action, "state": passage.current.number, "note": "n1", **more}
    return client.post(reverse("bench:change", args=[passage.pk]), data)


def test_type_a_line_and_open_it(signed_in, teacher):
    answer = post_new(signed_in, ABC, title="Warm-up")
    passage = KeptPassage.objects.get()
    assert (passage.teacher, passage.title) == (teacher, "Warm-up")
    assert answer["Location"] == reverse("bench:bench", args=[passage.pk])


def test_upload_wins_over_text(signed_in):
    shipped = (DATA / "demo" / "over-the-top-sluice.musicxml").read_bytes()
    post_new(signed_in, ABC, file=shipped, pitch_is="written")
    assert KeptPassage.objects.get().bars == 20


@pytest.mark.parametrize(
    ("more", "message"),
    [
        pytest.param({}, "Choose a file or type a line", id="nothing"),
        pytest.param({"text": "K:C\nC F#|"}, "Bar 1, beat 1½: “F#” is not how", id="misspelled"),
        pytest.param({"file": b"<score-partwise>"}, "not whole XML", id="truncated"),
        pytest.param({"file": b"x" * 20_000_001}, "at most 20 MB", id="too large"),
        pytest.param({"text": "C" * 100_001}, "at most 100000 characters", id="too long a text"),
        pytest.param({"text": ABC, "instrument": "kazoo"}, "valid choice", id="instrument"),
        pytest.param({"text": ABC, "pitch_is": "up"}, "valid choice", id="pitch"),
        pytest.param({"text": ABC, "title": "t" * 201}, "at most 200 characters", id="title"),
        pytest.param({"text": ABC, "bars": "7-x"}, "given like 9-24", id="bars"),
        pytest.param({"text": ABC, "bars": "7-9"}, "There are no notes in bars 7 to 9", id="no such bars"),
        pytest.param({"file": score(bar(note()))}, "does not say whether", id="written or sounding"),
        pytest.param({"text": "K:C\n\x00C|"}, "Null characters", id="null byte"),
    ],
)
def test_a_score_that_cannot_be_read_saves_nothing_and_keeps_what_was_typed(signed_in, more, message):
    answer = post_new(signed_in, **{"title": "Kept title", **more})
    page = answer.content.decode()
    assert answer.status_code == 422
    assert message in page.replace("&#x27;", "'")
    assert not KeptPassage.objects.exists()
    assert not State.objects.exists()
    if "title" not in more:
        assert "Kept title" in page


def test_fifty_megabytes_are_refused_kindly(signed_in):
    answer = post_new(signed_in, file=b"<" * 50_000_000)
    assert answer.status_code == 422
    assert b"at most 20 MB, got 50.0 MB" in answer.content


PARTS = score(
    bar(note("E"), note("C", 4).replace("<note>", "<note><chord/>")),
    part='<part-list><score-part id="P1"><part-name>Oboe</part-name></score-part>'
    '<score-part id="P2"><part-name>Alto Sax</part-name></score-part></part-list>',
).replace(b"</score-partwise>", f'<part id="P2">{bar(note("G"), note("A"))}</part></score-partwise>'.encode())


def test_a_part_is_guessed_by_the_instrument_and_can_be_chosen(signed_in):
    data = {"instrument": "alto-saxophone", "pitch_is": "file"}

    def shown(**more):
        file = SimpleUploadedFile("score.musicxml", PARTS)
        return signed_in.post(reverse("passages:preview"), {**data, "file": file, **more}).content.decode()

    page = shown()
    assert '<option value="P2" selected>Alto Sax, 2 notes</option>' in page
    assert "does not say whether" in page
    page = shown(part="P1", chord="lowest")
    assert '<option value="P1" selected>' in page
    assert '<option value="lowest" selected>' in page
    assert "Of chords all but the lowest note: bar 1, beat 1." in page
    post_new(signed_in, file=PARTS, part="P1", chord="lowest", asked_pitch="concert")
    assert KeptPassage.objects.get().lowest == "A4"  # C4 as it sounds


def test_several_files_are_several_passages_and_a_bad_one_is_named(signed_in):
    names = {"one.abc": b"T:One\nK:C\nC|", "two.abc": b"T:Two\nK:C\nC|", "bad.musicxml": b"<no"}
    files = [SimpleUploadedFile(name, data) for name, data in names.items()]
    data = {"instrument": "alto-saxophone", "pitch_is": "file", "file": files}
    assert "2 more files" in signed_in.post(reverse("passages:preview"), data).content.decode()
    for file in files:
        file.seek(0)
    page = signed_in.post(reverse("passages:new"), data, follow=True).content.decode()
    assert sorted(KeptPassage.objects.values_list("title", flat=True)) == ["One", "Two"]
    assert "2 passages brought in." in page
    assert "bad.musicxml: The file is not whole XML" in page


def test_preview_shows_what_is_read_and_saves_nothing(signed_in):
    data = {"instrument": "alto-saxophone", "pitch_is": "concert", "text": "T:Sluice\nK:C\nC c''4 {d}e|"}
    page = signed_in.post(reverse("passages:preview"), data).content.decode()
    assert "written A4 to A7" in page
    assert "left out" not in page
    assert "Moved to written pitch for alto saxophone" in page
    assert '<svg class="staff' in page
    lost = signed_in.post(reverse("passages:preview"), {**data, "text": "K:C\nC & E|"})
    assert "A second voice inside a bar: bar 1." in lost.content.decode()
    assert not KeptPassage.objects.exists()


def test_the_address_names_state_note_and_candidate(signed_in, teacher, make_passage):
    passage = make_passage(teacher)
    answer = change(signed_in, passage, "pin", note="n5", entry="Bb5-side")
    assert answer["Location"].endswith("?state=2&note=n5")
    page = signed_in.get(answer["Location"] + "&entry=Bb5-bis").content.decode()
    assert re.search(r'id="try-Bb5-bis"[^>]*aria-current="true"', page)
    assert "B♭5</span>" in page
    older = signed_in.get(reverse("bench:bench", args=[passage.pk]) + "?state=1&note=n5").content.decode()
    assert "Pinned by you" in signed_in.get(answer["Location"]).content.decode()
    assert "Pinned by you" not in older


@pytest.mark.parametrize(
    "query", ["?state=999&note=zzz&entry=none", "?state=-1", "?state=" + "9" * 40, "?state=x", "?note=%00"]
)
def test_addresses_that_name_nothing_fall_back(signed_in, teacher, make_passage, query):
    passage = make_passage(teacher)
    for page in ("bench", "sheet", "download"):
        assert signed_in.get(of_passage(page, passage) + query).status_code == 200


@pytest.mark.parametrize(
    ("action", "more", "message"),
    [
        ("tempo", {"tempo_bpm": "0"}, "at least 20"),
        ("tempo", {"tempo_bpm": "10000"}, "at most 400"),
        ("tempo", {"tempo_bpm": "quick"}, "must be a number"),
        ("tempo", {"tempo_bpm": "nan"}, "must be a number"),
        ("tempo", {}, "must be a number"),
        ("pin", {"entry": "none"}, "does not belong to this note"),
        ("ban", {}, "does not belong to this note"),
        ("fly", {}, "not known here"),
        ("set-up", {"a4_hz": "500"}, "at most 450"),
        (
            "set-up",
            {"a4_hz": "440", "weight_pitch": "-1"},
            "The weight of Pitch must be a number from 0 to 10",
        ),
        ("set-up", {"a4_hz": "440", "fitted": "R1"}, "not one of the available"),
    ],
)
def test_a_change_that_cannot_be_made_says_so(signed_in, teacher, make_passage, action, more, message):
    passage = make_passage(teacher)
    answer = change(signed_in, passage, action, **more)
    assert answer.status_code == 422
    assert message in answer.content.decode()
    assert State.objects.count() == 1


def test_a_bad_tempo_stays_in_its_field(signed_in, teacher, make_passage):
    page = change(signed_in, make_passage(teacher), "tempo", tempo_bpm="9999").content.decode()
    assert 'value="9999"' in page


def test_what_two_windows_choose_is_told_and_one_press_takes_either(signed_in, teacher, make_passage):
    passage = make_passage(teacher)
    address = reverse("bench:change", args=[passage.pk])
    behind = {"state": "1", "note": "n1"}
    signed_in.post(address, behind | {"action": "pin", "entry": "Bb5-bis", "note": "n5"})
    answer = signed_in.post(address, behind | {"action": "tempo", "tempo_bpm": "72"})
    assert answer.status_code == 409
    words = words_of(answer)
    assert "Meanwhile in another window: Pin B♭5 in bar 2. That is what you see." in words
    assert "Yours is kept beside it: Tempo 72." in words
    passage.refresh_from_db()
    assert passage.current.settings["pins"] == {"n5": "Bb5-bis"}
    assert list(passage.states.exclude(name="").values_list("number", "name")) == [
        (3, "Other window: Tempo 72")
    ]
    for number, tempo in (("3", 72.0), ("2", 96.0), ("2", 96.0)):
        passage.refresh_from_db()
        now = {"state": str(passage.current.number), "action": "version", "number": number}
        assert signed_in.post(address, now).status_code == 302
        passage.refresh_from_db()
        assert passage.current.settings["tempo_bpm"] == tempo
    assert signed_in.post(address, now | {"number": "99"}).status_code == 422


def test_a_bad_set_up_stays_in_its_field(signed_in, teacher, make_passage):
    page = change(signed_in, make_passage(teacher), "set-up", a4_hz="four forty").content.decode()
    assert 'value="four forty"' in page
    assert re.search(r'<details id="whole"[^>]* open>', page)


def test_set_up_by_the_form(signed_in, teacher, make_passage):
    passage = make_passage(teacher, "K:C\n^f'|")
    weights = {f"weight_{s}": "1" for s in ("pitch", "tone", "speaks", "hands")}
    change(signed_in, passage, "set-up", a4_hz="442", fitted="highF#", **weights)
    page = signed_in.get(reverse("bench:bench", args=[passage.pk])).content.decode()
    assert "where A is 442" in page
    assert "octave, palm F, palm E♭, palm D · side E, high F♯" in page


@pytest.mark.parametrize("name", ["bench", "sheet", "download", "change", "delete"])
def test_another_teachers_passage_is_not_found(client, teacher, other_teacher, make_passage, name):
    passage = make_passage(teacher)
    client.force_login(other_teacher)
    address = of_passage(name, passage)
    answer = client.post(address) if name in ("change", "delete") else client.get(address)
    assert answer.status_code == 404
    assert KeptPassage.objects.filter(pk=passage.pk).exists()
    assert passage.title not in client.get(reverse("passages:list")).content.decode()


def test_a_state_of_another_passage_is_not_shown(signed_in, teacher, other_teacher, make_passage):
    foreign = make_passage(other_teacher)
    services.set_tempo(other_teacher, foreign, foreign.current, 33)
    own = make_passage(teacher)
    page = signed_in.get(reverse("bench:bench", args=[own.pk]) + "?state=2").content.decode()
    assert 'value="33"' not in page


@pytest.mark.parametrize("name", ["list", "new", "preview"])
def test_nothing_without_signing_in(client, name):
    assert reverse("studio:sign-in") in client.get(reverse(f"passages:{name}"))["Location"]


def test_deleting_takes_the_states_along(signed_in, teacher, make_passage):
    passage = make_passage(teacher)
    signed_in.post(reverse("passages:delete", args=[passage.pk]))
    assert not KeptPassage.objects.exists()
    assert not State.objects.exists()


def test_gaps_are_listed_and_marked(signed_in, teacher, make_passage):
    passage = make_passage(teacher, "L:1/4\nK:C\nC f''' E C,|")
    page = signed_in.get(reverse("bench:bench", args=[passage.pk])).content.decode()
    assert page.count('class="no-fingering"') == 2
    assert "Bar 1, beat 2</a>: written F8 lies outside the range" in page


def test_leads_are_said_on_bench_and_sheet_where_nothing_better_is_known(signed_in, teacher, make_passage):
    passage = make_passage(teacher, "L:1/4\nK:C\n^c'' A ^c'' d''|")
    bench = signed_in.get(reverse("bench:bench", args=[passage.pk]), {"note": "n1"})
    assert [str(lead.note) for lead in bench.context["bench"].on_leads] == ["C♯7", "D7"]
    text = bench.content.decode()
    assert "Nothing better known than leads, to be tried:" in text
    assert "Nothing better known: a lead, to be tried." in text
    assert "altissimo fingering, a lead" in text  # what a screen reader hears of the note
    sheet = signed_in.get(reverse("bench:sheet", args=[passage.pk])).content.decode()
    assert "To be tried, since nothing better is known:" in sheet
    taught = make_passage(teacher, "L:1/4\nK:C\nA B c d|")
    assert not signed_in.get(reverse("bench:bench", args=[taught.pk])).context["bench"].on_leads


def test_a_title_cannot_bring_markup(signed_in):
    post_new(signed_in, "T:<script>alert(1)</script>\n" + ABC)
    passage = KeptPassage.objects.get()
    for name in ("list", "bench", "sheet"):
        address = of_passage(name, passage)
        assert b"<script>alert" not in signed_in.get(address).content


def many_more(passage, count):
    """As many copies of a passage, each with its state."""
    copies = [
        KeptPassage(teacher=passage.teacher, title=f"Weir {n}", owned=passage.owned) for n in range(count)
    ]
    for copy in copies:
        for name in ("instrument", "musicxml", "notices", "notes", "bars", "lowest", "highest"):
            setattr(copy, name, getattr(passage, name))
    copies = KeptPassage.objects.bulk_create(copies)
    kept = {"number": 1, "settings": passage.current.settings, "what": "Passage opened"}
    states = State.objects.bulk_create(State(passage=copy, **kept) for copy in copies)
    for copy, state in zip(copies, states, strict=True):
        copy.current = state
    KeptPassage.objects.bulk_update(copies, ["current"])


@pytest.mark.parametrize("owned", [False, True])
@pytest.mark.parametrize("many", [10, 1000])
def test_pages_keep_their_number_of_queries(
    signed_in, teacher, make_passage, make_instrument, django_assert_num_queries, many, owned
):
    passage = make_passage(teacher, owned=make_instrument(teacher) if owned else None)
    many_more(passage, many - 1)
    more = (
        6 if owned else 0
    )  # what was judged, read, counted of notes and spots, preferred and prepared on the instrument
    counted = 4 if owned else 0  # the guess of the reach, what was told, what was counted before, and since
    for name, queries in (
        ("list", 5),
        ("bench", 8 + more + counted),
        ("sheet", 7 + more + counted),
        ("download", 7 + more),
    ):
        address = of_passage(name, passage)
        with django_assert_num_queries(queries):
            assert signed_in.get(address).status_code == 200
    assert b"1 to " in signed_in.get(reverse("passages:list") + "?page=x").content or many == 10


def test_what_a_score_brings_is_bounded(signed_in):
    data = score(bar(note()), head=f"<work><work-title>{'long ' * 100}</work-title></work>")
    post_new(signed_in, file=data, pitch_is="written")
    assert len(KeptPassage.objects.get().title) <= 200


@pytest.mark.parametrize("model", INSTRUMENTS)
def test_the_bench_takes_every_instrument_through_its_whole_range(signed_in, teacher, make_passage, model):
    shipped = instrument(model)
    notes = []
    for midi in range(shipped.written_low.midi, shipped.written_high.midi + 1):
        pitch = spell(midi)
        octave = "'" * (pitch.octave - 4) if pitch.octave >= 4 else "," * (4 - pitch.octave)
        notes.append({-1: "_", 0: "=", 1: "^"}[pitch.alter] + pitch.step + octave)
    passage = make_passage(teacher, f"L:1/8\nK:C\n{' '.join(notes)}|]", model=model)
    for name in ("bench", "sheet", "download"):
        answer = signed_in.get(of_passage(name, passage))
        assert answer.status_code == 200
    shown = signed_in.get(reverse("bench:bench", args=[passage.pk])).content.decode()
    assert shown.count('class="slot') == len(notes)


def test_the_bench_marks_just_the_notes_whose_fingering_changed(signed_in, teacher, make_passage):
    passage = make_passage(teacher, "L:1/16\nQ:1/4=132\nK:C\n(=B_B=B_B) g4|")
    address = reverse("bench:bench", args=[passage.pk])
    first = signed_in.get(address)
    assert "0 fingerings changed" in first.context["bench"].status
    assert ", changed" not in first.content.decode()
    before = opened(passage, passage.current).solution().chosen_ids
    state = services.pin(teacher, passage, passage.current, "n2", "Bb4-bis")
    after = opened(passage, state).solution().chosen_ids
    changed = [note for note, entry in after.items() if before[note] != entry]
    assert "n2" in changed
    assert "n5" not in changed
    shown = signed_in.get(address)
    assert shown.content.decode().count(", changed") == len(changed)
    words = f"{len(changed)} fingering{'s' if len(changed) > 1 else ''} changed"
    assert shown.context["bench"].status.startswith(f"Pin B♭4 in bar 1. {words}")


def test_stepping_to_another_note_does_not_draw_the_score_anew(signed_in, teacher, make_passage, monkeypatch):
    passage = make_passage(teacher)
    monkeypatch.setattr("bench.systems.engraving_of", None)
    address = reverse("bench:bench", args=[passage.pk])
    part = signed_in.get(address, {"note": "n2"}, headers={"HX-Target": "section#inspector"})
    assert part.status_code == 200
    assert part.context["bench"].note_id == "n2"
    assert 'id="score"' not in part.content.decode()


def test_words_on_the_bench_are_a_musicians(signed_in, teacher, make_passage):
    """One bar is one bar; a sounding note is spelled as the key asks; a name keeps its capitals."""
    passage = make_passage(teacher, "L:1/4\nK:Gb\nC G B c|")
    shown = signed_in.get(reverse("bench:bench", args=[passage.pk]), {"note": "n1"})
    assert "· 1 bar ♩" in words_of(shown)
    assert shown.context["bench"].inspector.sounding.startswith("sounds D3,")  # and not E double flat
    data = {"text": "K:C\nCDE|", "instrument": "b-flat-clarinet", "pitch_is": "concert"}
    preview = signed_in.post(reverse("passages:preview"), data).content.decode()
    assert "Moved to written pitch for clarinet in B-flat." in preview


def test_a_new_student_comes_with_the_passage_or_not_at_all(signed_in, teacher, make_instrument):
    owned = make_instrument(teacher)
    answer = post_new(signed_in, ABC, student_name="Odalys Fenn", instrument=f"i{owned.pk}")
    assert answer.status_code == 422
    assert "Any instrument" in words_of(answer)
    assert post_new(signed_in, "no notes", student_name="Odalys Fenn").status_code == 422
    assert not teacher.students.filter(name="Odalys Fenn").exists()
    post_new(signed_in, ABC, student_name="Odalys Fenn", instrument="oboe")
    passage = KeptPassage.objects.get()
    assert (passage.owned.student.name, passage.owned.model) == ("Odalys Fenn", "oboe")
    assert passage.owned.setups.count() == 1
