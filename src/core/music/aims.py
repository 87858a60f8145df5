"""What a teacher aims at in a note or a phrase, where that is more than plain playing."""

from __future__ import annotations

from enum import StrEnum


class Aim(StrEnum):
    """What counts above all where it is set."""

    FULLER = "fuller"
    THINNER = "thinner"
    DARKER = "darker"
    BRIGHTER = "brighter"
    COVERED = "covered"
    IN_TUNE = "in tune"
    EASIEST = "easiest"


# Aims at a colour of tone.
COLOURS = frozenset({Aim.DARKER, Aim.BRIGHTER, Aim.COVERED})
