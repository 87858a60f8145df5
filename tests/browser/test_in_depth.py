"""The bench in depth, in the browser: lanes, links, the strip, comparison, the lesson by pedal."""

import re

import pytest
from playwright.sync_api import expect

pytestmark = pytest.mark.browser


@pytest.fixture
def suite(watched, site):
    from passages.models import KeptPassage

    passage = KeptPassage.objects.get(title__contains="Over the Top Sluice")
    watched.goto(f"{site}/passages/{passage.pk}/")
    return watched


def test_a_link_is_looked_at_by_key_and_by_press_and_stays_while_stepping(suite):
    suite.keyboard.press("ArrowRight")
    expect(suite.locator("#inspector h2")).to_contain_text("F♯4")
    suite.keyboard.press("l")
    expect(suite.locator("#inspector h2")).to_contain_text("D4 to F♯4")
    expect(suite.get_by_text("What takes time")).to_be_visible()
    suite.keyboard.press("ArrowRight")
    expect(suite.locator("#inspector h2")).to_contain_text("F♯4 to A4")
    suite.keyboard.press("Escape")
    expect(suite.locator("#inspector h2")).to_contain_text("A4 written")
    suite.locator(".between").nth(4).click(force=True)
    expect(suite.get_by_role("heading", name="What would ease it")).to_be_visible()


def test_the_strip_sets_the_tempo_and_what_changed_is_walked_through(suite):
    expect(suite.get_by_text("These fingerings hold from")).to_be_visible()
    strip = suite.locator("#tempo-range")
    strip.evaluate(
        "range => { range.value = 70; range.dispatchEvent(new Event('change', { bubbles: true })) }"
    )
    expect(suite.locator("#tempo")).to_have_value("70")
    expect(suite.locator("#changes summary")).to_contain_text("changed")
    suite.keyboard.press("c")
    first = suite.locator(".slot.selected").get_attribute("data-note")
    suite.keyboard.press("c")
    expect(suite.locator(".slot.selected")).not_to_have_attribute("data-note", first)


def test_a_way_is_taken_from_the_page_beside_and_the_bench_shows_it(suite):
    suite.keyboard.press("o")
    expect(suite.get_by_role("heading", name="Most worth a reading")).to_be_visible()
    suite.locator("[id^=near-]").first.click()
    expect(suite.locator(".slot.pinned").first).to_be_visible()
    expect(suite.locator("#changes")).to_be_visible()


def test_an_exchange_between_strands_is_taken(suite):
    suite.keyboard.press("o")
    suite.locator("[id^=hands-gains-]").first.click()
    expect(suite.locator(".slot.pinned").first).to_be_visible()
    expect(suite.locator("#changes summary")).to_contain_text("changed")


def test_versions_are_named_and_compared_and_swapped_by_key(suite):
    suite.keyboard.press("-")
    expect(suite.locator("#tempo")).to_have_value("112")
    suite.keyboard.press("m")
    suite.get_by_label("Name this version").fill("Slower")
    suite.get_by_role("button", name="Name it").click()
    expect(suite.locator("#score")).to_be_visible()
    suite.wait_for_load_state()
    suite.keyboard.press("m")
    sides = suite.locator("thead th a")
    suite.wait_for_load_state()
    expect(sides.first).to_have_text("Slower")
    suite.keyboard.press("a")
    expect(sides.nth(1)).to_have_text("Slower")


def test_the_lesson_goes_by_pedal_and_in_tempo(suite):
    suite.keyboard.press("s")
    note = suite.locator("#lesson-note")
    expect(note).to_have_text("D4")
    suite.keyboard.press("PageDown")
    expect(note).to_have_text("F♯4")
    suite.keyboard.press("PageUp")
    expect(note).to_have_text("D4")
    suite.keyboard.press("t")
    expect(suite.get_by_role("button", name="Stop")).to_be_visible()
    expect(note).not_to_have_text("D4")
    suite.keyboard.press("t")
    expect(suite.get_by_role("button", name="In tempo")).to_be_visible()


def test_moved_music_is_adopted_as_a_new_passage(suite):
    suite.keyboard.press("w")
    suite.get_by_role("button", name="Adopt").first.click()
    expect(suite.get_by_role("heading", level=1)).to_have_text(re.compile("half step|octave"))


