"""The bench by keyboard and by mouse, as a teacher uses it."""

import re

import pytest
from playwright.sync_api import expect
from tests.browser.conftest import BENCH_URL

from core_shapes import DATA

pytestmark = pytest.mark.browser
SCORE = DATA / "demo" / "over-the-top-sluice.musicxml"


def pitch(page):
    return page.locator("#inspector .pitch")


def tab_to(page, name, limit=40):
    """Walk with the Tab key until an element of this name has the focus."""
    for _ in range(limit):
        page.keyboard.press("Tab")
        said = page.evaluate(
            "() => { const e = document.activeElement;"
            " if (e.matches('body, main')) return '';"  # a page just opened; its text holds every name
            " return e.ariaLabel || e.labels?.[0]?.textContent || e.textContent || ''; }"
        )
        if name in said:
            return
    raise AssertionError(f"{name!r} was not reached with the Tab key")


def test_from_an_uploaded_file_to_a_printed_sheet_by_keyboard_alone(watched, site):
    page = watched
    page.add_init_script("window.print = () => { document.title = 'printed'; }")
    # Listened for from the start: told only at the press, the browser may be too late to pass it on.
    page.on("filechooser", lambda chooser: chooser.set_files(SCORE))
    page.goto(f"{site}/passages/")
    tab_to(page, "New passage")
    page.keyboard.press("Enter")
    page.wait_for_url("**/passages/new/")
    tab_to(page, "Scores")
    page.keyboard.press("Enter")
    expect(page.locator("#preview h2")).to_contain_text("Over the Top Sluice")
    tab_to(page, "Instrument")
    page.keyboard.type("Tamsin")
    tab_to(page, "Title")
    page.keyboard.type("By keyboard")
    tab_to(page, "Open on the bench")
    page.keyboard.press("Enter")
    expect(page.locator("h1")).to_have_text("By keyboard")
    expect(pitch(page)).to_have_text("D4")
    page.wait_for_url(BENCH_URL)

    for _ in range(20):  # to the first B-flat, by a page-turn pedal
        page.keyboard.press("PageDown")
    expect(pitch(page)).to_have_text("B♭4")
    before = page.locator(".candidate.chosen .touches").inner_text()
    page.keyboard.press("ArrowDown")
    expect(page.locator(".candidate.tried:not(.chosen)")).to_be_visible()
    tried = page.locator(".candidate.tried .touches").inner_text()
    assert tried != before
    page.keyboard.press("Enter")
    expect(page.locator(".candidate.chosen .touches")).to_have_text(tried)
    expect(page.locator(".slot.selected.pinned")).to_have_count(1)

    page.keyboard.press("p")
    expect(page.locator("article h1")).to_have_text("By keyboard")
    pinned = page.locator("article use[href^='#f-']").nth(20)
    expect(pinned).to_have_attribute("href", re.compile("^#f-Bb4-"))
    tab_to(page, "Print")
    page.keyboard.press("Enter")
    expect(page).to_have_title("printed")
    assert page.pdf(format="A4").startswith(b"%PDF")


def test_speed_visibly_changes_the_fingerings_and_undo_brings_them_back(bench):
    def chosen():
        return bench.locator(".slot use").evaluate_all("all => all.map(u => u.getAttribute('href'))")

    first = chosen()
    bench.locator("#tempo").fill("60")
    bench.keyboard.press("Enter")
    expect(bench.locator(".slot.changed").first).to_be_visible()
    slow = chosen()
    assert sum(a != b for a, b in zip(first, slow, strict=True)) >= 3
    expect(bench.locator(".slot.changed")).to_have_count(
        sum(a != b for a, b in zip(first, slow, strict=True))
    )
    bench.get_by_role("button", name=re.compile("^Undo")).click()
    expect(bench.locator("#tempo")).to_have_value("116")
    assert chosen() == first
    bench.get_by_role("button", name="Redo").click()
    expect(bench.locator("#tempo")).to_have_value("60")


def test_no_press_is_lost_while_an_answer_is_under_way(bench):
    for key in ["ArrowRight"] * 4 + ["ArrowDown", "Enter", "PageDown", "PageUp", "+"]:
        bench.keyboard.press(key)
    expect(bench.locator("#tempo")).to_have_value("120")
    expect(pitch(bench)).to_have_text("C♯5")
    expect(bench.locator(".slot.selected.pinned")).to_have_count(1)


def test_the_candidate_tried_is_not_covered_by_the_head_of_the_inspector(bench):
    bench.locator(".slot").nth(32).click()
    expect(bench.locator(".slot").nth(32)).to_have_class(re.compile("selected"))
    bench.keyboard.press("Enter")
    expect(bench.locator(".badge:text('pinned')")).to_be_visible()
    rows = bench.locator(".candidate")
    start = rows.evaluate_all("rows => rows.findIndex(row => row.matches('.tried'))")
    for step in (1, 2, 3):
        bench.keyboard.press("ArrowDown")
        expect(rows.nth(start + step)).to_have_class(re.compile("tried"))
        below = bench.evaluate(
            "() => document.querySelector('.candidate.tried').getBoundingClientRect().top"
            " - document.querySelector('#note-top').getBoundingClientRect().bottom"
        )
        assert below >= 0


