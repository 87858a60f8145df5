"""The trial at the stand: from a note of the bench to a preference, by keys alone and by two pedals alone."""

import pytest
from playwright.sync_api import expect

from evidence.models import JudgementMade, Preference, ReadingsTaken

pytestmark = pytest.mark.browser


@pytest.fixture
def stand(watched, site, owned):
    """The first fingering of G6 on the demo student's alto, come to from a gap on the bench."""
    watched.goto(f"{site}/passages/")
    watched.get_by_role("heading", name="Over the Top Sluice").click()
    watched.get_by_role("link", name="Try them at the stand").click()
    watched.goto(f"{site}/fingerings/trial/?on=i{owned['alto-saxophone']}&note=G6")
    watched.keyboard.press("Enter")
    expect(asked(watched)).to_have_text("Does it speak?")
    return watched


def asked(page):
    return page.locator("#trial legend")


def test_by_keyboard_alone(stand):
    stand.keyboard.press("1")
    expect(asked(stand)).to_have_text("Where does it lie?")
    stand.keyboard.press("m")
    stand.keyboard.type("-8")
    stand.keyboard.press("Enter")
    expect(asked(stand)).to_have_text("How full is it?")
    stand.keyboard.press("4")
    expect(stand.locator("#trial")).to_contain_text("2 of 5")
    stand.keyboard.press("2")
    expect(asked(stand)).to_have_text("To what does it crack?")
    stand.keyboard.press("Backspace")
    expect(asked(stand)).to_have_text("Does it speak?")
    stand.keyboard.press("3")
    expect(stand.locator("#trial")).to_contain_text("3 of 5")
    stand.keyboard.press("s")
    expect(stand.locator("#trial")).to_contain_text("4 of 5")
    stand.keyboard.press("x")
    expect(stand.get_by_role("heading", level=1)).to_have_text("G6: what came of it")
    expect(stand.locator(".tried").first).to_contain_text("Speaks, −8 cents, full")
    stand.keyboard.press("Enter")
    expect(stand.get_by_role("button", name="Preferred")).to_have_attribute("aria-pressed", "true")
    assert [row.cents for row in ReadingsTaken.objects.filter(trial__isnull=False)] == [[-8.0]]
    assert JudgementMade.objects.filter(trial__isnull=False).count() == 2
    assert Preference.objects.filter(note_midi=91).count() == 1


def test_by_two_pedals_alone(stand):
    """One pedal goes along the choices, the other takes the one it stands on."""
    for place in range(1, 6):
        expect(stand.locator("#trial")).to_contain_text(f"{place} of 5")
        stand.keyboard.press("PageDown")
        expect(stand.get_by_role("button", name="Speaks", exact=True)).to_be_focused()
        stand.keyboard.press("PageUp")
        expect(asked(stand)).to_have_text("Where does it lie?")
        for _ in range(place):
            stand.keyboard.press("PageDown")
        stand.keyboard.press("PageUp")
        expect(asked(stand)).to_have_text("How full is it?")
        stand.keyboard.press("PageDown")
        stand.keyboard.press("PageUp")
    expect(stand.get_by_role("button", name="Keep what was heard")).to_be_visible()
    expect(stand.locator(".tried").first).to_contain_text("Speaks, in tune, thin")
    stand.keyboard.press("PageUp")
    expect(stand.locator("#trial")).to_contain_text("as judgements and readings")
    assert JudgementMade.objects.filter(trial__isnull=False).count() == 5


def test_without_script(browser, site, owned):
    page = browser.new_context(java_script_enabled=False).new_page()
    page.goto(f"{site}/fingerings/trial/?on=i{owned['alto-saxophone']}&note=G6")
    page.get_by_role("button", name="Begin").click()
    page.get_by_role("button", name="Silent").click()
    page.get_by_role("button", name="Stop and keep").click()
    expect(page.locator(".tried")).to_have_count(1)
    page.context.close()
