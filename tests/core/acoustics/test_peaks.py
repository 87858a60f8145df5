"""Which maxima stand out: the same as another library says, curve by curve."""

import numpy as np
import pytest

from core.acoustics.bore import NARROW, WIDE, _exact_mean, _narrow_mean
from core.acoustics.peaks import prominent


@pytest.mark.parametrize(("n_curves", "n_freq"), [(1, 3), (1, 5), (40, 60), (20, 700)])
@pytest.mark.parametrize("least", [0.0, 0.5, 3.0])
def test_prominent_maxima_are_those_of_another_library(n_curves, n_freq, least):
    from scipy import signal  # two seconds, which every process would pay for

    random = np.random.default_rng(n_curves + n_freq)
    wander = np.cumsum(random.normal(size=(n_curves, n_freq)), axis=1)
    levels = wander + 5 * np.sin(np.arange(n_freq) / 7)
    curve, at = prominent(levels, least)
    wanted = [
        (n, place) for n, row in enumerate(levels) for place in signal.find_peaks(row, prominence=least)[0]
    ]
    assert list(zip(curve, at, strict=True)) == wanted


def test_curves_without_a_maximum_have_none():
    curve, at = prominent(np.arange(12.0).reshape(3, 4), 0.5)
    assert len(curve) == len(at) == 0


def test_the_mean_between_its_knots_is_the_exact_one():
    stokes = np.linspace(NARROW, WIDE, 20_011)
    assert np.abs(_narrow_mean(stokes) - _exact_mean(stokes * np.sqrt(-1j))).max() < 1e-11
