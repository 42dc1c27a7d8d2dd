"""Doubts about an entry: asked about before it is logged, never refused."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from ..errors import CannotRead
from ..milestones import SLOWS_FROM
from ..units import MINUTE_S, fahrenheit, from_fahrenheit
from .entry_items import EntryItem, pack_level_text
from .pack_lane import LevelEntered

JUMP_POINTS = 4.0
"""Points that a percentage may be ahead of its pace before it is asked about (our own)."""

PACE_TIMES = 2.5
"""Factor: how many times the pace so far a gain may be (our own); after 80 % phones slow, they do not speed up."""

MOST_C_RATE = 4.0
"""No phone takes more than this many times its capacity an hour (from memory: fast wired ones come near)."""

UNEVEN = 2.2
"""Of two neighbouring gains at equal steps, how many times the other the larger may be (33, 50, 56: 17 and 6)."""

OVER_RATING = 1.1
"""Watts over the adapter's rating by this factor are asked about: adapters stand a little more (our own)."""

LIKELY_C = (5.0, 60.0)
"""Between these a phone, a pad or a room is likely; outside, another unit may be meant (our own)."""

LEAP_K, LEAP_WITHIN_S = 10.0, 5 * MINUTE_S
"""A place that changes by so much in so short a time was perhaps misread (our own)."""


@dataclass(frozen=True)
class Known:
    """State of a lane when something is entered.

    percents : (at [s], %) in order; celsius : last (at [s], °C) of each place; adapter_w [W] : the rating; at_s : the
    moment of the entry; placed_s : the placing; placed : whether the phone is on the charger; packs : levels of the
    pack in order; fills : whether it is being filled, else it gives.
    """

    at_s: float
    placed_s: float | None = None
    percents: Sequence[tuple[float, float]] = ()
    celsius: dict[str, tuple[float, float]] = field(default_factory=dict)
    adapter_w: float | None = None
    placed: bool = True
    packs: Sequence[LevelEntered] = ()
    fills: bool = False


@dataclass(frozen=True)
class EntryDoubt:
    """A doubt about an entry, as a question; instead : the item that was perhaps meant, with what both are called:
    `°F` for that one, `keep °C` for what was typed."""

    said: str
    instead: EntryItem | None = None
    names: tuple[str, str] = ("", "")


def doubts(items: Sequence[EntryItem], known: Known, in_fahrenheit: bool = False) -> list[EntryDoubt]:
    """Doubts about some items; empty where there are none."""
    doubtful: list[EntryDoubt] = []
    watts = _watts(items)
    for item in items:
        if item.kind == "percent" and item.value is not None:
            doubtful += [EntryDoubt(doubt) for doubt in _percent(item.value, known)]
        elif item.kind == "celsius":
            doubtful += _celsius(item, known, in_fahrenheit)
        elif item.kind == "pack":
            doubtful += _pack(item, known)
        elif item.kind == "charger" and item.text == "on" and known.placed:
            doubtful.append(EntryDoubt("On? It was never said to be off."))
    if watts is not None and known.adapter_w is not None and watts > known.adapter_w * OVER_RATING:
        doubtful.append(EntryDoubt(f"{watts:.3g} W? The adapter is rated {known.adapter_w:g} W."))
    return doubtful


def _pack(item: EntryItem, known: Known) -> list[EntryDoubt]:
    """A pack that gives does not rise, one that is filled does not fall; before it began either may be."""
    if known.placed_s is None or not known.packs or known.packs[-1].t_s < known.placed_s:
        return []
    last = known.packs[-1]
    try:
        before, after = last.level(), LevelEntered(known.at_s, pack_level_text(item)).level()
    except CannotRead:
        return []
    if not known.fills and after.low > before.high:
        return [EntryDoubt(f"{after.said} after {before.said}? A pack that gives does not rise.")]
    if known.fills and after.high < before.low:
        return [EntryDoubt(f"{after.said} after {before.said}? A pack that is filled does not fall.")]
    return []


def _watts(items: Sequence[EntryItem]) -> float | None:
    units = {i.unit: i.value for i in items if i.kind == "meter" and i.value is not None}
    if "w" in units:
        return units["w"]
    return units["v"] * units["a"] if "v" in units and "a" in units else None


def _percent(value: float, known: Known) -> list[str]:
    earlier = [p for p in known.percents if p[0] <= known.at_s]
    if not earlier:
        return []
    at, last = earlier[-1]
    if value < last:
        return [f"{value:g} after {last:g}? A percentage falls only when the phone is off the charger."]
    minutes = (known.at_s - at) / MINUTE_S
    gain = value - last
    if minutes > 0 and gain > MOST_C_RATE * 100.0 / 60.0 * minutes + 1.0:
        return [f"{value:g} after {last:g}? {gain:g} points in {minutes:.0f} min is more than a battery takes."]
    if len(earlier) >= 2:
        begun, first = earlier[0]
        pace = (last - first) / max(1e-9, (at - begun) / MINUTE_S)
        if gain > max(pace, 0.05) * minutes * PACE_TIMES + JUMP_POINTS:
            return [f"{value:g} after {last:g}? So far it gained {pace * minutes:.0f} points in as long."]
        if odd := denied([*earlier[-2:], (known.at_s, value)]):
            three = f"{earlier[-2][1]:g}, {odd:g}, {value:g}"
            return [f"Was it {odd:g} before? {three} at equal steps do not fit together."]
    return []


def denied(three: Sequence[tuple[float, float]]) -> float | None:
    """The middle one of three percentages at equal steps, where its neighbours deny it; else None.

    Parameters
    ----------
    three : sequence of three (at [s], %)
    """
    (t0, p0), (t1, p1), (t2, p2) = three
    first, second = t1 - t0, t2 - t1
    if min(first, second) <= 0 or abs(first - second) > 0.2 * max(first, second):
        return None
    before, after = p1 - p0, p2 - p1
    uneven = before > UNEVEN * max(after, 0.0) and before - after > 2 * JUMP_POINTS
    return p1 if uneven and p2 < SLOWS_FROM else None


def _celsius(item: EntryItem, known: Known, in_fahrenheit: bool) -> list[EntryDoubt]:
    celsius, typed = item.celsius, item.value
    if celsius is None or typed is None:
        return []
    low, high = LIKELY_C
    other = from_fahrenheit(typed)
    if item.unit == "c" and celsius > high and low <= other <= high:
        meant = replace(item, unit="f")
        question = f"Did you mean {typed:g} °F ({other:.1f} °C)? If it is {typed:g} °C, take the phone off."
        return [EntryDoubt(question, meant, ("°F", "keep °C"))]
    if item.unit == "f" and celsius < low and low <= typed <= high:
        question = f"Did you mean {typed:g} °C? {typed:g} °F is {celsius:.0f} °C."
        return [EntryDoubt(question, replace(item, unit="c"), ("°C", "keep °F"))]
    if celsius > high:
        return [EntryDoubt(f"{_said(celsius, in_fahrenheit)}? If it is right, take the phone off.")]
    last = known.celsius.get(item.text)
    if last is not None and abs(celsius - last[1]) >= LEAP_K and abs(known.at_s - last[0]) <= LEAP_WITHIN_S:
        return [EntryDoubt(f"{_said(celsius, in_fahrenheit)} after {_said(last[1], in_fahrenheit)} just before?")]
    return []


def _said(celsius: float, in_fahrenheit: bool) -> str:
    return f"{fahrenheit(celsius):.1f} °F" if in_fahrenheit else f"{celsius:.1f} °C"
