"""What is committed is whole, and nothing of it needs a network."""

import re
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parent.parent
STATIC = ROOT / "src" / "static"
LINE_LIMIT = 120


PAGES = sorted((ROOT / "src" / "templates").rglob("*.html"))


@pytest.mark.parametrize("path", [*STATIC.rglob("*.css"), *PAGES], ids=lambda path: path.name)
def test_nothing_is_fetched_from_elsewhere(path):
    text = path.read_text("utf-8")
    assert re.findall(r"""(?:url\(|src=|href=|@import)\s*["']?(?:https?:)?//""", text) == []


@pytest.mark.parametrize("path", PAGES, ids=lambda path: path.name)
def test_lines_of_templates_can_be_read(path):
    assert [line for line in path.read_text("utf-8").splitlines() if len(line) > LINE_LIMIT] == []


def test_fonts_and_scripts_are_there():
    for name in re.findall(r"url\(\.\./(fonts/[\w.-]+)\)", (STATIC / "css" / "app.css").read_text("utf-8")):
        assert (STATIC / name).stat().st_size > 500  # the smallest holds seven signs
    for page in PAGES:
        for name in re.findall(r"""{% static '([^']+)' %}""", page.read_text("utf-8")):
            assert (STATIC / name).is_file(), f"{page.name} names {name}"


def test_screenshots_are_linked():
    readme = (ROOT / "README.md").read_text("utf-8")
    shots = list((ROOT / "docs" / "screenshots").glob("*.png"))
    assert 0 < len(shots) < 20
    assert [shot.name for shot in shots if shot.name not in readme] == []
