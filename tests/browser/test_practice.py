"""Count mode in the browser, by two pedals, with the connection lost in the middle."""

import re

import pytest
from django.utils import timezone
from playwright.sync_api import expect

pytestmark = pytest.mark.browser


def test_twenty_attempts_by_pedal_outlive_a_lost_connection(page, site, owned):
    from evidence.models import AttemptMade

    key = owned["alto-saxophone"]
    before = AttemptMade.objects.filter(instrument=key, note_midi=91).exclude(place="stage")
    clean, total = before.filter(result="clean").count(), before.count()
    page.goto(f"{site}/practice/count/?on=i{key}&note=G6")
    for number in range(8):
        page.keyboard.press("ArrowRight" if number % 2 == 0 else "ArrowLeft")
        expect(page.locator("#counted")).to_contain_text(f"of {number + 1} clean")
    page.context.set_offline(True)
    for _ in range(6):
        page.keyboard.press("PageDown")
    expect(page.locator("#waiting")).to_contain_text("6 presses of Tamsin Reedmace not sent yet")
    page.context.set_offline(False)
    expect(page.locator("#counted")).to_contain_text("10 of 14 clean")
    expect(page.locator("#waiting")).to_be_empty()
    for _ in range(6):
        page.keyboard.press("PageUp")
    expect(page.locator("#counted")).to_contain_text("10 of 20 clean")
    assert AttemptMade.objects.filter(made__date=timezone.localdate()).count() == 20
    page.keyboard.press("u")
    expect(page.locator("#counted")).to_contain_text("10 of 19 clean")
    page.keyboard.press("r")
    expect(page.get_by_role("heading", name="Reach of")).to_be_visible()
    expect(page.locator("tr", has_text="G6")).to_contain_text(f"{clean + 10} of {total + 19}")


def test_attempts_outlive_the_page_that_took_them(page, site, owned):
    from evidence.models import AttemptMade

    key = owned["alto-saxophone"]
    page.goto(f"{site}/practice/count/?on=i{key}&note=G6")
    expect(page.locator("#counted")).to_be_visible()
    page.route("**/practice/count/presses/", lambda route: route.abort())
    page.keyboard.press("1")
    page.keyboard.press("3")
    expect(page.locator("#waiting")).to_contain_text("2 presses of")
    page.unroute("**/practice/count/presses/")
    page.goto(f"{site}/practice/count/?on=i{key}&note=A6")
    expect(page.locator("#waiting")).to_be_empty()
    today = AttemptMade.objects.filter(note_midi=91, made__date=timezone.localdate())
    assert today.count() == 2


def test_the_metronome_counts_in_goes_on_and_stops(watched, site, owned):
    watched.goto(f"{site}/practice/count/?on=i{owned['alto-saxophone']}&note=G6")
    watched.get_by_label("♩ =", exact=True).fill("240")
    watched.get_by_label("Divided").select_option(label="in two")
    watched.get_by_label("♩ =", exact=True).press("Escape")
    watched.keyboard.press("m")
    expect(watched.locator("#metronome-word")).to_contain_text("Count in")
    expect(watched.locator("#metronome-word")).to_have_text("Play")
    expect(watched.locator("#metronome-light.bg-accent")).to_be_visible()
    watched.keyboard.press("1")
    expect(watched.locator("#counted")).to_contain_text("1 of 1")
    expect(watched.locator("#metronome-word")).to_have_text("Play")
    watched.keyboard.press("m")
    expect(watched.locator("#metronome-word")).to_be_empty()


def test_from_a_plan_to_the_week_on_paper(watched, site, owned):
    watched.goto(f"{site}/")
    watched.get_by_role("link", name="Tamsin Reedmace").click()
    watched.get_by_role("link", name="Week", exact=True).click()
    watched.get_by_role("link", name="Plan", exact=True).click()
    watched.get_by_label("Minutes a day").fill("25")
    watched.get_by_label("Of these at most").fill("3")
    watched.get_by_role("button", name="Set").click()
    watched.get_by_role("link", name="Week", exact=True).click()
    expect(watched.get_by_role("heading", name="Today, 25 minutes")).to_be_visible()
    expect(watched.get_by_text("at most 3 of them high")).to_be_visible()
    watched.emulate_media(media="print")
    expect(watched.get_by_role("heading", name="Today")).to_be_hidden()
    expect(watched.get_by_role("row", name="Long tones")).to_be_visible()
    for paper in ("A4", "Letter"):
        assert len(re.findall(rb"/Type\s*/Page[^s]", watched.pdf(format=paper))) == 1
    watched.emulate_media(media="screen")
    with watched.expect_download() as taken:
        watched.get_by_role("link", name="Calendar").click()
    assert taken.value.suggested_filename == "week.ics"


def test_a_week_passes_in_the_demo_by_one_press(watched, site):
    watched.goto(f"{site}/students/")
    expect(watched.get_by_text("Due in 24 days").first).to_be_visible()
    watched.get_by_role("button", name="Next week passes").click()
    expect(watched.get_by_text("Due in 17 days").first).to_be_visible()


