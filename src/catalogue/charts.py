"""Charts as files to take away: the whole chart, the teacher's own fingerings, a template to fill in."""

from core.charts.chart_format import template_csv, write_csv, write_json

CHARTS = {"csv": "text/csv; charset=utf-8", "json": "application/json"}


def chart_text(hand, form, what):
    """Name, text and content type of a chart; `what` is ``own``, ``template`` or the whole."""
    if what == "template":
        return (
            f"{hand.model}-template.csv",
            template_csv(hand.catalogue.entries, hand.instrument),
            CHARTS["csv"],
        )
    entries = hand.own if what == "own" else hand.catalogue.entries
    write = {"csv": write_csv, "json": write_json}[form]
    name = f"{hand.model}-own.{form}" if what == "own" else f"{hand.model}.{form}"
    return name, write(entries, hand.instrument), CHARTS[form]
