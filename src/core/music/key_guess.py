"""The key signature that notes fit best, where nobody says one.

References
----------
Krumhansl & Kessler (1982), Tracing the dynamic changes in perceived tonal organization in a spatial
representation of musical keys, Psychological Review 89.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

# How well each step of the scale fits a key, from its keynote up.
MAJOR = (6.35, 2.23, 3.48, 2.33, 4.38, 4.09, 2.52, 5.19, 2.39, 3.66, 2.29, 2.88)
MINOR = (6.33, 2.68, 3.52, 5.38, 2.60, 3.53, 2.54, 4.75, 3.98, 2.69, 3.34, 3.17)


def guess_key(notes: Sequence[tuple[int, float]]) -> int:
    """Sharps of the key signature that notes, as (semitone, length), fit best; flats negative.

    Parameters
    ----------
    notes : sequence of (int, float)
        Semitone, and length in any one unit.

    Returns
    -------
    int, -7 to 7

    Examples
    --------
    >>> guess_key([(62, 2), (66, 1), (69, 1), (73, 1), (67, 1), (71, 1), (64, 1)])
    2
    """
    weight = np.zeros(12)
    for midi, length in notes:
        weight[midi % 12] += length
    best, fifths = -np.inf, 0
    for tonic in range(12):
        for profile, down in ((MAJOR, 0), (MINOR, 3)):
            fit = float(np.dot(weight, np.roll(profile, tonic) - np.mean(profile)))
            # a fifth is seven semitones, and seven times seven is one beyond four octaves
            signs = (tonic * 7 - down + 5) % 12 - 5
            if fit > best + 1e-9:
                best, fifths = fit, signs
    return fifths
