"""Sentences that the times of a comparison support; never “faster” without its window and its minutes."""

from collections.abc import Sequence
from dataclasses import dataclass

from ..factors import FACTORS, SAME_AMBIENT_K, said_of
from ..log.check_ins import falls
from ..measured import Measured, total
from ..milestones import SLOWS_FROM
from ..noise import NO_DIFFERENCE, Noise
from ..units import MINUTE_S
from ..wording import counted, decimals, duration, plus_minus, temperature, temperature_rise
from .compare import Difference, Pair, Timed, Versus
from .contender import Contender, Warm, lost_within
from .copies import copy_said
from .curves import Gap
from .energies import energy_difference, metered_energies
from .pairing import COOL_MIN, differences, fair_said, stated_by_neither
from .repeats import Repeats
from .window import NARROW_POINTS, Lap, Window


@dataclass(frozen=True)
class PairWords:
    """A pair in words. said : strong words stand between asterisks; rates : less time and higher rate, named; fair :
    whether it is and why; notes : what else to know; settle : what would settle it."""

    said: str
    rates: str
    fair: str
    notes: tuple[str, ...]
    settle: str


def window_said(window: Window) -> str:
    """`from 10 to 80 %`."""
    return f"from {window[0]:g} to {window[1]:g} %"


def minutes_said(minutes: float, noise: float) -> str:
    """`22 ± 13 min`, rounded as the noise warrants."""
    places = decimals(noise)
    return f"{abs(minutes):.{places}f} ± {noise:.{places}f} min"


def rates_said(difference: Difference) -> str:
    """Less time and higher rate, both named; by the estimates."""
    return f"{difference.less_time_percent:.0f} % less time, {difference.higher_rate_percent:.0f} % higher rate"


def pair_words(comparison: Versus, pair: Pair, with_settle: bool = True) -> PairWords:
    """A pair of a comparison in words."""
    a, b = comparison.cells[pair.a].label, comparison.cells[pair.b].label
    fair, notes = fair_said(pair.apart), [*pair.apart.method, *pair.apart.order]
    if pair.difference is None:
        return PairWords(f"{a} and {b}: *no comparison* {window_said(comparison.window)}", "", fair, tuple(notes), "")
    verdict = pair.difference.verdict
    noise = verdict.noise.minutes
    if not pair.difference.verdict.shown:
        settle = ""
        if with_settle and abs(verdict.minutes_saved) > 0.0:
            more = comparison.timed.repeats_to_settle(pair.a, pair.b)
            settle = (
                f"{counted(more, 'more run')} of each would show a difference of this size with 80 % probability"
                if more is not None
                else "Too close to tell with these check-ins"
            )
        times = [round(float(comparison.timed.sides.minutes[n])) for n in (pair.a, pair.b)]
        apart = f"{times[0]} and {times[1]} min, {abs(times[0] - times[1])} min apart, noise {noise:.0f} min"
        text = f"{a} and {b}: *{NO_DIFFERENCE}* {window_said(comparison.window)} ({apart})"
        return PairWords(text, "", fair, tuple(notes), settle)
    fast, slow = (a, b) if verdict.minutes_saved > 0 else (b, a)
    by = minutes_said(verdict.minutes_saved, noise)
    text = f"{fast} is sooner than {slow} by *{by}* {window_said(comparison.window)}"
    return PairWords(text, rates_said(pair.difference), fair, tuple(notes), "")


def short_said(difference: Difference, a: str, b: str) -> tuple[str, bool]:
    """A difference in a few words, and whether it is shown."""
    verdict = difference.verdict
    if not verdict.shown:
        return NO_DIFFERENCE, False
    faster = a if verdict.minutes_saved > 0 else b
    return f"{faster} {minutes_said(verdict.minutes_saved, verdict.noise.minutes)} sooner", True


def besides_said(start: float, at: Sequence[tuple[float, str, bool]], settle: str) -> str:
    """A pair to the other milestones: (percent, in a few words, whether shown) each; for a tie what would settle it."""
    ties = [f"{percent:g}" for percent, _, shown in at if not shown]
    parts = [f"to {' and '.join(ties)} %: {NO_DIFFERENCE}"] if ties else []
    parts += [f"to {percent:g} %: {part}" for percent, part, shown in at if shown]
    if parts:
        parts[0] = f"from {start:g} {parts[0]}"
    return "; ".join([*parts, *([settle] if settle else [])])


