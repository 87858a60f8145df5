"""Every main view, over sizes and colour schemes: WCAG 2.2 AA by axe, targets, no sideways scrolling."""

from pathlib import Path

import pytest
from playwright.sync_api import expect

pytestmark = pytest.mark.browser
AXE = (Path(__file__).parent.parent / "vendor" / "axe.min.js").read_text("utf-8")
TAGS = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]
TARGET_PX = 44
WIDE, TALL, NARROW, DESK = (1280, 800), (820, 1180), (390, 844), (1920, 1080)
VIEWS = {
    "how I teach": "/instruments/teaching/",
    "students": "/students/",
    "a student": "/students/{student}/",
    "week": "/students/week/?on=i{owned}",
    "log": "/students/log/?on=i{owned}",
    "sheet of a student": "/students/sheet/?on=i{owned}",
    "for a student": "/for/{token}/",
    "instrument": "/instruments/{owned}/",
    "student": "/instruments/students/{student}/",
    "another instrument": "/instruments/students/{student}/new/?model=bassoon",
    "fingerings": "/fingerings/?on=i{owned}&search=Bb",
    "note": "/fingerings/note/?on=i{owned}&note=A6",
    "note without a fingering": "/fingerings/note/?on=bassoon&note=C5&touches=L1",
    "tried": "/fingerings/note/?on=i{owned}&note=Bb5&touches=octave L1 | R1 R2",
    "overtones": "/overtones/?on=i{owned}&note=Bb4",
    "overtones of the bassoon": "/overtones/?on=bassoon&note=A3&touches=L1 L2 L3 | R1 R2",
    "what to try": "/fingerings/trial/?on=i{owned}&note=G6",
    "trial": "/fingerings/trial/{trial}/",
    "trial ended": "/fingerings/trial/{ended}/",
    "untried": "/fingerings/near/?on=i{owned}&note=G6",
    "own fingering": "/fingerings/own/?on=i{owned}&note=A6&touches=octave L2",
    "reach": "/practice/reach/?on=i{owned}",
    "plan": "/practice/plan/?on=i{owned}",
    "count": "/practice/count/?on=i{owned}&note=A6",
    "count a spot": "/passages/{pk}/count/",
    "counted": "/practice/counted/?on=i{owned}",
    "bin": "/bin/",
    "drills": "/passages/{pk}/drills/?from=n114&to=n118&kind=trill",
    "walk": "/fingerings/walk/?on=i{owned}&tonic=Eb&mode=melodic minor",
    "chart": "/fingerings/audit/?on=i{owned}",
    "list": "/passages/",
    "new": "/passages/new/",
    "enter": "/passages/enter/?on=bassoon",
    "bench": "/passages/{pk}/?note=n116",
    "link": "/passages/{pk}/?note=n116&move=into",
    "other ways": "/passages/{pk}/ways/",
    "trouble": "/passages/{pk}/trouble/",
    "compare": "/passages/{pk}/compare/?at=80",
    "elsewhere": "/passages/{pk}/elsewhere/",
    "ossia": "/passages/{pk}/ossia/?top=E6",
    "lesson": "/passages/{pk}/lesson/?note=n30",
    "sheet": "/passages/{pk}/sheet/",
    "guide": "/help/marks/",
    "work under way": "/work/{job}/",
}
# Every rule once; what size and colours can change, again in each look. A telephone is sent lines of its own.
CONTRAST, SIZE = ({"type": "rule", "values": [name]} for name in ("color-contrast", "target-size"))
LOOKS = {
    "wide light": (WIDE, {"color_scheme": "light", "forced_colors": "none"}, {"type": "tag", "values": TAGS}),
    "wide dark": (WIDE, {"color_scheme": "dark"}, CONTRAST),
    "tablet": (TALL, {}, SIZE),
    "desk": (DESK, {}, SIZE),
    "forced colours": (WIDE, {"color_scheme": "light", "forced_colors": "active"}, CONTRAST),
}
NARROW_LOOKS = {
    "narrow": (NARROW, {"color_scheme": "light", "forced_colors": "none"}, {"type": "tag", "values": TAGS})
}
PARTS = 4  # of the views, so that they can be looked at side by side
# What is drawn and says nothing (no text, no name, not pressed) is taken away first: music is thousands of
# such marks, and axe would go through each of them for every rule.
BARE = """() => {
  for (const box of document.querySelectorAll("details")) box.open = true;
  const named = ["role", "tabindex", "title", "aria-label", "aria-labelledby", "aria-describedby"];
  const says = (mark) => named.some((name) => mark.hasAttribute(name));
  const drawn = "svg :is(path, use, rect, line, circle, polygon, polyline, ellipse)";
  for (const mark of [...document.querySelectorAll(drawn)])
    if (!mark.childElementCount && !says(mark) && !mark.closest("a, button, label, svg [tabindex]"))
      mark.remove();
  for (const group of [...document.querySelectorAll("svg g")].reverse())
    if (!group.childElementCount && !group.textContent.trim() && !says(group)) group.remove();
}"""


