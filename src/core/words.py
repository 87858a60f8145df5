"""Counts with their nouns, and sentences."""

from __future__ import annotations


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