def gap_said(comparison: Versus, pair: Pair, gap: Gap) -> str:
    """The largest gap of a pair, in words."""
    ahead = comparison.cells[pair.a if gap.points > 0 else pair.b].label
    since = "placing" if comparison.align == "placement" else f"{comparison.window[0]:g} %"
    when = f"{duration(gap.minute * MINUTE_S)} after" if gap.minute >= 1.0 else "at"
    return f"largest gap: {ahead} {abs(gap.points):.0f} points ahead, {when} {since}"


def noise_said(timed: Timed, i: int, j: int, noise: Noise) -> str:
    """Working of the noise of a pair, with its own numbers."""
    spread = timed.spread(i, j)
    basis = f"{spread.assumed * 100:.0f} % assumed, as {spread.assumed_dof:.0f} degrees of freedom"
    if spread.measured_dof:
        basis += f", pooled with {spread.measured * 100:.1f} % measured on {spread.measured_dof:.0f}"
    mine, other = timed.sides.minutes[i], timed.sides.minutes[j]
    n, m = round(float(timed.sides.runs[i])), round(float(timed.sides.runs[j]))
    runs = "one run each" if n == m == 1 else f"{n} and {counted(m, 'run')}"
    return (
        f"Spread of a run {spread.share * 100:.1f} % ({basis}) of {mine:.1f} and {other:.1f} min, "
        f"{runs}, with the intervals of the check-ins: "
        f"u = {noise.standard:.2f} min; t = {noise.factor:.2f} at {noise.dof:.1f} degrees of freedom."
    )


def spread_said(timed: Timed) -> str:
    """By which spread the runs are judged, in a few words."""
    spread = timed.spreads[bool(timed.chamber.all())]
    if not spread.measured_dof:
        where = "in a chamber" if timed.chamber.all() else "in a room"
        return f"run-to-run spread {spread.assumed * 100:.0f} % (assumed, {where}; no repeats yet)"
    repeats = counted(round(spread.measured_dof), "repeat")
    return f"run-to-run spread {spread.share * 100:.1f} % ({repeats}, plus an assumed {spread.assumed * 100:.0f} %)"


def mean_lap(laps: Sequence[Lap]) -> tuple[float, float, float] | None:
    """Earliest, estimate and latest over a window, the means of repeats [min]."""
    if not laps:
        return None
    n = len(laps)
    return sum(x.earliest for x in laps) / n, sum(x.estimate for x in laps) / n, sum(x.latest for x in laps) / n


def cell_energy(cell: Repeats, laps: Sequence[Lap]) -> Measured | None:
    """Energy at the meter over the window, the mean of the repeats that were metered [Wh]."""
    values = metered_energies(cell, laps)
    return total(values).scaled(1.0 / len(values)) if values else None


def hottest(cell: Repeats, laps: Sequence[Lap]) -> Warm | None:
    """The heat over the window of that run of a cell which got hottest in it."""
    known = [
        warm
        for run, x in zip(cell.runs, laps, strict=False)
        if run.course.warm is not None
        and (warm := run.course.warm.within(x.start.estimate, x.end.estimate)) is not None
    ]
    return max(known, key=lambda w: w.hottest_c, default=None)


def lost_minutes(cell: Repeats, laps: Sequence[Lap]) -> Measured | None:
    """Cost of heat: what heat cost the runs of a cell over the window, as far as it lies below 80 %, their mean
    [min].
    """
    values = [
        lost
        for run, x in zip(cell.runs, laps, strict=False)
        if (lost := lost_within(run.course, x.start.estimate, x.end.estimate)) is not None
    ]
    return total(values).scaled(1.0 / len(values)) if values else None


