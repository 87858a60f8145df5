"""Counts with their nouns, and sentences."""

from __future__ import annotations

from math import log


def capital(text: str) -> str:
    """A text begun with a capital; the rest stays as it is.

    Parameters
    ----------
    text : str

    Returns
    -------
    str

    Examples
    --------
    >>> capital("left B-flat")
    'Left B-flat'
    """
    return text[:1].upper() + text[1:]


def sentence(text: str) -> str:
    """A message begun with a capital and ended with a full stop.

    Parameters
    ----------
    text : str

    Returns
    -------
    str
    """
    return capital(text) + ("" if text.endswith((".", "?", "!")) else ".")


def counted(count: int, one: str) -> str:
    """A count with its noun.

    Parameters
    ----------
    count : int, from 0
    one : str
        The noun for one.

    Returns
    -------
    str

    Examples
    --------
    >>> counted(1, "bar"), counted(0, "judgement"), counted(2_000, "cent")
    ('1 bar', '0 judgements', '2,000 cents')
    """
    return f"{count:,} {one}{'' if count == 1 else 's'}"


def cents_words(cents: float) -> str:
    """Cents as a teacher says them.

    Parameters
    ----------
    cents : float, cents, sharp positive

    Returns
    -------
    str

    Examples
    --------
    >>> cents_words(-19.6), cents_words(0.2), cents_words(1.0)
    ('20 cents flat', 'in tune', '1 cent sharp')
    """
    if round(cents) == 0:
        return "in tune"
    return f"{counted(round(abs(cents)), 'cent')} {'sharp' if cents > 0 else 'flat'}"


def in_100(faults: float) -> str:
    """Faults in a hundred playings, in words; a fault or more in one playing as such.

    Parameters
    ----------
    faults : float, faults a playing, from 0

    Returns
    -------
    str

    Examples
    --------
    >>> in_100(0.134), in_100(0.01), in_100(1.26), in_100(0.001)
    ('13 faults in 100 playings', '1 fault in 100 playings', '1.3 faults a playing', 'hardly a fault')
    """
    count = round(100 * abs(faults))
    if count == 0:
        return "hardly a fault"
    if count >= 100:
        return f"{abs(faults):.1f} faults a playing"
    return f"{count} fault{'' if count == 1 else 's'} in 100 playings"


# Into how many a rare chance is put, and how that is said.
ONE_IN = {12: "twelve", 15: "fifteen", 20: "twenty", 30: "thirty", 50: "fifty", 100: "a hundred"}


def share_words(chance: float) -> str:
    """How many of many, in words: tenths, below one in ten as one in so many.

    Parameters
    ----------
    chance : float, 0 to 1

    Returns
    -------
    str

    Examples
    --------
    >>> share_words(0.98), share_words(0.62), share_words(0.1), share_words(0.03), share_words(0.001)
    ('nearly every one', 'about 6 of 10', 'about 1 of 10', 'about one in thirty', 'hardly one in a hundred')
    """
    tenths = round(10 * chance)
    if tenths == 10:
        return "nearly every one"
    if chance >= 1 / 11:
        return f"about {tenths} of 10"
    if chance < 1 / 150:
        return "hardly one in a hundred"
    return f"about one in {ONE_IN[min(ONE_IN, key=lambda many: abs(log(many * chance)))]}"
