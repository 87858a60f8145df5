"""New passages in the browser: scores of other programs, with what of them is wanted chosen on the spot."""

import re
from pathlib import Path

from playwright.sync_api import expect

SCORES = Path(__file__).parents[1] / "scores"
BENCH_URL = re.compile(r"/passages/\d+/(\?|$)")


def bring_in(page, site, name, instrument):
    page.goto(f"{site}/passages/new/")
    page.get_by_label("Instrument").select_option(label=instrument)
    page.locator("input[type=file]").set_input_files(SCORES / name)


def test_a_score_of_two_parts_with_chords_to_a_solved_bench(watched, site):
    bring_in(watched, site, "two-parts-with-chords.musicxml", "Oboe")
    preview = watched.locator("#preview")
    expect(preview.get_by_label("Part", exact=True)).to_have_value("P1")
    expect(preview).to_contain_text("all but the highest note: bar 1, beat 1; bar 1, beat 4.")
    preview.get_by_label("Of chords").select_option("lowest")
    expect(preview).to_contain_text("written A4 to G5")
    watched.get_by_role("button", name="Open on the bench").click()
    watched.wait_for_url(BENCH_URL)
    expect(watched.locator(".slot")).to_have_count(5)
    expect(watched.locator(".slot .gap, .slot.gap")).to_have_count(0)
    expect(watched.locator(".candidate.chosen")).to_have_count(1)


def test_a_midi_file_to_a_solved_bench(watched, site):
    bring_in(watched, site, "played-in.mid", "Alto saxophone")
    preview = watched.locator("#preview")
    expect(preview).to_contain_text("5 notes")
    preview.get_by_label("Part", exact=True).select_option("2.1")
    expect(preview).to_contain_text("1 note ")
    preview.get_by_label("Part", exact=True).select_option("1.0")
    expect(preview).to_contain_text("5 notes")
    preview.get_by_label("Shortest notes").select_option("2")
    expect(preview.locator("svg.staff").first).to_be_visible()
    watched.get_by_role("button", name="Open on the bench").click()
    watched.wait_for_url(BENCH_URL)
    expect(watched.locator(".slot")).to_have_count(5)
    expect(watched.locator("#tempo")).to_have_value("104")


def test_what_a_score_does_not_say_is_asked_on_the_spot(watched, site):
    bring_in(watched, site, "no-transpose.musicxml", "Alto saxophone")
    preview = watched.locator("#preview")
    expect(preview).to_contain_text("does not say whether it is written for the instrument")
    preview.get_by_label("Concert pitch, as it sounds").check()
    expect(preview).to_contain_text("written A5 to D6")
    watched.get_by_role("button", name="Open on the bench").click()
    watched.wait_for_url(BENCH_URL)
    expect(watched.locator("#note-top .pitch")).to_have_text("A5")


def test_a_file_dropped_on_the_page_is_read(watched, site):
    watched.goto(f"{site}/passages/new/")
    watched.evaluate(
        """() => {
          const transfer = new DataTransfer();
          transfer.items.add(new File(["T:Dropped\\nK:G\\nG2 B2|"], "dropped.abc"));
          const drop = new DragEvent("drop", { dataTransfer: transfer, bubbles: true, cancelable: true });
          document.querySelector("form[enctype]").dispatchEvent(drop);
        }"""
    )
    expect(watched.locator("#preview h2")).to_have_text("Dropped")


def draft(page):
    text = page.locator("input[name=draft]").input_value()
    return " ".join(text.split("K:")[1].split("\n", 1)[1].split())


def enter(page, site):
    page.goto(f"{site}/passages/enter/")
    page.get_by_label("Instrument").select_option(label="Alto saxophone")
    expect(page.locator("#on")).to_have_value("alto-saxophone")


def test_eight_bars_are_entered_by_keyboard_alone(watched, site):
    enter(watched, site)
    for bar in range(8):
        for key in ("3", "d", "4", "e", "f", "ArrowUp", "3", "g", "r"):
            watched.keyboard.press(key)
        expect(watched.locator("#entry")).to_contain_text(f"{bar + 1} bar")
    expect(watched.locator("#entry")).to_contain_text("8 bars · 32 notes")
    assert draft(watched).startswith("d e/2 ^f/2 g z |")
    watched.keyboard.press("Backspace")
    watched.keyboard.press("u")
    expect(watched.locator("#entry")).to_contain_text("8 bars · 32 notes")
    watched.locator("#open").focus()
    watched.keyboard.press("Enter")
    watched.wait_for_url(BENCH_URL)
    expect(watched.locator(".slot")).to_have_count(32)