def summary_said(comparison: Versus, fahrenheit: bool = False) -> list[str]:
    """The comparison as a whole: who is soonest, how hot they got, what heat cost, who took least energy."""
    lines = [_first_said(comparison), *heat_said(comparison, fahrenheit)]
    rows = list(zip(comparison.cells, comparison.timed.laps, strict=True))
    cost = [(c.label, m) for c, laps in rows if (m := lost_minutes(c, laps)) is not None and m.value >= 0.5]
    if cost:
        below = window_said((comparison.window[0], min(comparison.window[1], float(SLOWS_FROM))))
        lines.append("Heat cost " + ", ".join(f"{label} *{plus_minus(m, 'min')}*" for label, m in cost) + f" {below}")
    return [*lines, *energy_said(comparison)]


HEAT_NOISE_K = 2.0
"""Within how much a probe that is taped on again reads the same heat, two standard deviations (own choice)."""


def heat_said(comparison: Versus, fahrenheit: bool = False) -> list[str]:
    """Which row got hottest and which stayed coolest: in °C where the rooms were alike, else over the room; a
    difference within the noise of a probe is none. Where the rooms differ and are not known, nobody can say."""
    rows = [
        (c, w)
        for c, laps in zip(comparison.cells, comparison.timed.laps, strict=True)
        if (w := hottest(c, laps)) is not None
    ]
    over = window_said(comparison.window)
    if len(rows) < 2:
        return []
    if rooms_alike([c for c, _ in rows]):
        by = [(c.label, w.hottest_c, temperature(w.hottest_c, fahrenheit)) for c, w in rows]
    else:
        by = [
            (c.label, w.rise_k, f"{temperature_rise(w.rise_k, fahrenheit)} over its room")
            for c, w in rows
            if w.rise_k is not None
        ]
        if len(by) < 2:
            return [f"How hot they got {over} cannot be compared: the rooms differ, or are not known"]
    by.sort(key=lambda x: -x[1])
    (most, high, at_most), (least, low, at_least) = by[0], by[-1]
    if high - low <= HEAT_NOISE_K:
        within = temperature_rise(HEAT_NOISE_K, fahrenheit)
        return [f"Heat {over}: {at_least} to {at_most}, *{NO_DIFFERENCE}* (a probe repeats within {within})"]
    return [f"Hottest {over}: {most}, *{at_most}*; coolest: {least}, {at_least}"]


def rooms_alike(cells: Sequence[Repeats]) -> bool:
    """Whether rows were made in rooms alike, so that their temperatures compare as they are; none known counts as
    alike."""
    rooms = [c.first.known_room_c for c in cells]
    known = [room for room in rooms if room is not None]
    return not known or (len(known) == len(rooms) and max(known) - min(known) <= SAME_AMBIENT_K)


def energy_said(comparison: Versus) -> list[str]:
    """The least energy, phone by phone: another battery takes another energy."""
    by_phone: dict[str, list[tuple[int, str, Measured]]] = {}
    for n, (cell, laps) in enumerate(zip(comparison.cells, comparison.timed.laps, strict=True)):
        energy = cell_energy(cell, laps)
        if energy is not None and energy.value > 0:
            by_phone.setdefault(battery_key(cell), []).append((n, cell.label, energy))
    lines, over = [], window_said(comparison.window)
    for own in (o for o in by_phone.values() if len(o) > 1):
        own.sort(key=lambda x: x[2].value)
        (first, least, e), (last, most, m) = own[0], own[-1]
        apart = energy_difference(comparison, first, last)
        if apart is None or not apart.shown:
            names = f"{least} and {most}" if len(own) == 2 else f"{least} … {most}"
            span = f"{plus_minus(e, 'Wh')} to {plus_minus(m, 'Wh')}"
            lines.append(f"Energy at the meter {over}: {names}, {span}, *{NO_DIFFERENCE}*")
        else:
            more = (m.value / e.value - 1.0) * 100.0
            lines.append(
                f"Least energy at the meter {over}: {least}, *{plus_minus(e, 'Wh')}*; {most} takes {more:.0f} % more"
            )
    return lines


def battery_key(cell: Repeats) -> str:
    """Key of the battery that a row fills: energies are held against each other within one only."""
    phone, mah = cell.first.levels.get("phone", ""), cell.first.capacity_mah
    return phone or ("" if mah is None else f"{mah:g}")


