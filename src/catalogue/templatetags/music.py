"""Filters for templates: numbers and icons as this field reads them."""

import uuid
from functools import cache

from django import template
from django.conf import settings
from django.utils.safestring import mark_safe

from drawing.strands import per_hundred
from studio import guide

register = template.Library()
register.filter("per_hundred", per_hundred)


@cache
def _icon(name):
    return (settings.SRC / "static" / "icons" / f"{name}.svg").read_text("utf-8")


@register.simple_tag
def icon(name):
    """A shipped icon, drawn in the colour of the text; hidden from screen readers."""
    return mark_safe(_icon(name))  # noqa: S308 -- a file of our own


@register.inclusion_tag("components/_help.html")
def help_of(view):
    """The "?" of a view, by its name in the guide."""
    title, body = guide.sections()[view]
    return {"view": view, "title": title, "body": body}


HALF_STEPS = {
    "lower": {"rel": "prev", "keys": "ArrowLeft PageUp", "icon": "chevron-left"},
    "higher": {"rel": "next", "keys": "ArrowRight PageDown", "icon": "chevron-right"},
}


@register.inclusion_tag("components/_half_step.html")
def half_step(way, address):
    """The way to the note a half step lower or higher."""
    return {"way": way, "address": address, **HALF_STEPS[way]}


@register.simple_tag
def new_key():
    """A key for what a form sends: sent twice, it is kept once."""
    return uuid.uuid4()


@register.filter
def typed_as(posted, name):
    """What was posted under a name."""
    return posted.get(name, "")
