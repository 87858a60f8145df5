"""One way of writing SVG: every attribute and every text is escaped here, and marked safe here only."""

from collections.abc import Iterable
from html import escape

from django.utils.safestring import SafeString, mark_safe


def tag(name: str, *inside: object, **attributes: object) -> SafeString:
    """An element. Text inside is escaped unless it was made here.

    An attribute that is a word of Python ends with an underscore; other underscores are hyphens. Numbers
    lose digits that nobody sees; None leaves an attribute out.

    Examples
    --------
    >>> tag("text", "A & B", x=1.50, class_="name", text_anchor="middle")
    '<text x="1.5" class="name" text-anchor="middle">A &amp; B</text>'
    >>> tag("g", tag("circle", r=2))
    '<g><circle r="2"/></g>'
    """
    parts = [
        f' {key.rstrip("_").replace("_", "-")}="{_value(value)}"'
        for key, value in attributes.items()
        if value is not None
    ]
    body = join(inside)
    ends = f">{body}</{name}>" if inside else "/>"
    return mark_safe(f"<{name}{''.join(parts)}{ends}")  # noqa: S308 -- every part is escaped


def join(parts: Iterable[object]) -> SafeString:
    """Parts one after the other; text that was not made here is escaped."""
    texts = (part if isinstance(part, SafeString) else escape(str(part)) for part in parts)
    return mark_safe("".join(texts))  # noqa: S308 -- every part is escaped


def engraved(text: str) -> SafeString:
    """What the engraver wrote of music of our own writing: SVG as it stands."""
    return mark_safe(text)  # noqa: S308 -- `drawing.engraving` takes it apart and keeps shapes only


def _value(value: object) -> str:
    if isinstance(value, float):
        return f"{round(value, 2):g}"
    return str(value) if isinstance(value, int) else escape(str(value))