@pytest.mark.parametrize("part", range(PARTS))
def test_main_views(page, site, part):
    from jobs.models import Job
    from passages.models import KeptPassage
    from students.services import make_page

    passage = KeptPassage.objects.get(title__contains="Over the Top Sluice")
    named = {"pk": passage.pk, "owned": passage.owned_id, "student": passage.owned.student_id}
    named |= {"trial": trial_on(passage.owned).pk, "ended": trial_on(passage.owned, "silent", "stop").pk}
    named["token"] = make_page(passage.owned.teacher, passage.owned, may_log=True).token
    under_way = {"key": "x", "kind": "sheet", "title": "The sheet", "address": "/", "done": 2, "of": 5}
    named["job"] = Job.objects.create(teacher=passage.teacher, **under_way).pk
    for looks in (LOOKS, NARROW_LOOKS):
        width, height = next(iter(looks.values()))[0]
        page.set_viewport_size({"width": width, "height": height})
        page.goto(f"{site}/help/")  # tells how wide lines may be
        for name, address in list(VIEWS.items())[part::PARTS]:
            page.goto(site + address.format(**named))
            page.evaluate(BARE)
            page.evaluate(AXE)
            for look, at in looks.items():
                assert wrong_in(page, *at) == [], f"{name}, {look}"


def trial_on(owned, *words):
    """A trial of G6 on a student's instrument, so many taps on."""
    from catalogue.queries import of_instrument
    from evidence import trials

    in_hand = of_instrument(owned)
    items = [entry.id for entry in in_hand.at_hand(91)]
    begun = trials.begin(owned.teacher, owned, note_midi=91, items=items)
    for word in words:
        if word == "stop":
            return trials.finish(owned.teacher, begun, in_hand)
        trials.answer(owned.teacher, begun, word)
    return begun


def test_signing_in(page, site, settings):
    settings.DEMO = False
    page.goto(f"{site}/sign-in/")
    page.get_by_label("Password").fill("wrong")
    page.get_by_label("Username").fill("nobody")
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("alert").first).to_contain_text("do not go together")
    page.evaluate(AXE)
    for look, at in (LOOKS | NARROW_LOOKS).items():
        assert wrong_in(page, *at) == [], look


def wrong_in(page, size, colours, rules):
    """What axe finds in a look, and whether it scrolls sideways."""
    page.set_viewport_size(dict(zip(("width", "height"), size, strict=True)))
    page.emulate_media(**colours)
    asked = "rules => axe.run({runOnly: rules, resultTypes: ['violations'], preload: false})"
    found = page.evaluate(asked, rules)["violations"]
    sideways = page.evaluate("() => document.documentElement.scrollWidth - innerWidth")
    wrong = [f"{v['id']}: {v['nodes'][0]['html'][:120]} ({len(v['nodes'])})" for v in found]
    return wrong + [f"scrolls sideways by {sideways} px"] * (sideways > 0)


@pytest.mark.parametrize(("width", "height"), [WIDE, TALL, NARROW])
def test_notes_are_large_enough_to_be_pressed(bench, width, height):
    bench.set_viewport_size({"width": width, "height": height})
    expect(bench.locator("#bench")).to_have_attribute(
        "data-lines", "narrow" if width == NARROW[0] else "wide"
    )
    boxes = bench.locator(".slot .hit").evaluate_all(
        "all => all.map(hit => hit.getBoundingClientRect()).map(box => Math.min(box.width, box.height))"
    )
    assert min(boxes) >= TARGET_PX


def test_on_a_telephone_the_inspector_opens_over_the_score(bench):
    bench.set_viewport_size({"width": NARROW[0], "height": NARROW[1]})
    expect(bench.locator("#bench")).to_have_attribute("data-lines", "narrow")
    bench.locator("#fold").click()
    expect(bench.locator("#inspector")).to_be_hidden()
    bench.locator(".slot").nth(9).click()
    expect(bench.locator("#inspector .pitch")).to_be_in_viewport()
    expect(bench.locator(".slot.selected")).to_be_in_viewport()


def test_targets_in_the_main_flow(bench):
    for target in bench.locator("#bench :is(button, .square, input:not([type=hidden])):visible").all():
        box = target.bounding_box()
        assert min(box["width"], box["height"]) >= TARGET_PX, target.evaluate("e => e.outerHTML")
