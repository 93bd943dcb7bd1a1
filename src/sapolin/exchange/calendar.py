"""What is due as a calendar (iCalendar, RFC 5545), for the calendar of a phone or a computer."""

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta

from sapolin.core.cure.due import Due
from sapolin.core.quantities.text import has_template, template

__all__ = ["calendar_ics"]

HOUR_LONG = timedelta(hours=1)
AHEAD = timedelta(minutes=15)
"""The reminder comes so long before."""


def calendar_ics(due: Sequence[Due], now: datetime, address: str) -> bytes:
    """`due` as a calendar. What is due already stands at the full hour after `now`; `address` is where the screens are.

    The same thing has the same identity each time: a calendar that follows this one moves it instead of adding it again.
    """
    from icalendar import Alarm, Calendar, Event

    calendar = Calendar()
    calendar.add("prodid", "-//Sapolin//Sapolin//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", "Sapolin")
    next_hour = now.astimezone(UTC).replace(minute=0, second=0, microsecond=0) + HOUR_LONG
    for one in due:
        if not has_template(f"calendar.{one.kind}"):
            continue
        start = max(next_hour, (one.from_at or next_hour).astimezone(UTC).replace(microsecond=0))
        event = Event()
        event.add("uid", f"{one.batch_id}-{one.kind}@sapolin")
        event.add("dtstamp", now.astimezone(UTC))
        event.add("dtstart", start)
        event.add("dtend", start + HOUR_LONG)
        event.add("summary", f"{template(f'calendar.{one.kind}')}: {one.name} {one.code}")
        stage = "tests" if one.kind == "judge" else "cure"
        event.add("url", f"{address}batches/{one.batch_id}/{stage}")
        alarm = Alarm()
        alarm.add("action", "DISPLAY")
        alarm.add("description", f"{template(f'calendar.{one.kind}')}: {one.name}")
        alarm.add("trigger", -AHEAD)
        event.add_component(alarm)
        calendar.add_component(event)
    return bytes(calendar.to_ical())
