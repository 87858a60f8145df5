"""A chart that the mechanism contradicts stops the application, and the build, with a reason."""

from django.core.checks import Error, register

from catalogue import shipped
from core.errors import CoreError


@register
def shipped_charts_hold(app_configs=None, **kwargs):
    found = []
    for name, label in shipped.INSTRUMENTS.items():
        try:
            if shipped.catalogue(name).instrument.label != label:
                raise CoreError(f"the instrument is listed as {label!r}")
        except (CoreError, OSError) as error:
            found.append(Error(str(error), hint=f"Mend the data of {name} in src/data.", id="catalogue.E001"))
    return found
