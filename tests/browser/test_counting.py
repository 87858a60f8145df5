"""Counting under what really happens: no line, a slow one, a session that ends, a second tab, a clock that is
off, the server away. Every press is kept once, under what was drawn."""

import re
import sqlite3
from contextlib import closing
from datetime import UTC, datetime, timedelta

import pytest
from playwright.sync_api import Error, expect

pytestmark = [pytest.mark.browser, pytest.mark.django_db]
RESULTS = ("clean", "cracked", "silent", "late")


def asked(served, query, *values):
    with closing(sqlite3.connect(served.database, timeout=20)) as database, database:
        return database.execute(query, values).fetchall()


@pytest.fixture
def counting(page, served):
    """Where G6 is counted on the demo's alto."""
    (key,) = asked(served, "SELECT id FROM studio_ownedinstrument WHERE model = 'alto-saxophone'")[0]
    page.goto(f"{served.url}/practice/count/?on=i{key}&note=G6")
    asked(served, "DELETE FROM evidence_attemptmade")
    expect(page.locator("#press-form")).to_be_visible()
    return page


def pressed(page, count, begin=0):
    """So many presses, what comes of them by turns; says what they were."""
    results = [RESULTS[(begin + n) % len(RESULTS)] for n in range(count)]
    for result in results:
        page.keyboard.press(str(1 + RESULTS.index(result)))
    return results


def kept(served):
    return asked(served, "SELECT result, note_midi, key FROM evidence_attemptmade ORDER BY made, id")


def test_two_hundred_presses_through_everything_that_happens_are_kept_once(counting, served):
    page, waiting = counting, counting.locator("#waiting")
    told, where = pressed(page, 30), page.url
    page.context.set_offline(True)
    told += pressed(page, 30, 1)
    expect(waiting).to_contain_text("presses of Tamsin Reedmace not sent yet")
    page.context.set_offline(False)
    expect(waiting).to_be_empty()
    expect(page.locator("#counted")).to_contain_text("of 60 clean")
    asked(served, "UPDATE auth_user SET is_active = 0")  # the session ends, and nobody is signed in again
    told += pressed(page, 30, 2)
    expect(waiting).to_contain_text("Sign in to send 30 presses of Tamsin Reedmace")
    page.goto(f"{served.url}/students/")
    expect(page.locator("#waiting")).to_have_text("Sign in as demo to send 30 presses, kept in this browser.")
    asked(served, "UPDATE auth_user SET is_active = 1")
    page.goto(f"{served.url}/students/")  # any page of the teacher sends them
    expect(waiting).to_be_empty()
    page.goto(where)
    expect(page.locator("#press-form")).to_be_visible()
    served.stop()
    told += pressed(page, 30, 3)
    expect(waiting).to_contain_text("30 presses of Tamsin Reedmace not sent yet")
    served.start()
    expect(waiting).to_be_empty()
    slow = page.context.new_cdp_session(page)
    slow.send("Network.enable")
    conditions = {"offline": False, "latency": 2000, "downloadThroughput": -1, "uploadThroughput": -1}
    slow.send("Network.emulateNetworkConditions", conditions)
    told += pressed(page, 20)
    other = page.context.new_page()
    other.goto(page.url)
    for n in range(20):
        told += pressed(page if n % 2 else other, 1, n)
    other.clock.set_fixed_time(datetime.now(UTC) + timedelta(minutes=11))
    told += pressed(other, 40, 1)
    for one in (page, other):
        expect(one.locator("#waiting")).to_be_empty()
    rows = kept(served)
    assert len(rows) == len(told) == 200
    assert len({key for *_, key in rows}) == 200
    assert {midi for _, midi, _ in rows} == {91}
    assert sorted(result for result, *_ in rows) == sorted(told)
    (off,) = asked(
        served, "SELECT count(*) FROM evidence_attemptmade WHERE made > datetime('now', '+1 minute')"
    )[0]
    assert off == 0


def test_the_mis_tap_is_what_is_taken_back_on_a_slow_line_and_on_none(counting, served):
    page, waiting = counting, counting.locator("#waiting")
    slow = page.context.new_cdp_session(page)
    slow.send("Network.enable")
    conditions = {"offline": False, "latency": 1500, "downloadThroughput": -1, "uploadThroughput": -1}
    slow.send("Network.emulateNetworkConditions", conditions)
    for key in "12u":
        page.keyboard.press(key)
    expect(waiting).to_be_empty()
    expect(page.locator("#counted")).to_contain_text("1 of 1 clean")
    slow.send("Network.emulateNetworkConditions", conditions | {"latency": 0})
    page.context.set_offline(True)
    for key in "12u":
        page.keyboard.press(key)
    expect(waiting).to_contain_text("1 press of Tamsin Reedmace not sent yet")
    page.context.set_offline(False)
    expect(page.locator("#counted")).to_contain_text("2 of 2 clean")
    page.keyboard.press("u")
    expect(page.locator("#counted")).to_contain_text("1 of 1 clean")
    assert [result for result, *_ in kept(served)] == ["clean"]


def test_what_is_refused_stands_until_it_was_seen_and_costs_no_other(counting, served):
    page = counting
    page.context.set_offline(True)
    pressed(page, 2)
    drawn = page.locator("#press-form [name=drawn]")
    page.evaluate("() => { document.querySelector('#press-form [name=drawn]').value = 'x'; }")
    page.keyboard.press("4")
    assert drawn.input_value() == "x"
    page.context.set_offline(False)
    refused = page.locator("#refused")
    expect(refused).to_contain_text("Late: This press does not say what it was for.")
    page.reload()
    expect(refused).to_contain_text("Late: This press does not say")
    assert [result for result, *_ in kept(served)] == ["clean", "cracked"]
    page.get_by_role("button", name="I have seen it").click()
    expect(refused).to_be_hidden()
    page.reload()
    expect(page.locator("#counted")).to_contain_text("1 of 2 clean")
    expect(refused).to_be_hidden()


