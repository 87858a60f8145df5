"""Take the screenshots of docs/screenshots anew, from fresh demo data."""

import os
import subprocess
import sys
import tempfile
import time
import urllib.request
from contextlib import contextmanager
from pathlib import Path

from playwright.sync_api import sync_playwright

ROOT = Path(__file__).resolve().parent.parent
PORT = 8799
SITE = f"http://127.0.0.1:{PORT}"
SCORE = ROOT / "tests" / "scores" / "two-parts-with-chords.musicxml"
WIDE, NARROW = {"width": 1280, "height": 800}, {"width": 390, "height": 844}


def bring_in(page):
    page.get_by_label("Instrument", exact=True).select_option(label="Oboe")
    page.locator("input[type=file]").set_input_files(SCORE)
    page.wait_for_timeout(1200)


def curve(page):
    page.get_by_text("Show the curve").click()


def as_the_student(page):
    """Make a link from the sheet, and go where a student finds what to count."""
    page.get_by_label("The student may count on it").check()
    page.get_by_role("button", name="Make a page").click()
    address = page.get_by_role("link", name="/for/").get_attribute("href")
    page.goto(f"{address}#count")


def keys(*names):
    def press(page):
        for name in names:
            page.keyboard.press(name)
            page.wait_for_timeout(400)

    return press


# Fresh demo data: instruments and passages in the order in which they are made, the last movement first.
BASSOON, ALTO, CLARINET = 1, 2, 4
# name, address, viewport, colour scheme, what is done first
SHOTS = [
    ("students", "/students/", WIDE, "light", None),
    ("week", f"/students/week/?on=i{ALTO}", WIDE, "light", None),
    ("log", f"/students/log/?on=i{ALTO}", WIDE, "light", None),
    ("instrument", f"/instruments/{ALTO}/", WIDE, "light", None),
    ("fingerings", f"/fingerings/?on=i{CLARINET}&search=Bb", WIDE, "light", None),
    ("note", f"/fingerings/note/?on=i{ALTO}&note=A6", WIDE, "light", None),
    (
        "overtones",
        f"/overtones/?on=i{ALTO}&note=Bb4&touches=L1+L2+L3+lowBb+|+R1+R2+R3+lowC",
        WIDE,
        "light",
        curve,
    ),
    ("new-passage", "/passages/new/", WIDE, "light", bring_in),
    ("bench", f"/passages/{ALTO}/?note=n116", WIDE, "light", None),
    ("trial", f"/fingerings/trial/?on=i{ALTO}&note=G6", WIDE, "dark", keys("Enter", "1")),
    ("drills", f"/passages/{ALTO}/drills/?from=n114&to=n118", WIDE, "light", None),
    ("ways", f"/passages/{CLARINET}/ways/", WIDE, "light", None),
    ("compare", f"/passages/{ALTO}/compare/?at=80", WIDE, "light", None),
    ("ossia", f"/passages/{ALTO}/ossia/?top=E6", WIDE, "light", None),
    ("lesson", f"/passages/{BASSOON}/lesson/?note=n50", WIDE, "light", None),
    ("count", f"/passages/{ALTO}/count/?from=n116&to=n117", WIDE, "light", keys(*"1121121")),
    ("reach", f"/practice/reach/?on=i{ALTO}", WIDE, "light", None),
    ("sheet", f"/students/sheet/?on=i{ALTO}", WIDE, "light", None),
    ("for-student", f"/students/sheet/?on=i{ALTO}", NARROW, "light", as_the_student),
]


def main():
    with tempfile.TemporaryDirectory() as data, demo_server(data), sync_playwright() as play:
        browser = chromium(play)
        for shot in SHOTS:
            take(browser, *shot)
        browser.close()


@contextmanager
def demo_server(data):
    """The demo at `SITE`, with its data in a folder."""
    environment = {**os.environ, "FAIR_REACH_DATA": data}
    command = [sys.executable, str(ROOT / "tools" / "demo.py"), "--port", str(PORT)]
    server = subprocess.Popen(command, env=environment, stdout=subprocess.DEVNULL)
    try:
        wait()
        yield
    finally:
        server.terminate()
        server.wait()


def chromium(play):
    return play.chromium.launch(
        executable_path=os.environ.get("CHROMIUM", "/usr/bin/chromium"),
        args=["--no-sandbox", "--disable-gpu", "--disable-background-networking"],
    )


def wait():
    for _ in range(100):
        try:
            urllib.request.urlopen(SITE)
            return
        except OSError:
            time.sleep(0.2)
    sys.exit("the demo did not start")


def take(browser, name, address, viewport, scheme, act):
    page = browser.new_context(viewport=viewport, color_scheme=scheme).new_page()
    page.goto(SITE + address)
    page.wait_for_load_state("networkidle")
    if act:
        act(page)
        page.wait_for_timeout(400)
    page.screenshot(path=ROOT / "docs" / "screenshots" / f"{name}.png")
    page.context.close()


if __name__ == "__main__":
    main()
