"""Real Chromium on the real application in demo mode, with its Content-Security-Policy on."""

import os
import re

import pytest
from playwright.sync_api import expect

expect.set_options(timeout=20_000)  # a busy machine is no failure
# Waiting for an address waits for the page to be loaded, its scripts with it.
BENCH_URL = re.compile(r"/passages/\d+/")
# The shell has no window to draw and costs a quarter less; the whole browser does as well.
HEADLESS = ("/usr/bin/chromium-headless-shell", "/usr/bin/chromium")
CHROMIUM = os.environ.get("CHROMIUM") or next(filter(os.path.exists, HEADLESS), HEADLESS[0])


@pytest.fixture(scope="session")
def browser_type_launch_args():
    quiet = ("background-networking", "component-update", "sync", "gpu", "quic")
    return {
        "executable_path": CHROMIUM,
        "args": ["--no-sandbox", "--no-first-run", *(f"--disable-{name}" for name in quiet)],
    }


@pytest.fixture(scope="session")
def browser_context_args():
    # what a worker keeps is tried by itself: it fetches past what a test holds up
    return {"viewport": {"width": 1280, "height": 800}, "service_workers": "block"}


@pytest.fixture
def transactional_db(demo):
    """What the live server asks for: here the demo put back, not every table emptied."""


@pytest.fixture
def site(live_server, settings):
    """Address of a running application with its demo data."""
    settings.DEMO = True
    return live_server.url


@pytest.fixture
def watched(page):
    """A page on which any console error, a blocked style or script among them, fails the test."""
    errors = []
    page.on("console", lambda message: errors.append(message.text) if message.type == "error" else None)
    page.on("pageerror", lambda error: errors.append(str(error)))
    yield page
    assert errors == []


@pytest.fixture
def bench(watched, site):
    """The bench of the demo passage, its script ready."""
    watched.goto(f"{site}/passages/")
    watched.get_by_role("heading", name="Over the Top Sluice").click()
    watched.wait_for_url(BENCH_URL)
    return watched


@pytest.fixture
def owned(site):
    """Key of a demo student's instrument, by its model."""
    from studio.models import OwnedInstrument

    return dict(OwnedInstrument.objects.values_list("model", "pk"))
