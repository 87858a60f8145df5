"""Weigh the pages as Chromium fetches them: bytes, requests, and what a press of a key costs on the bench.

Run with `make weigh`. Bytes are those that crossed the wire, compressed where they were. A press is → on the
bench: scripts, styles and layout until the note's inspector stands, and the time until it is told.
"""

import statistics
import sys
import tempfile

from playwright.sync_api import sync_playwright
from screenshots import ALTO, SITE, chromium, demo_server

PAGES = {
    "students": "/students/",
    "fingerings": f"/fingerings/?on=i{ALTO}",
    "note": f"/fingerings/note/?on=i{ALTO}&note=A6",
    "overtones": f"/overtones/?on=i{ALTO}&note=Bb4",
    "passages": "/passages/",
    "bench": f"/passages/{ALTO}/",
}
SIXTEENTHS = "GABc dedc BAGA Bcde |"  # a bar: 64 of them are 1,024 notes
EIGHTHS = "G2A2 B2c2 d2e2 d2c2 |"
LENGTHS = {"64 bars": (64, SIXTEENTHS), "200 bars": (200, EIGHTHS), "3,000 notes": (187, SIXTEENTHS)}
PRESSES = 10
WORK = ("ScriptDuration", "RecalcStyleDuration", "LayoutDuration")  # painting depends on the machine


def main():
    with tempfile.TemporaryDirectory() as data, demo_server(data), sync_playwright() as play:
        browser = chromium(play)
        print(f"{'page':<14}{'first, kB':>10}{'requests':>10}{'again, kB':>11}{'requests':>10}")
        for name, address in PAGES.items():
            row(name, visits(browser, address))
        for name, (bars, bar) in LENGTHS.items():
            address = entered(browser, name, [bar] * bars)
            row(name, visits(browser, address))
            busy, until = pressed(browser, address)
            print(f"  a press: scripts, styles and layout {busy:.0f} ms, the note told after {until:.0f} ms")
        browser.close()


def row(name, weighed):
    (kb, requests), (kb_again, again) = weighed
    print(f"{name:<14}{kb:>10.1f}{requests:>10}{kb_again:>11.1f}{again:>10}", flush=True)


def visits(browser, address):
    """Kilobytes and requests of a first visit and of a second one in the same browser."""
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    return [visit(context, address) for _ in range(2)]


def visit(context, address):
    page = context.new_page()
    session = context.new_cdp_session(page)
    session.send("Network.enable")
    sizes, cached = {}, set()
    session.on("Network.loadingFinished", lambda e: sizes.__setitem__(e["requestId"], e["encodedDataLength"]))
    session.on("Network.requestServedFromCache", lambda e: cached.add(e["requestId"]))
    page.goto(SITE + address)
    page.wait_for_load_state("networkidle")
    page.wait_for_timeout(300)
    fetched = {key: size for key, size in sizes.items() if key not in cached and size}
    page.close()
    return sum(fetched.values()) / 1000, len(fetched)


def entered(browser, title, bars):
    """The address of a new passage of these bars."""
    page = browser.new_page()
    page.goto(f"{SITE}/passages/new/")
    page.get_by_label("Instrument", exact=True).select_option(label="Alto saxophone")
    text = "\n".join([f"T:{title}\nM:4/4\nL:1/16\nQ:1/4=100\nK:G", *bars])
    page.get_by_label("Or type it in ABC").fill(text)
    page.get_by_role("button", name="Open on the bench").click()
    page.wait_for_selector(".slot.selected", timeout=120_000)
    address = page.url.removeprefix(SITE)
    page.close()
    return address


# Waits within the page, so that what is timed is the page and not who drives it.
TOLD = """() => new Promise((done) => {
  const told = () => document.getElementById("note-status").textContent;
  const [before, start] = [told(), performance.now()];
  new MutationObserver((_, watch) => {
    if (!document.getElementById("note-status") || told() === before) return;
    watch.disconnect();
    done(performance.now() - start);
  }).observe(document.body, { subtree: true, childList: true, characterData: true });
  document.body.dispatchEvent(new KeyboardEvent("keydown", { key: "ArrowRight", bubbles: true }));
})"""


def pressed(browser, address):
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    page.goto(SITE + address, timeout=120_000)
    page.wait_for_load_state("networkidle")
    session = page.context.new_cdp_session(page)
    session.send("Performance.enable")
    busy, until = [], []
    for _ in range(PRESSES):
        before = work_seconds(session)
        until.append(page.evaluate(TOLD))
        page.wait_for_timeout(300)
        busy.append(1000 * (work_seconds(session) - before))
    page.close()
    return statistics.median(busy), statistics.median(until)


def work_seconds(session):
    found = session.send("Performance.getMetrics")["metrics"]
    return sum(metric["value"] for metric in found if metric["name"] in WORK)


if __name__ == "__main__":
    sys.exit(main())
