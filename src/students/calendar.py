"""A week as a calendar: what any calendar application takes in."""

from datetime import UTC, datetime, timedelta

from icalendar import Calendar, Event

from students.screens.week import WeekPage, day_says

CONTENT_TYPE = "text/calendar; charset=utf-8"


def calendar_of(name: str, key: str, page: WeekPage, made: datetime) -> bytes:
    """The days that are not off, and the day that all is for, as events of a whole day (RFC 5545).

    Parameters
    ----------
    name : str
        What the calendar is called.
    key : str
        Tells the student's instrument apart from others: a week taken again replaces the one taken before.
    made : datetime
    """
    calendar = Calendar()
    calendar.add("prodid", "-//Fair Reach//Week of practice//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", name)
    for day in page.days:
        if day.blocks:
            what = f"Practise {page.note}" if page.note else "Practise"
            text = f"{day_says(day)}\n\n{page.caution}\n{page.stop}"
            calendar.add_component(
                _event(f"{key}-{day.date}", day.date, f"{what}, {day.minutes} min", text, made)
            )
    if page.due:
        calendar.add_component(_event(f"{key}-due", page.due, f"Due: {page.passage or 'the plan'}", "", made))
    return calendar.to_ical()


def _event(key, day, summary, text, made):
    event = Event()
    event.add("uid", f"{key}@fair-reach")
    event.add("dtstamp", made.astimezone(UTC))
    event.add("dtstart", day)
    event.add("dtend", day + timedelta(days=1))
    event.add("summary", summary)
    if text:
        event.add("description", text)
    event.add("transp", "TRANSPARENT")
    return event
