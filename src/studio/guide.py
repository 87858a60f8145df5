"""The teacher's guide: Markdown of docs/guide, rendered once."""

import re
from functools import cache
from itertools import pairwise

from django.conf import settings
from django.utils.safestring import SafeString, mark_safe
from django.utils.text import slugify
from markdown_it import MarkdownIt

FOLDER = settings.SRC.parent / "docs" / "guide"
PAGES = ("first-passage", "marks", "judging", "numbers", "views")
VIEWS = "views"  # the page that has a section for each view


@cache
def pages() -> dict[str, tuple[str, SafeString]]:
    """Title and body of every page, by name, in the order of reading."""
    return {name: _page((FOLDER / f"{name}.md").read_text("utf-8")) for name in PAGES}


@cache
def sections() -> dict[str, tuple[str, SafeString]]:
    """Title and body of what is said of each view, by its name."""
    parts = re.split(r"^## ", (FOLDER / f"{VIEWS}.md").read_text("utf-8"), flags=re.MULTILINE)[1:]
    titled = (part.split("\n", 1) for part in parts)
    return {slugify(title): (title, _rendered(body)) for title, body in titled}


def _page(text):
    title, body = text.removeprefix("# ").split("\n", 1)
    return title, _rendered(body)


def _rendered(text):
    markdown = MarkdownIt("commonmark", {"html": False}).enable("table")
    tokens = markdown.parse(text)
    for opening, words in pairwise(tokens):
        if opening.type == "heading_open":
            opening.attrSet("id", slugify(words.content))
    return mark_safe(markdown.renderer.render(tokens, markdown.options, {}))  # noqa: S308 -- our own text, HTML off
