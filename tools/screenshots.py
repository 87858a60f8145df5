"""Take the screenshots of docs/screenshots anew, from fresh demo data."""

import os
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path

from playwright.sync_api import sync_playwright

ROOT = Path(__file__).resolve().parent.parent
PORT = 8799
SITE = f"http://127.0.0.1:{PORT}"
TYPED = "T:Weir Warm-up\nM:3/4\nL:1/8\nQ:1/4=88\nK:G\nG2 AB c2 | (d/e/f/g/ a/b/c'/d'/) e'2 | (3gab c'2 z2 |]"
WIDE, NARROW = {"width": 1280, "height": 800}, {"width": 390, "height": 844}
# name, address, viewport, colour scheme, keys pressed first
SHOTS = [
    ("passages", "/passages/", WIDE, "light", []),
    ("new-passage", "/passages/new/", WIDE, "light", ["typed"]),
    ("bench", "/passages/1/?note=n116", WIDE, "light", []),
    ("bench-candidate", "/passages/1/?note=n33", WIDE, "light", ["Enter", "ArrowDown"]),
    ("bench-dark", "/passages/1/?note=n127", WIDE, "dark", []),
    ("sheet", "/passages/1/sheet/", WIDE, "light", []),
    ("sheet-narrow", "/passages/1/sheet/", NARROW, "light", []),
]


def main():
    with tempfile.TemporaryDirectory() as data:
        environment = {**os.environ, "FAIR_REACH_DATA": data}
        command = [sys.executable, str(ROOT / "tools" / "demo.py"), "--port", str(PORT)]
        server = subprocess.Popen(command, env=environment, stdout=subprocess.DEVNULL)
        try:
            wait()
            with sync_playwright() as play:
                browser = play.chromium.launch(
                    executable_path=os.environ.get("CHROMIUM", "/usr/bin/chromium"),
                    args=["--no-sandbox", "--disable-gpu", "--disable-background-networking"],
                )
                for shot in SHOTS:
                    take(browser, *shot)
                browser.close()
        finally:
            server.terminate()
            server.wait()


def wait():
    for _ in range(100):
        try:
            urllib.request.urlopen(SITE)
            return
        except OSError:
            time.sleep(0.2)
    sys.exit("the demo did not start")


def take(browser, name, address, viewport, scheme, keys):
    page = browser.new_context(viewport=viewport, color_scheme=scheme).new_page()
    page.goto(SITE + address)
    page.wait_for_load_state("networkidle")
    for key in keys:
        if key == "typed":
            page.get_by_label("Or type it in ABC").fill(TYPED)
            page.wait_for_timeout(900)
        else:
            page.keyboard.press(key)
        page.wait_for_timeout(400)
    page.screenshot(path=ROOT / "docs" / "screenshots" / f"{name}.png")
    page.context.close()


if __name__ == "__main__":
    main()
