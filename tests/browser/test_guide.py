"""The guide's first passage, followed word for word, and the help of the views."""

import re

import pytest
from playwright.sync_api import expect

from studio import guide

pytestmark = pytest.mark.browser
STEP = re.compile(r"^\d+\. (.+?)(?=^\d+\. |\n\n)", re.MULTILINE | re.DOTALL)


def steps():
    """Of each step: what it names in bold, and what it says to type."""
    text = (guide.FOLDER / "first-passage.md").read_text("utf-8")
    return [(re.findall(r"\*\*(.+?)\*\*", s), re.findall(r"`(.+?)`", s)) for s in STEP.findall(text)]


def test_the_first_passage_in_five_minutes(watched, site):
    page = watched
    page.add_init_script("window.print = () => { document.title = 'printed'; }")
    begin, enter, choose, look, pin, speed, take_home = steps()
    page.goto(site)
    for name in begin[0]:
        page.get_by_role("link", name=name).first.click()
    (field,), lines = enter
    page.get_by_label(field).fill("\n".join(lines))
    expect(page.locator("#preview svg.staff")).to_be_visible()
    field, instrument, button = choose[0]
    page.get_by_label(field, exact=True).select_option(label=instrument)
    page.get_by_role("button", name=button).click()
    assert look == ([], [])
    expect(page.locator(".slot use")).to_have_count(8)
    page.locator(".slot").nth(2).click()
    expect(page.locator("#inspector .pitch")).to_have_text("B4")
    page.keyboard.press("ArrowRight")
    expect(page.locator("#inspector .pitch")).to_have_text("C5")
    page.locator(".candidate:not(.chosen)").first.get_by_role("button", name="Pin").click()
    expect(page.locator(".slot.pinned")).to_have_count(1)
    page.get_by_role("button", name=re.compile(f"^{pin[0][0]}")).click()
    expect(page.locator(".slot.pinned")).to_have_count(0)
    before = float(page.locator("#tempo").input_value())
    for times in (1, 2, 3):
        page.get_by_role("button", name=speed[0][0]).click()
        expect(page.locator("#tempo")).to_have_value(f"{before + 4 * times:g}")
    sheet, out = take_home[0]
    page.get_by_role("link", name=sheet).click()
    page.get_by_role("button", name=out).click()
    expect(page).to_have_title("printed")


def test_help_by_key_and_without_script(bench, browser, site):
    bench.keyboard.press("?")
    dialog = bench.get_by_role("dialog", name="Help: Bench")
    expect(dialog).to_contain_text("pin the candidate")
    bench.keyboard.press("Escape")
    expect(dialog).to_be_hidden()
    page = browser.new_context(java_script_enabled=False).new_page()
    page.goto(f"{site}/passages/")
    page.get_by_role("link", name="Help", exact=True).first.click()
    expect(page.get_by_role("heading", name="Passages", exact=True)).to_be_in_viewport()
    page.context.close()
