"""The Overtones view in Chromium: by keyboard, by mouse, its sounds, and what the Note view leads to."""

import re

import pytest
from playwright.sync_api import expect

pytestmark = pytest.mark.browser


@pytest.fixture
def overtones(watched, site, owned):
    watched.goto(f"{site}/overtones/?on=i{owned['alto-saxophone']}&note=Bb4")
    return watched


def heading(page):
    return page.get_by_role("heading", level=1)


def test_notes_and_partials_by_keyboard_alone(overtones):
    expect(heading(overtones)).to_contain_text("for written B♭4")
    overtones.keyboard.press("ArrowRight")
    expect(heading(overtones)).to_contain_text("for written B4")
    overtones.keyboard.press("PageUp")
    expect(heading(overtones)).to_contain_text("written B♭4")
    overtones.keyboard.press("ArrowUp")  # the partial above
    expect(overtones.locator(".ladder tr:has([aria-current]) th")).to_have_text("2")
    assert "note=Bb5" in overtones.url
    overtones.keyboard.press("n")
    overtones.keyboard.type("Bb3")
    overtones.keyboard.press("Enter")
    expect(heading(overtones)).to_contain_text("written B♭3")
    overtones.go_back()
    expect(heading(overtones)).to_contain_text("written B♭5")


def test_a_touch_pressed_changes_the_ladder(overtones):
    before = overtones.locator(".ladder").inner_text()
    overtones.locator("[data-touch='octave']").click()
    expect(heading(overtones)).to_contain_text("octave")
    expect(overtones.locator(".ladder .badge")).to_have_text("the vent favours it")
    assert overtones.locator(".ladder").inner_text() != before


def test_partials_sound_simulated(overtones):
    with overtones.expect_response(re.compile(r"/overtones/tone\.wav")) as sounded:
        overtones.locator(".ladder [data-sound]").last.click()
    assert sounded.value.status in (200, 206)
    assert sounded.value.headers["content-type"] == "audio/wav"
    expect(overtones.locator("[aria-pressed='true'][data-sound]")).to_have_count(1)
    with overtones.expect_response(re.compile(r"/overtones/tone\.wav")):
        overtones.keyboard.press("l")
    assert "/overtones/tone.wav" not in overtones.url


def test_curve_and_voicing_open_where_they_stand(overtones):
    overtones.get_by_text("Show the curve").click()
    expect(overtones.locator(".impedance")).to_be_visible()
    expect(overtones.locator(".impedance")).to_contain_text("sounding frequency, Hz")
    overtones.get_by_text("How to voice it").click()
    expect(overtones.get_by_text("Is the voicing free?")).to_be_visible()


def test_from_a_note_to_something_untried_and_kept(watched, site, owned):
    watched.goto(f"{site}/fingerings/note/?on=i{owned['alto-saxophone']}&note=G6")
    watched.get_by_role("link", name="Untried ones").click()
    watched.locator(".untried a").first.click()
    expect(watched.get_by_text("Tried: not in the chart")).to_be_visible()
    expect(watched.locator(".by-model")).to_contain_text("The model")
    watched.get_by_role("link", name="Keep as your own").click()
    expect(watched.get_by_role("heading", level=1)).to_be_visible()


def test_the_model_switched_off_on_the_note_view(watched, site, owned):
    watched.goto(f"{site}/fingerings/note/?on=i{owned['b-flat-clarinet']}&note=D6")
    expect(watched.locator(".by-model")).to_be_visible()
    watched.get_by_role("switch", name="modelled").click()
    expect(watched.locator(".by-model")).to_have_count(0)
    expect(watched.get_by_role("switch", name="modelled")).to_have_attribute("aria-checked", "false")


def test_it_reads_without_script(browser, site):
    page = browser.new_context(java_script_enabled=False).new_page()
    page.goto(f"{site}/overtones/?on=bassoon&note=F2")
    expect(page.locator(".ladder tbody tr")).not_to_have_count(0)
    page.get_by_role("link", name="A half step higher").click()
    expect(heading(page)).to_contain_text("F♯2")
    page.context.close()


def test_back_from_elsewhere_shows_the_whole_page(overtones):
    overtones.keyboard.press("ArrowRight")
    expect(heading(overtones)).to_contain_text("written B4")
    overtones.get_by_role("link", name="Passages").click()
    expect(heading(overtones)).to_have_text("Passages")
    overtones.go_back()
    expect(heading(overtones)).to_contain_text("written B4")
    expect(overtones.get_by_role("navigation", name="Main")).to_be_visible()
