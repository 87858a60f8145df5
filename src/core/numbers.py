"""Numbers as people type them: with a decimal point or a decimal comma, and either minus sign."""

from __future__ import annotations

import math
import re

from core.errors import NumberError

# As many signs as a number that is meant can have.
LENGTH_LIMIT = 24


def decimal(text: str) -> float:
    """Read one number; a comma is a decimal comma.

    Parameters
    ----------
    text : str

    Returns
    -------
    float

    Raises
    ------
    NumberError
        If it is none, or may mean two things: ``1,000`` a thousand or one, ``12,8,5`` several numbers.

    Examples
    --------
    >>> decimal("60,5"), decimal("−8.25"), decimal("+12")
    (60.5, -8.25, 12.0)
    """
    plain = text.strip().replace("−", "-")
    if re.fullmatch(r"[+-]?[1-9]\d{0,2}(,\d{3})+", plain) or plain.count(",") > 1 or {",", "."} <= set(plain):
        raise NumberError(
            f"{text.strip()[:LENGTH_LIMIT]!r} can be read in two ways; write a comma or a point only "
            "before decimals, and spaces between numbers"
        )
    number = plain.replace(",", ".")
    if len(number) > LENGTH_LIMIT or not re.fullmatch(r"[+-]?(\d+(\.\d*)?|\.\d+)", number):
        raise NumberError(f"a number must read like 12 or 8,5, got {text.strip()[:LENGTH_LIMIT]!r}")
    value = float(number)
    if not math.isfinite(value):
        raise NumberError(f"a number must have an end, got {text.strip()[:LENGTH_LIMIT]!r}")
    return value
