"""A simulated player: a tone from the resonances of a bore, as a WAV file. Nobody's instrument.

The reed is taken to drive every multiple of the note alike, falling as its number; the bore answers
each as its input impedance stands there. Attack and release are gentle, and the level is low.
"""

from __future__ import annotations

import io
import wave

import numpy as np

from core.acoustics.bore import FloatArray

RATE, SECONDS, FADE_S = 22050, 1.6, 0.06
# Of full scale: it is heard on a stand next to an ear.
LEVEL = 0.16
HARMONICS = 16
FALL = 1.25
# However much the bore refuses a multiple, the reed still gives a little of it: so many dB down at most.
FLOOR_DB = -30.0


def tone(frequency: FloatArray, level: FloatArray, sounding: float) -> FloatArray:
    """Synthesise a note.

    Parameters
    ----------
    frequency, level : np.ndarray [shape=(n_freq,)]
        Hz, rising, and the height of the impedance there in dB.
    sounding : float
        In Hz, above 0.

    Returns
    -------
    np.ndarray [shape=(RATE * SECONDS,)]
        From -LEVEL to LEVEL.

    Raises
    ------
    ValueError
        If the frequency is not above 0.
    """
    if not sounding > 0:
        raise ValueError(f"a frequency must be above 0, got {sounding!r}")
    time = np.arange(int(RATE * SECONDS)) / RATE
    numbers = np.arange(1, HARMONICS + 1)
    numbers = numbers[numbers * sounding < 0.45 * RATE]
    ground = np.interp(sounding, frequency, level)
    answer = np.clip(np.interp(numbers * sounding, frequency, level) - ground, FLOOR_DB, 0.0)
    strength = numbers**-FALL * 10 ** (answer / 20)
    wave_ = (strength[:, None] * np.sin(2 * np.pi * numbers[:, None] * sounding * time)).sum(axis=0)
    fade = np.clip(np.minimum(time, SECONDS - time) / FADE_S, 0, 1)
    return np.asarray(LEVEL * wave_ / np.abs(wave_).max() * np.sin(np.pi / 2 * fade) ** 2)


def wav(samples: FloatArray) -> bytes:
    """Samples as a WAV file: one channel, 16 bits.

    Parameters
    ----------
    samples : np.ndarray [shape=(n,)], -1 to 1

    Returns
    -------
    bytes
    """
    out = io.BytesIO()
    with wave.open(out, "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(RATE)
        file.writeframes((32767 * samples).astype("<i2").tobytes())
    return out.getvalue()
