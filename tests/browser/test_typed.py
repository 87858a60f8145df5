"""What is typed outlives a reload, a press on the menu, a look at another note, and a session that ends."""

import re

import pytest
from playwright.sync_api import expect

pytestmark = [pytest.mark.browser, pytest.mark.django_db]


@pytest.fixture
def signed_out(settings):
    """Nobody is signed in by themselves: a teacher signs in with a password."""

    def begin(page, site):
        settings.DEMO = False
        from django.contrib.auth import get_user_model

        teacher = get_user_model().objects.get(username="demo")
        teacher.set_password("nine weirs")
        teacher.save()
        page.goto(f"{site}/students/")
        return sign_in(page)

    return begin


def sign_in(page):
    page.get_by_label("Username").fill("demo")
    page.get_by_label("Password").fill("nine weirs")
    page.get_by_role("button", name="Sign in").click()


def end_session(page):
    page.context.clear_cookies(name="fair_reach_session")


def test_notes_that_are_entered_outlive_a_reload_and_a_press_on_the_menu(watched, site):
    watched.goto(f"{site}/passages/enter/?on=oboe")
    for key in "CDE":
        watched.keyboard.press(key.lower())
    expect(watched.locator("#entry-status")).to_contain_text("E")
    before = watched.locator("[name=draft]").input_value()
    watched.wait_for_url(re.compile("window="))
    watched.reload()
    assert watched.locator("[name=draft]").input_value() == before
    watched.get_by_role("link", name="Students").click()
    watched.goto(f"{site}/passages/enter/")
    watched.get_by_role("link", name="Go on with them").click()
    expect(watched.locator("[name=draft]")).to_have_value(before)


def test_a_form_that_meets_a_sign_in_comes_back_filled_and_is_sent_by_one_press(page, site, signed_out):
    from studio.models import Student

    signed_out(page, site)
    page.get_by_role("link", name="New student").click()
    page.wait_for_load_state()
    page.get_by_label("Name").fill("Hazel Withy")
    page.locator("textarea[name=notes]").fill("Left-handed; small hands.")
    end_session(page)
    page.get_by_role("button", name="Keep").click()
    sign_in(page)
    expect(page.get_by_text("What you had typed stands here again")).to_be_visible()
    expect(page.get_by_label("Name")).to_have_value("Hazel Withy")
    page.get_by_role("button", name="Keep").click()
    page.wait_for_url(re.compile("students|instruments"))
    assert Student.objects.get(name="Hazel Withy").notes == "Left-handed; small hands."


def test_cents_that_are_typed_are_there_again_after_a_look_at_the_next_note(watched, site, owned):
    watched.goto(f"{site}/fingerings/note/?on=i{owned['alto-saxophone']}&note=A5")
    field = watched.get_by_label("Tuner, cents")
    field.fill("12 -8")
    field.press("Escape")
    watched.keyboard.press("ArrowRight")
    expect(watched.locator("h1")).to_contain_text("B♭5")
    expect(field).to_have_value("")
    watched.keyboard.press("ArrowLeft")
    expect(watched.locator("h1")).to_contain_text("A5")
    expect(field).to_have_value("12 -8")
    field.press("Enter")
    expect(watched.locator(".log")).to_contain_text("12, -8 cents")
    expect(field).to_have_value("")
    watched.reload()
    expect(field).to_have_value("")