def _first_said(comparison: Versus) -> str:
    first = [c.label for c, rank in zip(comparison.cells, comparison.rank, strict=True) if rank == 1]
    over = window_said(comparison.window)
    if len(first) == comparison.ranked:
        which = "the two" if comparison.ranked == 2 else f"any of the {comparison.ranked}"
        return f"*No difference shown* {over} between {which}"
    if len(first) == 1:
        n = next(k for k, rank in enumerate(comparison.rank) if rank == 1)
        return f"Soonest {over}: *{first[0]}*, {duration(comparison.timed.sides.minutes[n] * MINUTE_S)}"
    return f"Soonest {over}: one of {', '.join(f'*{x}*' for x in first)}; {NO_DIFFERENCE} between them"


def warnings_said(comparison: Versus) -> list[str]:
    """Cautions about a comparison, the gravest first."""
    runs = [r for c in comparison.cells for r in c.runs]
    warned = [reason[0].upper() + reason[1:] + "." for reason in (*comparison.unfit, *comparison.dropped) if reason]
    kept_in = {r.key for c in comparison.cells for r in c.runs}
    warned += [
        f"{copy_said(run, of)}. {'They cannot differ' if run.key in kept_in else 'It is left out'}."
        for run, of in comparison.copied
    ]
    for cell in comparison.cells:
        apart = {said_of(n) for r in cell.runs[1:] for n in differences(cell.first, r).differs}
        if apart:
            warned.append(
                f"Runs of {cell.label} are taken as repeats, though they differ in {', '.join(sorted(apart))}."
            )
    unsure = [c.label for c in comparison.cells if any(r.course.power and r.course.power.unsure for r in c.runs)]
    if unsure:
        warned.append(
            f"The meter's accuracy is not known for {', '.join(unsure)}, and is not part of the ± of its energy."
        )
    low, high = comparison.window
    if high - low < NARROW_POINTS:
        warned.append(
            f"The window {window_said(comparison.window)} is narrow: a reading is off by half a point at each end."
        )
    for run in runs:
        if _fell(run):
            warned.append(f"{run.label}: the percentage fell on the way, so that for a time it was not charged.")
        elif run.course.contacts:
            lost = sum(b - a for a, b in run.course.contacts)
            warned.append(f"{run.label} lost contact for {duration(lost * MINUTE_S)}: its time includes that.")
    if any(r.simulated for r in runs):
        warned.append("Simulated runs are forecasts: they show what to expect, not what is.")
    common = [f.name for f in FACTORS if f.common]
    neither = [said_of(n) for n in common if all(n in stated_by_neither(r, r) for r in runs)]
    if neither:
        warned.append(f"Stated by no run, so taken as equal: {', '.join(neither)}.")
    spread = comparison.timed.spreads[bool(comparison.timed.chamber.all())]
    if not spread.measured_dof:
        warned.append(
            f"One run each: the spread of a run is assumed, {spread.assumed * 100:.0f} % of its time, not measured."
        )
    return warned + survey_said(runs)


def _fell(run: Contender) -> bool:
    """Whether the percentage fell on the way up, but for a point or so while a charge limit held it."""
    readings = run.course.readings
    if readings is None:
        return False
    top_s = float(readings.time_s[int(readings.percent.argmax())])
    held = [(a * MINUTE_S, (b + 1.0) * MINUTE_S) for a, b in run.course.holds]
    return any(at < top_s for at, _, _ in falls(readings, held))


def survey_said(runs: Sequence[Contender]) -> list[str]:
    """Caution that chargers were surveyed one after another on a phone without coming back to the first."""
    lines = []
    by_phone: dict[str, list[Contender]] = {}
    for run in runs:
        if run.began_min is not None and run.levels.get("phone"):
            by_phone.setdefault(run.levels["phone"], []).append(run)
    for own in by_phone.values():
        own.sort(key=lambda r: r.began_min or 0.0)
        close = [r for r in own[1:] if r.after is not None and r.after < COOL_MIN]
        if len(close) >= 2 and own[0].levels.get("charger") != own[-1].levels.get("charger"):
            lines.append(
                f"On {own[0].factors['phone']} the chargers were run one after another: each met a warmer phone. "
                "Repeat the first at the end, to see how much that is."
            )
    return lines
