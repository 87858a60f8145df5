"""Instruments got ready in the background after a start, so that the first pages need not wait for them."""

import time

from django.db import connection
from django.db.models import Max

from catalogue.in_hand import moves_on, of_usual
from catalogue.queries import of_instrument
from studio.models import OwnedInstrument
from studio.shipped import INSTRUMENTS

# So many of the instruments that were played on last; a pause after each, in which pages have their turn.
OWNED, PAUSE_S = 6, 0.05


def instruments():
    """Read the charts, try the models and weigh the evidence of the instruments that were used last.

    After them of all models as they ship: a passage is tried on the whole family.
    """
    used = OwnedInstrument.objects.annotate(last=Max("passages__changed")).select_related("student")
    try:
        for owned in used.order_by("-last", "-pk")[:OWNED]:
            _get_ready(in_hand := of_instrument(owned))
            in_hand.acoustics.model.ensemble.get_ready()
        for name in INSTRUMENTS:
            _get_ready(of_usual(name))
    finally:
        connection.close()


def _get_ready(in_hand):
    in_hand.evidence(in_hand.catalogue.entries)
    moves_on(in_hand)
    time.sleep(PAUSE_S)
