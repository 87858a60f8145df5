"""Shared by the tests of the models: those that ship with the application."""

import math

from catalogue import shipped

BASES = ("alto-saxophone", "tenor-saxophone", "b-flat-clarinet", "oboe", "bassoon")


def entry(name, row):
    return shipped.catalogue(name).by_id[row]


def predicted(name, row):
    found = entry(name, row)
    return shipped.model(name).predict([(found.fingering, found.note)])[0]


def heights_of_the_lowest(name, text):
    """Height of the lowest resonance in every geometry, over the one that sounds above it."""
    from core.instruments.fingering import parse_fingering

    model = shipped.model(name)
    (each,) = model.resonances([parse_fingering(text, model.instrument)])
    return [peaks[0].height - peaks[1].height for peaks in each]


def cents(frequency, other):
    return 1200 * math.log2(frequency / other)
