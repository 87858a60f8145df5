"""The views of fingerings by mouse and by keyboard: one note, a chart audited, a bassoon on the bench."""

import re

import pytest
from playwright.sync_api import expect
from tests.browser.conftest import BENCH_URL

pytestmark = pytest.mark.browser
CHART = (
    "note,touches\n"
    "Bb4,1 bis\n"  # agrees
    "Bb4,1 4 5\n"  # in no chart, but the keywork agrees
    "G6,octave 1 3 | side Bb\n"
    "G4,1 2\n"  # sounds A4
    "F#6,octave palm D palm Eb palm F | side E high F#\n"  # not fitted on this instrument
    "A4,1 2 zither key\n"
)


@pytest.fixture
def note(watched, site, owned):
    """The Note view of A6 on the demo alto, its script ready."""
    watched.goto(f"{site}/fingerings/note/?on=i{owned['alto-saxophone']}&note=A6")
    return watched


def closely(page):
    return page.get_by_label("Looked at closely")


def heading(page):
    return closely(page).get_by_role("heading", level=2)


def test_a_touch_pressed_says_what_the_keywork_says_and_is_kept_as_own(note):
    note.get_by_label("Another note").fill("Bb4")
    note.keyboard.press("Enter")
    expect(note.get_by_role("heading", level=1)).to_contain_text("B♭4 or A♯4")
    note.wait_for_load_state("load")
    note.locator("[data-row]", has_text="1, bis").click()
    expect(heading(note)).to_contain_text("1, bis")
    note.locator('[data-touch="bis"]').click()
    expect(heading(note)).to_contain_text("1")
    expect(closely(note).locator(".says")).to_contain_text("Plain, it sounds written B4.")
    expect(closely(note).locator(".says")).to_contain_text("By the keywork it sounds written B4, not B♭4.")
    note.locator('[data-touch="R1"]').click()
    note.locator('[data-touch="R2"]').click()
    expect(heading(note)).to_contain_text("Tried: not in the chart")
    expect(closely(note).locator(".says")).to_contain_text("Plain, it sounds written B♭4.")
    closely(note).get_by_role("link", name="Keep as your own").click()
    expect(note.get_by_label("Touches")).to_have_value("1 · 1 2")
    note.get_by_label("Good for").fill("a darker colour")
    note.get_by_role("button", name="Keep").click()
    expect(note.get_by_role("status").first).to_contain_text("Kept as a fingering of your own.")
    expect(note.locator(".note-card:has([aria-current])")).to_contain_text("a darker colour")
    expect(note.locator(".note-card:has([aria-current]) .badge")).to_have_text("own")


def test_a_touch_held_down_while_the_page_changes_is_not_lost(note):
    box = note.locator('[data-touch="R2"]').bounding_box()
    note.locator('[data-touch="R1"]').click(no_wait_after=True)
    note.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    note.mouse.down()
    note.wait_for_timeout(400)  # as long as a finger rests; the answer is there by then
    note.mouse.up()
    expect(heading(note)).to_contain_text("· 1 2")


def test_judge_measure_and_prefer_by_keyboard_alone(note):
    note.keyboard.press("ArrowDown")
    second = note.locator(".note-card").nth(1)
    expect(second.locator("[aria-current]")).to_have_count(1)
    touches = second.locator(".touches").inner_text()
    assert touches.endswith("· 1 2 3")

    note.keyboard.press("j")
    note.keyboard.press("Space")  # very flat, then along to sharp
    for _ in range(3):
        note.keyboard.press("ArrowRight")
    for _ in range(5):  # over tone, colour, speaks and hands to the remark
        note.keyboard.press("Tab")
    note.keyboard.type("lip it down")
    note.keyboard.press("Enter")
    expect(closely(note).locator(".log")).to_contain_text("sharp “lip it down”")

    before = closely(note).locator(".log li").count()
    note.keyboard.press("Escape")
    note.locator("body").press("m")
    note.keyboard.type("12 -8 5")
    note.keyboard.press("Enter")
    expect(closely(note).locator(".log li")).to_have_count(before + 1)
    expect(closely(note).locator(".log")).to_contain_text("12, -8, 5 cents")
    expect(note.locator(".note-card:has([aria-current]) .strands title")).to_contain_text("3 readings")

    note.evaluate("document.activeElement.blur()")
    note.keyboard.press("Enter")
    expect(closely(note).get_by_role("button", name="Preferred here")).to_be_visible()
    first = note.locator(".note-card").first  # what is preferred stands first
    expect(first).to_contain_text("preferred")
    expect(first.locator(".touches")).to_have_text(touches)
    note.reload()
    expect(note.locator(".note-card").first).to_contain_text("preferred")


def test_a_lead_stands_apart_until_it_is_preferred(note):
    note.get_by_label("Another note").fill("C7")
    note.keyboard.press("Enter")
    expect(note.get_by_role("heading", level=1)).to_contain_text("C7")
    note.wait_for_load_state("load")
    leads = note.get_by_role("heading", name="Leads: try these").locator("xpath=following-sibling::ul[1]/li")
    touches = leads.first.locator(".touches").inner_text()
    expect(leads.first).to_contain_text("lead")
    leads.first.locator("[data-row]").click()
    expect(heading(note)).to_contain_text(touches)
    closely(note).get_by_role("button", name="Prefer here").click()
    expect(closely(note).get_by_role("button", name="Preferred here")).to_be_visible()
    closely(note).get_by_role("link", name="Untried ones").click()
    expect(note.get_by_role("heading", level=1)).to_contain_text("Untried")
    note.get_by_role("link", name="Vary this one").first.click()
    expect(note.get_by_role("heading", level=1)).to_contain_text("Untried")
    expect(note.get_by_text("One touch around")).to_be_visible()