def test_a_ladder_is_climbed_by_pedal_and_the_metronome_follows(watched, site, owned):
    watched.goto(f"{site}/practice/count/?on=i{owned['alto-saxophone']}&note=G6")
    watched.get_by_text("Climb a ladder of tempi").click()
    watched.get_by_label("From ♩ =").fill("70")
    watched.get_by_role("button", name="Begin", exact=True).click()
    expect(watched.locator("#climb")).to_contain_text("0 of 3")
    expect(watched.locator("#metronome-bpm")).to_have_value("70")
    for _ in range(3):
        watched.keyboard.press("PageDown")
    expect(watched.locator("#metronome-bpm")).to_have_value("80")
    watched.keyboard.press("PageUp")
    expect(watched.locator("#climb")).to_contain_text("♩ = 70 of 100")


def test_from_a_hard_link_on_the_bench_up_a_ladder_by_pedal_alone(watched, site, owned):
    from evidence.models import AttemptMade
    from passages.models import KeptPassage
    from studio.models import Student

    Student.objects.update(level=Student.Level.BEGINNING)  # for whom that link is hard
    key = KeptPassage.objects.get(owned=owned["alto-saxophone"], purpose="").pk
    watched.goto(f"{site}/passages/{key}/?note=n117&move=into")
    watched.keyboard.press("k")
    expect(watched.locator("#begin-climb")).to_be_visible()
    watched.wait_for_load_state()
    watched.keyboard.press("k")
    expect(watched.locator("#climb")).to_contain_text("0 of 3 clean in a row")
    watched.wait_for_load_state()
    begun = int(watched.locator("#metronome-bpm").input_value())
    for number in range(3):
        watched.keyboard.press("PageDown")
        expect(watched.locator("#counted")).to_contain_text(f"{number + 1} of {number + 1} clean")
    expect(watched.locator("#metronome-bpm")).to_have_value(str(begun + 10))
    watched.keyboard.press("PageUp")
    expect(watched.locator("#last")).to_contain_text("stumbled at")
    today = AttemptMade.objects.filter(made__date=timezone.localdate(), spot__isnull=False)
    assert list(today.values_list("bpm", "result")) == [(begun, "clean")] * 3 + [(begun + 10, "stumbled")]


def test_from_a_hard_link_to_a_drill_on_paper_and_up_a_step_of_its_ladder(watched, site, owned):
    from passages.models import KeptPassage

    key = KeptPassage.objects.get(owned=owned["alto-saxophone"], purpose="").pk
    watched.goto(f"{site}/passages/{key}/?note=n117&move=into")
    watched.keyboard.press("d")
    expect(watched.get_by_role("heading", name="Drills for G6 to A6")).to_be_visible()
    watched.get_by_label("G6 and A6 by turns").check()
    watched.get_by_role("button", name="Keep the marked ones").click()
    expect(watched.get_by_role("heading", name="G6 and A6 by turns")).to_be_visible()
    watched.wait_for_load_state()
    watched.get_by_role("link", name="Sheet").click()
    watched.wait_for_load_state()
    watched.emulate_media(media="print")
    expect(watched.get_by_role("img", name="Line 1")).to_be_visible()
    expect(watched.get_by_role("link", name="Back to the bench")).to_be_hidden()
    watched.emulate_media(media="screen")
    watched.go_back()
    watched.wait_for_load_state()
    watched.get_by_role("link", name="Count", exact=True).click()
    watched.wait_for_load_state()
    expect(watched.get_by_role("heading", name="41 notes")).to_be_visible()
    begun = int(watched.locator("#metronome-bpm").input_value())
    watched.get_by_label("♩ =", exact=True).fill(str(begun + 5))
    watched.get_by_label("♩ =", exact=True).press("Escape")
    for number in range(3):
        watched.keyboard.press("PageDown")
        expect(watched.locator("#counted")).to_contain_text(f"{number + 1} of {number + 1} clean")
    expect(watched.locator("#last")).to_contain_text(f"clean at {begun + 5}")


def test_what_a_student_counts_through_a_link_is_seen_until_it_is_revoked(watched, site, owned, browser):
    on = f"i{owned['alto-saxophone']}"
    watched.goto(f"{site}/students/sheet/?on={on}")
    watched.get_by_label("The student may count on it").check()
    watched.get_by_role("button", name="Make a page").click()
    address = watched.get_by_role("link", name="/for/").get_attribute("href")
    context = browser.new_context(viewport={"width": 390, "height": 844})
    phone = context.new_page()
    phone.goto(address)
    assert phone.evaluate("() => document.documentElement.scrollWidth - innerWidth") <= 0
    phone.locator("#count form").first.get_by_role("button", name="Clean").click()
    expect(phone.locator("#count form").first).to_contain_text("1 of 1 clean today")
    watched.goto(f"{site}/students/log/?on={on}")
    expect(watched.get_by_text("1 of them counted by the student")).to_be_visible()
    watched.goto(f"{site}/students/sheet/?on={on}")
    watched.get_by_role("button", name="Revoke").click()
    expect(watched.get_by_text("The page is closed")).to_be_visible()
    assert phone.goto(address).status == 404
    context.close()
