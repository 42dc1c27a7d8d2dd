"""Work to be done when: the events of a schedule, what comes next, what needs somebody tonight."""

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from ..factors import WIRED
from .progress import OVER, REMINDER, SlotState

EventKind = Literal["fill", "drain", "run", "end", "reminder"]
EVENING_H = 18


@dataclass(frozen=True)
class TimedSlot:
    """A slot with its moments: key, phone, what it is run on, and what has happened; the pack that feeds it, and when
    that is plugged in to be full, None where there is none."""

    id: str
    phone: str
    said: str
    state: SlotState
    drain_start: dt.datetime
    start: dt.datetime
    end: dt.datetime
    drains: bool = True
    pack: str = ""
    fill_start: dt.datetime | None = None


@dataclass(frozen=True)
class AgendaEvent:
    """Something to do: when, how long it lasts, what kind, on which slot, and in words."""

    at: dt.datetime
    until: dt.datetime
    kind: EventKind
    slot: str
    said: str


def run_said(phone: str, text: str) -> str:
    """A run in words: `Ostrel Max on Cairn disc, fan`, `Ostrel Max by wire`."""
    return f"{phone} {text.replace(WIRED, 'by wire', 1)}" if text.split(", ")[0] == WIRED else f"{phone} on {text}"


def events(slots: Sequence[TimedSlot]) -> list[AgendaEvent]:
    """Everything that is still to be done, in order of time; the reminder at the end."""
    agenda = []
    for s in slots:
        if s.state in OVER:
            continue
        if s.state == "planned" and s.drains:
            agenda.append(AgendaEvent(s.drain_start, s.start, "drain", s.id, f"Drain {s.phone}"))
        if s.state != "running" and s.fill_start is not None:
            agenda.append(AgendaEvent(s.fill_start, s.start, "fill", s.id, f"Plug {s.pack} in, to be full"))
        if s.state != "running":
            agenda.append(AgendaEvent(s.start, s.end, "run", s.id, f"Start {run_said(s.phone, s.said)}"))
        agenda.append(AgendaEvent(s.end, s.end, "end", s.id, f"End of {run_said(s.phone, s.said)}"))
    if slots:
        last = max(s.end for s in slots)
        agenda.append(AgendaEvent(last, last, "reminder", "", REMINDER))
    return sorted(agenda, key=lambda e: (e.at, e.kind == "reminder", e.said))


def next_step(slots: Sequence[TimedSlot]) -> AgendaEvent | None:
    """The next thing that somebody has to begin; None once nothing is left."""
    return next((e for e in events(slots) if e.kind in {"drain", "run"}), None)


def tonight(slots: Sequence[TimedSlot], now: dt.datetime) -> list[AgendaEvent]:
    """Work to be done from this evening until tomorrow morning; `now` by the clock of the plan's zone."""
    day = now.date() if now.hour >= 4 else now.date() - dt.timedelta(days=1)
    evening = dt.datetime.combine(day, dt.time(EVENING_H), now.tzinfo)
    begins = max(evening, now)
    ends = dt.datetime.combine(day + dt.timedelta(days=1), dt.time(4), now.tzinfo)
    return [e for e in events(slots) if begins <= e.at < ends and e.kind in {"fill", "drain", "run", "end"}]


@dataclass(frozen=True)
class Evening:
    """Work to be done tonight, and what comes after it, in words."""

    due: tuple[AgendaEvent, ...]
    then: str


def evening(slots: Sequence[TimedSlot], now: dt.datetime) -> Evening:
    """Work to be done tonight, and when the next thing after it comes; `now` by the clock of the plan's zone."""
    due = tonight(slots, now)
    after = next((e for e in events(slots) if e.at > (due[-1].at if due else now) and e.kind != "reminder"), None)
    text = "" if due else "Nothing needs you tonight. "
    if after is None:
        return Evening(tuple(due), "Nothing else is left to do." if due else "Nothing is left to do.")
    local = after.at.astimezone(now.tzinfo)
    when = f"{local:%H:%M}" if (local - now).total_seconds() < 20 * 3600 else f"{local:%a %H:%M}"
    return Evening(tuple(due), f"{text}Nothing else before {when}.")
