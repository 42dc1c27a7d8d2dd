"""Lines as they are typed at the bench: which lane and moment they are for, what stood there before, what is odd."""

import datetime as dt
import uuid
from dataclasses import dataclass, replace
from zoneinfo import ZoneInfo

from ..core.bench import (
    PACK_ALONE,
    EntryDoubt,
    EntryItem,
    Known,
    Line,
    Unclear,
    canonical,
    doubts,
    of_the_pack,
    parse,
    said,
)
from ..core.units import MINUTE_S
from .hub import Hub
from .lane_state import LaneState
from .steady import now

AHEAD_MIN = 1.0


@dataclass(frozen=True)
class Understood:
    """A line for a lane: its items, the moment [s on the lane's clock], and in words what it says and what is odd."""

    state: LaneState
    items: tuple[EntryItem, ...]
    at_s: float
    at: str
    said: list[str]
    before: str
    doubts: list[EntryDoubt]
    instead: str = ""
    """The line that was perhaps meant; empty where nothing speaks for another."""


def understand(
    hub: Hub, text: str, in_fahrenheit: bool = False, only: uuid.UUID | None = None, typed_at: dt.datetime | None = None
) -> Understood | Unclear:
    """A typed line, with what is known of its lane.

    Parameters
    ----------
    only : UUID, optional
        The one lane that may be logged to: a phone in the hand.
    typed_at : datetime, optional
        When it was typed, if that was not now.
    """
    states = {s.lane.name: s for s in list(hub.states.values()) if only is None or s.lane.id == only}
    if not states:
        return Unclear("no lane is open", "set up a lane first")
    line = parse(text, tuple(sorted(states)))
    if isinstance(line, Unclear):
        return line
    state = states[line.lane]
    present = min(typed_at or now(), now())
    at_s = moment_s(state, line, present)
    if isinstance(at_s, Unclear):
        return at_s
    if state.lane.kind in PACK_ALONE:
        line = replace(line, items=tuple(of_the_pack(i) for i in line.items))
    odd = doubts(line.items, known_of(state, at_s), in_fahrenheit)
    return Understood(
        state,
        line.items,
        at_s,
        at_said(line.at),
        [said(i, in_fahrenheit) for i in line.items],
        before(state, line.items[0], at_s),
        odd,
        meant(line, odd),
    )


def meant(line: Line, odd: list[EntryDoubt]) -> str:
    """The line that was perhaps meant, as it would be typed; empty where no doubt knows another."""
    for doubt in odd:
        if doubt.instead is not None:
            same = (i.kind == doubt.instead.kind and i.value == doubt.instead.value for i in line.items)
            items = tuple(doubt.instead if s else i for s, i in zip(same, line.items, strict=True))
            return canonical(replace(line, items=items))
    return ""


def at_said(at: str) -> str:
    """The moment of a line in words; empty for now."""
    if at.startswith("-"):
        return f"{at[1:]} min ago"
    return f"{at[1:]} min after placing" if at.startswith("+") else at


def moment_s(state: LaneState, line: Line, present: dt.datetime) -> float | Unclear:
    """The moment that a line is for [s on the lane's clock]; what is wrong with it where it is still to come.

    Minutes ago, and after the placing, count on the lane's own clock; a time of day is the latest such time in the
    lane's zone.
    """
    to_come = Unclear(f"@{line.at} is still to come", "give a moment that is past, as @14:30 or @-5")
    now_s = state.now_s(present)
    if not line.at:
        return now_s
    if line.at.startswith("-"):
        return now_s - float(line.at[1:]) * MINUTE_S
    if line.at.startswith("+"):
        placed = state.lane.placed_s
        if placed is None or line.items[0].kind == "placed":
            name = state.lane.name
            mend = f"give the time of day, as @14:30, or {name.lower()} placed first"
            return Unclear(f"the phone of lane {name} is not placed yet", mend)
        at_s = placed + float(line.at[1:]) * MINUTE_S
        return to_come if at_s > now_s + AHEAD_MIN * MINUTE_S else min(at_s, now_s)
    local = present.astimezone(ZoneInfo(state.lane.zone))
    hour, minute = (int(part) for part in line.at.split(":"))
    wanted = local.replace(hour=hour, minute=minute, second=0, microsecond=0)
    ahead = (wanted - local).total_seconds() / MINUTE_S
    if ahead > 12 * 60:
        wanted -= dt.timedelta(days=1)
    elif ahead > AHEAD_MIN:
        return to_come
    return state.now_s(min(wanted, local))


def known_of(state: LaneState, at_s: float) -> Known:
    """State of a lane when something is entered."""
    return Known(
        at_s=at_s,
        placed_s=state.lane.placed_s,
        percents=[(t, p) for t, p in state.percents if t <= at_s],
        celsius=state.celsius,
        adapter_w=state.lane.chain.adapter_w,
        placed=not state.off,
        packs=[x for x in state.pack_levels if x.t_s <= at_s],
        fills=state.lane.kind == "recharge",
    )


def before(state: LaneState, item: EntryItem, at_s: float) -> str:
    """The previous value in words: `up from 41 %, 12 min earlier`."""
    if item.kind == "percent" and item.value is not None:
        earlier = [(t, p) for t, p in state.percents if t <= at_s]
        if earlier:
            at, last = earlier[-1]
            way = "up from" if item.value > last else "down from" if item.value < last else "still"
            return f"{way} {last:g} %, {(at_s - at) / MINUTE_S:.0f} min earlier"
    if item.kind == "pack" and state.pack_level is not None:
        return f"{state.pack_level[1]} before, {(at_s - state.pack_level[0]) / MINUTE_S:.0f} min earlier"
    if item.kind == "celsius" and item.text in state.celsius:
        at, last = state.celsius[item.text]
        return f"{last:.1f} °C before, {(at_s - at) / MINUTE_S:.0f} min earlier"
    return ""
