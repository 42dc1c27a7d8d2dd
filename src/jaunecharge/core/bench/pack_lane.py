"""Lanes of packs: kinds, steps of setting them, what they say while they run, and what their log holds."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..arrays import Array, percentile
from ..packs import FULL_LASTS_S, FULL_SHARE, USUAL_YIELD, PackLevel, typed_level
from ..units import HOUR_S, MINUTE_S
from ..wording import duration, share
from .entry_items import pack_level_text
from .lane_log import Entered
from .setup_steps import POWERED_V, OnBench, Step, Told, step

LaneKind = Literal["charge", "pack charge", "load", "recharge", "phone to phone"]
"""A phone on a charger; on a pack; a pack under load; a pack being filled; a phone on a phone."""

PACK_ALONE = frozenset({"load", "recharge"})
"""Lanes without a phone: what they log is the pack's."""

BEFORE_SLACK_S = 5 * MINUTE_S
"""A level that was read within five minutes of the placing is the one before the charge (own choice)."""

LOW_SHARE, LOW_W, LOW_LASTS_S = 0.03, 0.05, 30.0
"""An output that gives 3 % of its best, or 50 mW, for half a minute is off (own choice)."""


@dataclass(frozen=True)
class LevelEntered:
    """A level of a pack as it was entered: when [s], as it is typed."""

    t_s: float
    text: str

    def level(self, lamps: int | None = None) -> PackLevel:
        """The level that it is.

        Raises
        ------
        CannotRead
        """
        return typed_level(self.text, lamps)


def pack_levels(entered: Sequence[Entered]) -> list[LevelEntered]:
    """Levels of the pack that were entered, in order of time."""
    found = [LevelEntered(e.t_s, pack_level_text(e.item)) for e in entered if e.item.kind == "pack"]
    return sorted(found, key=lambda x: x.t_s)


def level_before(levels: Sequence[LevelEntered], placed_s: float) -> LevelEntered | None:
    """The last level before something began; None where none was read."""
    before = [x for x in levels if x.t_s <= placed_s + BEFORE_SLACK_S]
    return before[-1] if before else None


def levels_around(levels: Sequence[LevelEntered], placed_s: float) -> tuple[LevelEntered, LevelEntered] | None:
    """The level before a charge and the last one after it; None where one of both was not read."""
    first = level_before(levels, placed_s)
    last = levels[-1] if levels else None
    return None if first is None or last is None or last is first else (first, last)


def given_readings(
    levels: Sequence[LevelEntered], check_ins: Sequence[tuple[float, float]], placed_s: float
) -> list[tuple[float, float, float]]:
    """Both phones at the moments at which the giver was read: minutes after placing, giver, taker [%].

    Parameters
    ----------
    levels : sequence of LevelEntered
        Of the giver.
    check_ins : sequence of (at [s], %)
        Of the taker; between two of them it is taken to rise straight.
    placed_s : float [s]
    """
    if not check_ins:
        return []
    t, p = (np.array(x, dtype=float) for x in zip(*check_ins, strict=True))
    rows = []
    for read in levels:
        if t[0] - BEFORE_SLACK_S <= read.t_s <= t[-1] + BEFORE_SLACK_S:
            minute = max(0.0, (read.t_s - placed_s) / MINUTE_S)
            rows.append((round(minute, 2), read.level().middle, round(float(np.interp(read.t_s, t, p)), 1)))
    return [row for n, row in enumerate(rows) if n == 0 or row[0] > rows[n - 1][0]]


@dataclass(frozen=True)
class PackNow:
    """A pack's lane just now: in words, energy so far [Wh], and since when the output is off, or it draws next to
    nothing [s], None where it does not."""

    said: str
    wh: float
    low_since_s: float | None


def pack_now(
    kind: LaneKind, now_s: float, placed_s: float | None, time_s: Array, watts: Array, step_s: float, rated_wh: float
) -> PackNow:
    """A lane of a pack alone at a moment.

    Parameters
    ----------
    time_s, watts : (n,) float array [s], [W]
        Middles and means of its steps so far, `step_s` [s] long.
    rated_wh : float [Wh]
        0 where it is not known.
    """
    if placed_s is None:
        return PackNow("waiting for the load" if kind == "load" else "waiting for the cord", 0.0, None)
    later = time_s >= placed_s - step_s / 2
    t, w = time_s[later], watts[later]
    wh = float(w.sum()) * step_s / HOUR_S
    if not len(w):
        return PackNow("logged by hand", 0.0, None)
    since = low_since_s(t, w, LOW_SHARE if kind == "load" else FULL_SHARE)
    if kind == "recharge":
        full = since is not None and now_s - since >= FULL_LASTS_S
        return PackNow(f"{'full' if full else 'filling'}: {wh:.1f} Wh taken", wh, since)
    if since is not None:
        return PackNow(f"output off for {duration(now_s - since)}: {wh:.1f} Wh given", wh, since)
    part = f", {share(wh / rated_wh)} of what is printed" if rated_wh else ""
    left_s = (rated_wh * USUAL_YIELD - wh) / max(0.01, float(w[-3:].mean())) * HOUR_S
    more = f"; empty in about {duration(left_s)}, at a usual yield" if rated_wh and left_s > 0 else ""
    return PackNow(f"under load: {wh:.1f} Wh given{part}{more}", wh, None)


def low_since_s(time_s: Array, watts: Array, part: float = LOW_SHARE) -> float | None:
    """Since when next to nothing is drawn, against its best [s]; None where something is, or never was."""
    if not len(watts):
        return None
    best = percentile(watts, 95)
    above = np.flatnonzero(watts > max(LOW_W, part * best))
    if best <= LOW_W or not len(above) or above[-1] == len(watts) - 1:
        return None
    return float(time_s[above[-1] + 1])


def pack_steps(kind: LaneKind, lane: str, level: str, bench: OnBench, answers: Mapping[str, Told]) -> tuple[Step, ...]:
    """The steps of setting a lane of a pack alone. lane : how its entries begin; level : of the pack as it was entered
    last, empty where it was not."""
    noted = (
        step("pack", f"Pack full: type {lane} pack 100", _full(level), answers, level, _not_full(level))
        if kind == "load"
        else step("pack", f"Note its level: type {lane} pack 0", level != "", answers, level)
    )
    listed = [noted]
    powered = bench.volts is not None and bench.volts >= POWERED_V
    volts = "" if bench.volts is None else f"{bench.volts:.2f} V"
    words = "Note the volts, nothing on it" if kind == "load" else "Adapter in: note the volts"
    listed.append(step("volts", words, powered, answers, volts if powered else ""))
    listed.append(step("around", "On a surface that does not burn, in sight", False, answers))
    place = "Load on: t = 0" if kind == "load" else "Plug the pack in: t = 0"
    return (*listed, step("place", place, bench.placed, answers))


def level_step(lane: str, level: str, answers: Mapping[str, Told], giver: bool) -> Step:
    """The step that a charge from a pack, or from a phone, has besides those of every charge."""
    whose = "the giving phone's level" if giver else "the pack's level"
    return step("pack", f"Note {whose}: type {lane} pack 100", level != "", answers, level)


def _full(level: str) -> bool:
    return level != "" and typed_level(level).high >= 100.0


def _not_full(level: str) -> str:
    if level == "" or _full(level):
        return ""
    return "fill it first: what it gives is counted from full"