def test_readings_that_are_none_are_refused_and_kept_in_their_field(page, site, owned):
    page.goto(f"{site}/fingerings/note/?on=i{owned['alto-saxophone']}&note=A6")
    page.get_by_label("Tuner, cents").fill("12 flat")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("flat")
    expect(page.get_by_label("Tuner, cents")).to_have_value("12 flat")


def test_steps_switches_back_and_reload_return_to_the_same_view(note):
    name = note.get_by_role("heading", level=1)
    note.keyboard.press("PageDown")
    expect(name).to_contain_text("B♭6 or A♯6")
    note.keyboard.press("ArrowLeft")
    expect(name).to_contain_text("A6")
    measured = note.get_by_role("switch", name="measured")
    title = note.locator(".note-card:has([aria-current]) .strands title")
    expect(title).to_contain_text("5 readings")
    measured.click()
    expect(measured).to_have_attribute("aria-checked", "false")
    expect(title).not_to_contain_text("readings")
    note.reload()
    expect(measured).to_have_attribute("aria-checked", "false")
    note.go_back()
    expect(measured).to_have_attribute("aria-checked", "true")
    note.go_back()
    expect(name).to_contain_text("B♭6")


def test_what_is_not_fitted_says_so(watched, site, owned):
    watched.goto(f"{site}/fingerings/note/?on=i{owned['alto-saxophone']}&note=F%236")
    lacking = watched.locator(".note-card", has_text="Not offered").first
    expect(lacking).to_contain_text("Not offered: needs high F-sharp, not fitted")


def test_a_chart_is_audited_and_the_chosen_rows_are_taken_over(watched, site, owned):
    page = watched
    page.goto(f"{site}/fingerings/")
    page.get_by_label("Instrument", exact=True).select_option(f"i{owned['alto-saxophone']}")
    expect(page.locator("#counted")).to_contain_text("band alto 2 lacks high F-sharp")
    page.get_by_role("link", name="Audit a chart").click()
    page.get_by_label(re.compile("A fingering chart")).set_input_files(
        {"name": "chart.csv", "mimeType": "text/csv", "buffer": CHART.encode()}
    )
    page.get_by_role("button", name="Audit").click()
    rows = page.locator(".report tbody tr")
    expect(rows).to_have_count(len(CHART.splitlines()) - 1)
    found = [row.locator("td").nth(3).inner_text() for row in rows.all()]
    assert found[0] == "agrees"
    assert found[1].startswith("differs")
    assert found[3] == "contradicted by the keywork"
    assert found[4] == "needs what is not fitted"
    assert found[5] == "unknown touch"
    expect(rows.nth(3)).to_contain_text("A4")
    expect(rows.nth(5)).to_contain_text("zither")
    expect(page.get_by_text("The chart stops short of the range above: G6", exact=False)).to_have_count(0)
    assert rows.nth(5).get_by_role("checkbox").count() == 0
    rows.nth(1).get_by_role("checkbox").check()
    page.get_by_role("button", name=re.compile("^Take the chosen rows")).click()
    expect(page.get_by_role("status")).to_contain_text("1 taken over")
    expect(page.locator(".tile")).to_have_count(1)
    expect(page.locator(".tile .touches")).to_have_text("1 · 1 2")
    with page.expect_download() as taken:
        page.get_by_role("link", name="Own fingerings as CSV").click()
    assert "L1 | R1 R2" in taken.value.path().read_text("utf-8")


def test_a_bassoon_on_the_bench_with_its_clefs_and_vents(watched, site):
    page = watched
    page.goto(f"{site}/passages/")
    page.get_by_role("heading", name="Below the Lock").click()
    page.wait_for_url(BENCH_URL)
    clefs = page.locator("#score svg .clef use").evaluate_all("all => all.map(u => u.getAttribute('href'))")
    assert len({name.split("-")[0] for name in clefs}) >= 2, "bass and tenor clef"
    expect(page.locator("#inspector .pitch")).to_have_text("F2")
    flicked = page.locator(".slot", has=page.locator("use[href*='-flick-']")).first
    flicked.click()
    expect(flicked).to_have_class(re.compile("selected"))
    expect(page.locator(".candidate.chosen .kind")).to_have_text("vented")
    expect(page.locator("#inspector .move").first).to_contain_text("flicks")
    plain = page.locator(".candidate", has=page.locator(".kind", has_text=re.compile("^standard$"))).first
    plain.get_by_role("button", name=re.compile("^Pin")).click()
    expect(page.locator(".candidate.chosen .badge:text('pinned')")).to_be_visible()
    expect(page.locator(".candidate.chosen .kind")).to_have_text("standard")
    page.keyboard.press("u")
    expect(page.locator(".candidate.chosen .kind")).to_have_text("vented")
    pitch = page.locator("#inspector .pitch").inner_text()
    page.get_by_role("link", name=f"{pitch} closely").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text(pitch)
    expect(closely(page)).to_contain_text("Bram Tolliver")


def test_a_note_is_judged_and_tried_without_script(browser, site, owned):
    page = browser.new_context(java_script_enabled=False).new_page()
    page.goto(f"{site}/fingerings/?on=oboe")
    page.get_by_label("Instrument", exact=True).select_option(f"i{owned['oboe']}")
    page.get_by_role("button", name="Show").click()
    page.get_by_label("Note", exact=True).fill("F4")
    page.get_by_role("button", name="Find").click()
    page.locator(".tile").first.click()
    page.get_by_label("needs care", exact=True).check()
    page.get_by_role("button", name="Judge").click()
    expect(closely(page).locator(".log li").first).to_contain_text("speaks: needs care")
    page.locator('[data-touch="Eb"]').click()
    expect(heading(page)).to_contain_text("right E♭")