def test_eight_bars_are_entered_by_tapping(watched, site):
    enter(watched, site)
    watched.get_by_role("button", name="Whole", exact=True).click()
    for count, note in enumerate(("D4", "E4", "F4", "G4", "A4", "B4", "C5", "D5"), start=1):
        watched.get_by_role("button", name=note, exact=True).last.click()
        expect(watched.locator("#entry")).to_contain_text(f"{count} note")
    expect(watched.locator("#entry")).to_contain_text("8 bars · 8 notes")
    watched.get_by_role("button", name="F4, 4 quarters").click()
    watched.get_by_role("button", name="Sharper").click()
    expect(watched.locator("#entry-status")).to_have_text("F♯4, 4 quarters")
    watched.get_by_role("button", name="Open on the bench").click()
    watched.wait_for_url(BENCH_URL)
    expect(watched.locator(".slot")).to_have_count(8)


def test_a_key_of_a_midi_keyboard_is_a_note_entered(watched, site):
    watched.add_init_script(
        """
        const input = {};
        window.playKey = (key) => input.onmidimessage({ data: [0x90, key, 80] });
        navigator.requestMIDIAccess = async () => ({ inputs: new Map([["one", input]]) });
        """
    )
    enter(watched, site)
    watched.get_by_role("button", name="MIDI keyboard").click()
    expect(watched.get_by_role("button", name="MIDI keyboard: on")).to_be_visible()
    for count, key in enumerate((62, 64, 66), start=1):
        watched.evaluate("key => playKey(key)", key)
        expect(watched.locator("#entry")).to_contain_text(f"{count} note")
    assert draft(watched) == "D E ^F |]"


def test_notes_are_entered_without_script(browser, site):
    page = browser.new_context(java_script_enabled=False).new_page()
    page.goto(f"{site}/passages/enter/?on=oboe")
    page.get_by_label("Or by name").fill("D4 E4 F#4")
    page.get_by_role("button", name="Enter them").click()
    expect(page.locator("#entry")).to_contain_text("1 bar · 3 notes")
    page.get_by_role("button", name="Open on the bench").click()
    page.wait_for_url(BENCH_URL)
    expect(page.locator(".slot")).to_have_count(3)


def test_a_note_is_changed_and_the_pins_of_the_others_stay(bench):
    bench.locator(".slot").nth(20).click()
    expect(bench.locator("#note-top .pitch")).to_have_text("B♭4")
    bench.keyboard.press("Enter")
    expect(bench.locator(".slot.selected.pinned")).to_have_count(1)
    bench.get_by_role("link", name="Change the notes").click()
    bench.wait_for_url(re.compile("/notes/"))
    expect(bench.locator("h1")).to_contain_text("Over the Top Sluice: the notes")
    first = bench.locator("#entry-status").inner_text()
    bench.keyboard.press("ArrowUp")
    expect(bench.locator("#entry-status")).not_to_have_text(first)
    bench.keyboard.press("ArrowDown")
    expect(bench.locator("#entry-status")).to_have_text(first)
    bench.get_by_role("button", name="Keep the change").click()
    bench.wait_for_url(BENCH_URL)
    expect(bench.locator(".slot.pinned")).to_have_count(1)
    expect(bench.locator(".slot").nth(20)).to_have_class(re.compile("pinned"))


def test_a_new_student_has_a_first_passage_in_five_steps(watched, site):
    watched.goto(f"{site}/passages/new/")
    watched.get_by_label("For a new student").fill("Odalys Fenn")
    watched.get_by_label("Instrument", exact=True).select_option(label="Oboe")
    watched.get_by_label("Or type it in ABC").fill("K:G\nG2 B2 d2 g2")
    watched.get_by_role("button", name="Open on the bench").click()
    expect(watched.locator(".slot")).to_have_count(4)
    expect(watched.get_by_text("Odalys Fenn, Oboe")).to_be_visible()
