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