def test_one_step_back_leads_where_counting_began(page, served):
    (key,) = asked(
        served,
        "SELECT passages_keptpassage.id FROM passages_keptpassage JOIN studio_ownedinstrument"
        " ON owned_id = studio_ownedinstrument.id WHERE model = 'alto-saxophone' AND purpose = ''",
    )[0]
    page.goto(f"{served.url}/passages/{key}/?note=n117&move=into")
    page.keyboard.press("k")
    expect(page.locator("#press-form")).to_be_visible()
    for n in range(3):
        page.keyboard.press("1")
        expect(page.locator("#counted")).to_contain_text(f"{n + 1} of {n + 1} clean")
    page.get_by_role("link", name="Lesson", exact=True).click()
    expect(page.get_by_role("link", name="Lesson", exact=True)).to_have_attribute("aria-current", "true")
    page.go_back()
    expect(page.locator("#inspector")).to_be_visible()
    assert f"/passages/{key}/?note=n117" in page.url
    page.go_forward()
    page.keyboard.press("Escape")
    expect(page.locator("#inspector")).to_be_visible()
    assert "note=n117" in page.url


@pytest.fixture
def with_worker(browser):
    """A window that keeps pages to be opened without a network."""
    context = browser.new_context(service_workers="allow")
    yield context.new_page()
    context.close()


def kept_pages(page):
    """Whose pages the browser keeps."""
    return page.evaluate("async () => (await caches.keys()).filter((name) => name.startsWith('pages '))")


def test_a_page_of_counting_opens_and_counts_with_the_server_away(with_worker, served):
    page = with_worker
    (key,) = asked(served, "SELECT id FROM studio_ownedinstrument WHERE model = 'alto-saxophone'")[0]
    page.goto(f"{served.url}/practice/count/?on=i{key}&note=G6")
    asked(served, "DELETE FROM evidence_attemptmade")
    page.evaluate("() => navigator.serviceWorker.ready")
    page.reload()
    expect(page.locator("#counted")).to_contain_text("0 of 0")
    other = page.context.new_page()
    other.goto(f"{served.url}/students/")
    served.stop()
    page.context.set_offline(True)
    where = page.url
    page.close()  # the lid is closed, and opened at the back of the hall
    page = other
    page.goto(where)
    told = pressed(page, 7)
    expect(page.locator("#waiting")).to_contain_text("7 presses of Tamsin Reedmace not sent yet")
    page.reload()
    expect(page.locator("#waiting")).to_contain_text("7 presses of Tamsin Reedmace not sent yet")
    expect(page.locator("h1")).to_have_css("font-family", re.compile("Inter"))
    with pytest.raises(Error):
        page.goto(f"{served.url}/students/")  # nothing else is kept
    page.context.set_offline(False)
    served.start()
    page.goto(where)
    expect(page.locator("#waiting")).to_be_empty()
    assert sorted(result for result, *_ in kept(served)) == sorted(told)
    page.get_by_role("button", name="Sign out").click()
    asked(served, "UPDATE auth_user SET is_active = 0")
    page.goto(f"{served.url}/sign-in/")
    page.wait_for_function("async () => !(await caches.keys()).some((name) => name.startsWith('pages t'))")
    assert kept_pages(page) == []


def test_a_newer_worker_waits_says_so_and_is_taken_by_one_press(with_worker, served):
    """The same one under another address: for the browser that is a newer one."""
    page = with_worker
    page.goto(f"{served.url}/students/")
    page.evaluate("() => navigator.serviceWorker.ready")
    page.reload()
    page.wait_for_function("() => navigator.serviceWorker.controller")
    expect(page.locator("#newer")).to_be_hidden()
    page.evaluate("() => navigator.serviceWorker.register('/sw.js?newer')")
    expect(page.locator("#newer")).to_be_visible()
    with page.expect_navigation():
        page.get_by_role("button", name="Take it").click()
    running = "() => navigator.serviceWorker.controller.scriptURL.endsWith('?newer')"
    page.wait_for_function(running)


def test_a_students_page_opens_without_a_network_until_it_is_closed(with_worker, served):
    page = with_worker
    page.goto(f"{served.url}/students/sheet/")
    page.get_by_label("The student may count on it").check()
    page.get_by_role("button", name="Make a page").click()
    address = page.get_by_role("link", name="/for/").get_attribute("href")
    page.goto(address)
    page.evaluate("() => navigator.serviceWorker.ready")
    page.reload()
    page.context.set_offline(True)
    page.reload()
    card = page.locator("#count form").first
    card.get_by_role("button", name="Clean").click()
    expect(page.locator("#waiting")).to_contain_text("1 press not sent yet")
    page.goto("about:blank")
    page.context.set_offline(False)
    asked(served, "UPDATE auth_user SET is_active = 0")
    page.goto(f"{served.url}/sign-in/")
    waits = "1 press of a student's page kept here: open it again to send."
    expect(page.locator("#waiting")).to_have_text(waits)
    asked(served, "UPDATE auth_user SET is_active = 1")
    page.goto(address)
    expect(card.get_by_role("status")).to_have_text("1 of 1 clean today")
    asked(served, "UPDATE students_studentpage SET revoked = datetime('now')")
    assert page.goto(address).status == 404
    page.context.set_offline(True)
    with pytest.raises(Error):
        page.goto(address)
