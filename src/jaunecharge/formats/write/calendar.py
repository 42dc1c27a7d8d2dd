"""A schedule as a calendar (iCalendar, RFC 5545): what is to be begun, and when, by the local clock."""

import datetime as dt
from collections.abc import Sequence
from zoneinfo import ZoneInfo

from icalendar import Alarm, Calendar
from icalendar import Event as Entry

from ...core.plan import AgendaEvent

REMIND_BEFORE = dt.timedelta(minutes=10)
PRODUCT = "-//Jaunecharge//Plan//EN"


def calendar(
    events: Sequence[AgendaEvent], name: str, zone: ZoneInfo, plan: str, revision: int, stamp: dt.datetime
) -> bytes:
    """A calendar of drains, runs and their ends; times by the clock of a zone, with its rules beside them.

    Parameters
    ----------
    events : sequence of AgendaEvent
    name : str
        Of the calendar.
    zone : ZoneInfo
    plan : str
        What identifies the plan, so that a newer calendar replaces the entries of an older one.
    revision : int
        Rises with every change of the plan (SEQUENCE).
    stamp : datetime
        When it was written.
    """
    ics = Calendar()
    ics.add("prodid", PRODUCT)
    ics.add("version", "2.0")
    ics.add("calscale", "GREGORIAN")
    ics.add("method", "PUBLISH")
    ics.add("name", name)
    ics.add("x-wr-calname", name)
    for event in events:
        ics.add_component(_entry(event, zone, plan, revision, stamp))
    if events:
        first, last = min(e.at for e in events), max(e.until for e in events)
        ics.add_missing_timezones(dt.date(first.year - 1, 1, 1), dt.date(last.year + 2, 1, 1))
    return bytes(ics.to_ical())


def _entry(event: AgendaEvent, zone: ZoneInfo, plan: str, revision: int, stamp: dt.datetime) -> Entry:
    entry = Entry()
    entry.add("uid", f"{plan}-{event.slot or 'plan'}-{event.kind}@jaunecharge")
    entry.add("sequence", revision)
    entry.add("dtstamp", stamp.astimezone(dt.UTC))
    entry.add("dtstart", event.at.astimezone(zone))
    if event.until > event.at:
        entry.add("dtend", event.until.astimezone(zone))
    entry.add("summary", event.said)
    entry.add("transp", "TRANSPARENT")
    alarm = Alarm()
    alarm.add("action", "DISPLAY")
    alarm.add("description", event.said)
    alarm.add("trigger", -REMIND_BEFORE)
    entry.add_component(alarm)
    return entry
