"""A half-made instrument, or a chart that the mechanism contradicts, stops the application with a reason."""

from django.core.checks import Error, register

from catalogue import shipped
from core.errors import CoreError


@register
def shipped_instruments_are_whole(app_configs=None, **kwargs):
    """Everything that a page asks of an instrument is there and can be read."""
    found = []
    for name, label in shipped.INSTRUMENTS.items():
        try:
            if shipped.catalogue(name).instrument.label != label:
                raise CoreError(f"the instrument is listed as {label!r}")
            shipped.plan(name)
            shipped.geometries(name)
            unknown = set(shipped.split(name)["anchors"]) - set(shipped.catalogue(name).by_id)
            if unknown:
                raise CoreError(f"no row of the chart is called {', '.join(sorted(unknown))}")
        except (CoreError, OSError, KeyError, ValueError) as error:
            why = f"{name} is missing there" if isinstance(error, KeyError) else str(error)
            found.append(Error(why, hint=f"Mend the data of {name} in src/data.", id="catalogue.E001"))
    return found
