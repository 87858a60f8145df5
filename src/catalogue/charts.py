"""Charts as files to take away: the whole chart, the teacher's own fingerings, a template to fill in."""

from core.charts.chart_format import template_csv, write_csv, write_json

CHARTS = {"csv": "text/csv; charset=utf-8", "json": "application/json"}


def chart_text(in_hand, form, what):
    """Name, text and content type of a chart; `what` is ``own``, ``template`` or the whole."""
    instrument, entries = in_hand.instrument, in_hand.catalogue.entries
    if what == "template":
        return f"{instrument.name}-template.csv", template_csv(entries, instrument), CHARTS["csv"]
    write = {"csv": write_csv, "json": write_json}[form]
    if what == "own":
        return f"{instrument.name}-own.{form}", write(in_hand.own, instrument), CHARTS[form]
    return f"{instrument.name}.{form}", write(entries, instrument), CHARTS[form]
