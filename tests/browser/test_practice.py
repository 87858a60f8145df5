"""Count mode in the browser, by two pedals, with the connection lost in the middle."""

import pytest
from django.utils import timezone
from playwright.sync_api import expect

pytestmark = [pytest.mark.browser, pytest.mark.django_db(transaction=True)]


def test_twenty_attempts_by_pedal_outlive_a_lost_connection(page, site, owned):
    from evidence.models import AttemptMade

    key = owned["alto-saxophone"]
    page.goto(f"{site}/practice/count/?on=i{key}&note=G6")
    for number in range(8):
        page.keyboard.press("ArrowRight" if number % 2 == 0 else "ArrowLeft")
        expect(page.locator("#counted")).to_contain_text(f"of {number + 1} clean")
    page.context.set_offline(True)
    for _ in range(6):
        page.keyboard.press("PageDown")
    expect(page.locator("#waiting")).to_contain_text("6 not sent yet")
    page.context.set_offline(False)
    expect(page.locator("#counted")).to_contain_text("10 of 14 clean")
    expect(page.locator("#waiting")).to_be_empty()
    for _ in range(6):
        page.keyboard.press("PageUp")
    expect(page.locator("#counted")).to_contain_text("10 of 20 clean")
    assert AttemptMade.objects.count() == 20
    page.keyboard.press("u")
    expect(page.locator("#counted")).to_contain_text("10 of 19 clean")
    page.keyboard.press("r")
    expect(page.get_by_role("heading", name="Reach of")).to_be_visible()
    expect(page.locator("tr", has_text="G6")).to_contain_text("10 of 19")


def test_attempts_outlive_the_page_that_took_them(page, site, owned):
    from evidence.models import AttemptMade

    key = owned["alto-saxophone"]
    page.goto(f"{site}/practice/count/?on=i{key}&note=G6")
    expect(page.locator("#counted")).to_be_visible()
    page.route("**/practice/log/", lambda route: route.abort())
    page.keyboard.press("1")
    page.keyboard.press("3")
    expect(page.locator("#waiting")).to_contain_text("2 not sent yet")
    page.unroute("**/practice/log/")
    page.goto(f"{site}/practice/count/?on=i{key}&note=A6")
    expect(page.locator("#waiting")).to_be_empty()
    today = AttemptMade.objects.filter(note_midi=91, made__date=timezone.localdate())
    assert today.count() == 2


def test_the_metronome_counts_in_goes_on_and_stops(watched, site, owned):
    watched.goto(f"{site}/practice/count/?on=i{owned['alto-saxophone']}&note=G6")
    watched.get_by_label("♩ =").fill("240")
    watched.get_by_label("Divided").select_option(label="in two")
    watched.get_by_label("♩ =").press("Escape")
    watched.keyboard.press("m")
    expect(watched.locator("#metronome-word")).to_contain_text("Count in")
    expect(watched.locator("#metronome-word")).to_have_text("Play")
    expect(watched.locator("#metronome-light.bg-accent")).to_be_visible()
    watched.keyboard.press("1")
    expect(watched.locator("#counted")).to_contain_text("1 of 1")
    expect(watched.locator("#metronome-word")).to_have_text("Play")
    watched.keyboard.press("m")
    expect(watched.locator("#metronome-word")).to_be_empty()