def test_the_strip_on_the_page_of_other_ways_sets_the_tempo_too(suite):
    suite.keyboard.press("o")
    suite.locator("#tempo-range").fill("80")
    expect(suite.locator("#tempo")).to_have_value("80")


def test_an_ossia_is_kept_by_keys_and_stands_above_the_music(suite):
    suite.keyboard.press("i")
    suite.get_by_label("Highest note to play").select_option(label="E6")
    suite.get_by_role("button", name="Look").click()
    expect(suite.get_by_role("heading", name="Bars 17 to 20")).to_be_visible()
    suite.locator("#keep-4-1").focus()
    suite.keyboard.press("Enter")
    expect(suite.locator("[data-note^='ossia-']").first).to_be_visible()
    suite.wait_for_load_state()
    suite.keyboard.press("u")
    expect(suite.locator("[data-note^='ossia-']")).to_have_count(0)


def test_of_a_long_score_only_what_is_near_stands_in_the_document(watched, site):
    watched.goto(f"{site}/passages/new/")
    watched.get_by_label("Or type it in ABC").fill("L:1/4\nK:G\n" + "G A B c | d c B A |\n" * 100)
    watched.get_by_role("button", name="Open on the bench").click()
    expect(watched.locator("#inspector h2")).to_contain_text("G4")
    lines = watched.locator("[data-line]")
    whole = lines.count()
    assert whole > 40

    def here():
        return lines.evaluate_all("all => all.filter(line => line.childElementCount).length")

    assert here() < whole / 3
    watched.keyboard.press("End")
    expect(watched.locator(".slot.selected")).to_be_in_viewport()
    expect(watched.locator("#inspector h2")).to_contain_text("A4 written · Bar 200")
    expect(lines.first.locator(".slot")).to_have_count(0)
    watched.keyboard.press("ArrowLeft")
    expect(watched.locator("#inspector h2")).to_contain_text("B4")
    expect(watched.locator(".slot.selected")).to_have_count(1)
    watched.keyboard.press("-")
    expect(watched.locator("#tempo")).to_have_value("92")
    expect(watched.locator(".slot.selected")).to_be_in_viewport()
    lines.nth(whole // 2).evaluate("line => line.scrollIntoView()")
    lines.nth(whole // 2).locator(".slot").first.click()
    expect(watched.locator(".slot.selected")).to_have_count(1)
    assert here() < whole / 3


def test_two_versions_are_seen_by_turns_with_one_key(suite):
    suite.keyboard.press("-")
    expect(suite.locator("#tempo")).to_have_value("112")
    suite.keyboard.press("ArrowRight")
    expect(suite.locator("#inspector h2")).to_contain_text("F♯4")
    for tempo in ("116", "112", "116"):
        suite.keyboard.press("a")
        expect(suite.locator("#tempo")).to_have_value(tempo)
        expect(suite.locator("#inspector h2")).to_contain_text("F♯4")


def test_a_key_pressed_before_the_page_is_taken_hold_of_waits(watched, site):
    """What scripts put off for after the page is kept back, as a busy machine may."""
    from passages.models import KeptPassage

    watched.add_init_script(
        "const soon = window.setTimeout;"
        "window.setTimeout = (act, after, ...rest) => soon(act, after || 1500, ...rest);"
    )
    watched.goto(f"{site}/passages/{KeptPassage.objects.get(title__contains='Over the Top Sluice').pk}/")
    watched.evaluate("window.same = true")
    watched.keyboard.press("-")
    watched.keyboard.press("ArrowRight")
    expect(watched.locator("#inspector h2")).to_contain_text("F♯4")
    expect(watched.locator("#tempo")).to_have_value("112")
    assert watched.evaluate("window.same"), "the page was loaded anew, and what was pressed meanwhile lost"


def test_the_note_a_step_leads_to_is_there_before_it_is_asked_for(suite):
    asked = []
    suite.on("request", lambda request: asked.append(request.url))
    with suite.expect_response(lambda answer: "note=n3" in answer.url):
        suite.keyboard.press("ArrowRight")
    suite.keyboard.press("ArrowRight")
    with suite.expect_response(lambda answer: "note=n4" in answer.url):
        expect(suite.locator("#inspector h2")).to_contain_text("A4")
    assert [sum(f"note={note}" in url for url in asked) for note in ("n2", "n3", "n4")] == [1, 1, 1]