def test_back_and_reload_return_to_the_same_view(bench):
    bench.locator(".slot").nth(30).click()
    expect(bench).to_have_url(re.compile("note=n"))
    expect(pitch(bench)).not_to_have_text("D4")  # the address is there at once, what is said follows
    there = pitch(bench).inner_text()
    bench.get_by_role("button", name="Pin").first.click()
    expect(bench.locator(".badge:text('pinned')")).to_be_visible()
    bench.locator(".slot").nth(40).click()
    expect(bench.locator(".slot").nth(40)).to_have_class(re.compile("selected"))
    bench.go_back()
    expect(bench.locator(".slot").nth(30)).to_have_class(re.compile("selected"))
    expect(pitch(bench)).to_have_text(there)
    bench.reload()
    expect(pitch(bench)).to_have_text(there)
    expect(bench.locator(".badge:text('pinned')")).to_be_visible()
    bench.go_back()
    expect(bench.locator(".badge:text('pinned')")).to_have_count(0)


def test_a_link_to_a_note_shows_it(watched, site):
    from passages.models import KeptPassage

    passage = KeptPassage.objects.get(title__contains="Over the Top Sluice")
    watched.goto(f"{site}/passages/{passage.pk}/?note=n116")
    expect(watched.locator(".slot.selected")).to_be_in_viewport()
    expect(pitch(watched)).to_have_text("G6")
    expect(watched.locator(".candidate.chosen .touches")).to_be_in_viewport()


def test_keys_help_and_the_ends(bench):
    bench.keyboard.press("?")
    expect(bench.get_by_role("dialog")).to_be_visible()
    bench.keyboard.press("Escape")
    bench.keyboard.press("End")
    expect(pitch(bench)).to_have_text("D5")
    expect(bench.get_by_role("heading", name="Bar 20, beat 1")).to_be_visible()
    bench.keyboard.press("Home")
    expect(pitch(bench)).to_have_text("D4")
    bench.keyboard.press("ArrowLeft")
    expect(pitch(bench)).to_have_text("D4")


def test_leave_out_and_tempo_by_key(bench):
    for _ in range(4):
        bench.keyboard.press("ArrowRight")
    expect(pitch(bench)).to_have_text("C♯5")
    left_out = bench.locator(".candidate.chosen .touches").inner_text()
    bench.keyboard.press("x")
    expect(bench.locator(".candidate.banned .touches")).to_have_text(left_out)
    expect(bench.locator(".candidate.chosen .touches")).not_to_have_text(left_out)
    bench.keyboard.press("+")
    expect(bench.locator("#tempo")).to_have_value("120")
    bench.keyboard.press("u")
    expect(bench.locator("#tempo")).to_have_value("116")


def test_the_set_up_applied_stays_at_the_note_looked_at(bench):
    bench.keyboard.press("ArrowRight")
    bench.keyboard.press("ArrowRight")
    note = bench.locator(".slot").nth(2).get_attribute("data-note")
    bench.locator("#whole summary").click()
    bench.get_by_label("Hands", exact=True).fill("2")
    bench.get_by_role("button", name="Apply").click()
    expect(bench).to_have_url(re.compile(f"state=2&note={note}$"))


def test_a_bad_tempo_is_refused_where_it_was_typed(page, site):
    page.goto(f"{site}/passages/")
    page.get_by_role("heading", name="Over the Top Sluice").click()
    page.wait_for_url(BENCH_URL)
    page.locator("#tempo").fill("9999")
    with page.expect_response(lambda answer: answer.status == 422):
        page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("at most 400")
    expect(page.locator("#tempo")).to_have_value("9999")


def test_typing_abc_shows_what_is_read_and_what_is_wrong(watched, site):
    watched.goto(f"{site}/passages/new/")
    watched.get_by_label("Or type it in ABC").fill("T:Typed\nK:G\nG2 F# z2")
    expect(watched.locator("#preview")).to_contain_text("Bar 1, beat 2: “F#” is not how ABC writes a note")
    watched.get_by_label("Or type it in ABC").fill("T:Typed\nK:G\nG2 B2 z2")
    expect(watched.locator("#preview svg.staff")).to_be_visible()
    watched.get_by_role("button", name="Open on the bench").click()
    expect(watched.locator(".slot")).to_have_count(2)


def test_every_step_works_without_script(browser, site):
    page = browser.new_context(java_script_enabled=False).new_page()
    page.goto(f"{site}/passages/")
    page.get_by_role("heading", name="Over the Top Sluice").click()
    page.locator(".slot").nth(20).click()
    expect(pitch(page)).to_have_text("B♭4")
    page.locator(".candidate:not(.chosen)").first.get_by_role("button", name="Pin").click()
    expect(page.locator(".badge:text('pinned')")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Undo")).click()
    expect(page.locator(".badge:text('pinned')")).to_have_count(0)
    page.goto(f"{site}/passages/new/")
    page.get_by_label("Or type it in ABC").fill("K:C\nC D")
    page.get_by_role("button", name="Open on the bench").click()
    expect(page.locator(".slot")).to_have_count(2)
