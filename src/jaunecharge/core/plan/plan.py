"""A plan: the runs that a card, a matrix and an order make, what they can show and what they cannot."""

import statistics
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from ..errors import CannotRead
from ..factors import Aliased, aliased
from ..milestones import CHARGE_LIMITS
from ..noise import Spread, interval_variance, resolvable
from ..safety import STOP_C, WARN_C
from ..schedule.greedy import first_schedule
from ..schedule.problem import MOST_RUNS, Problem, Schedule, Task
from ..units import MINUTE_S
from ..wording import counted, duration, threshold
from .agenda import run_said
from .expected import Expected, cool_minutes, drain_minutes, expected
from .matrix import Choice, PlanCell, cells_of
from .method import LOG_STEP_MIN, Card
from .order import Order, OrderRule, Turn, ordered
from .progress import carried_over, warm_said

REPEATS_SHOWN = (1, 2, 3, 4, 5)
INTERVALS_SHOWN = (15.0, 10.0, 5.0, 0.0)


@dataclass(frozen=True)
class Planned:
    """A run of a plan: its id, its turn on its phone, its cell, and what is expected of it."""

    id: str
    turn: Turn
    cell: PlanCell
    expected: Expected

    @property
    def said(self) -> str:
        """In words."""
        return run_said(self.turn.phone, self.cell.said)


@dataclass(frozen=True)
class Resolution:
    """The smallest difference that a plan would show on a phone to a percentage, at power 0.8 [min].

    minutes [min] : what its runs take, about; single : between two chargers picked beforehand; ranking : within a
    ranking of all of them; None where even twice as fast would not show.
    """

    phone: str
    percent: int
    minutes: float
    single: float | None
    ranking: float | None


@dataclass(frozen=True)
class Plan:
    """Runs in the order of each phone; drain and cool-down of each phone [min]; every cell of the matrix with what is
    expected of those that are run."""

    card: Card
    cells: tuple[PlanCell, ...]
    expected: Mapping[str, Expected]
    order: Order
    runs: tuple[Planned, ...]
    drains: Mapping[str, float]
    cools: Mapping[str, float]

    def sequences(self) -> tuple[tuple[str, ...], ...]:
        """The ids of each phone's runs, in order."""
        by_phone: dict[str, list[str]] = {}
        for run in self.runs:
            by_phone.setdefault(run.turn.phone, []).append(run.id)
        return tuple(tuple(ids) for ids in by_phone.values())


@dataclass(frozen=True)
class Ordering:
    """Order of the runs: rule, seed, repeats of every cell, whether the first comes again at the end."""

    rule: OrderRule = "randomised"
    seed: int = 1
    repeats: int = 1
    close: bool = True


@dataclass(frozen=True)
class KnownBefore:
    """Knowledge from before: chargers that were run, drains and cool-downs learned for phones [min]."""

    chargers: frozenset[str] = frozenset()
    drains: Mapping[str, float] = field(default_factory=dict)
    cools: Mapping[str, float] = field(default_factory=dict)


def make_plan(choice: Choice, card: Card, ordering: Ordering, seen: KnownBefore = KnownBefore()) -> Plan:
    """The plan that a choice, a card and an order make.

    Raises
    ------
    CannotRead
        If the matrix is empty or too large.
    """
    cells = cells_of(choice, card)
    wanted = [c for c in cells if c.wanted]
    if not wanted:
        raise CannotRead("every cell is left out", "tick one, or force one", file="matrix")
    by_phone = [(p.label, [c.key for c in wanted if c.chain.phone.label == p.label]) for p in choice.phones]
    count = len(wanted) * ordering.repeats + (sum(len(k) > 1 for _, k in by_phone) if ordering.close else 0)
    if count > MOST_RUNS:
        raise CannotRead(
            f"{count:,} runs are more than anybody makes", f"at most {MOST_RUNS}: fewer cells or repeats", file="matrix"
        )
    order = ordered(by_phone, ordering.repeats, ordering.rule, ordering.seed, ordering.close)
    cell_of = {c.key: c for c in wanted}
    by_cell = dict(zip(cell_of, expected(wanted, card, dict(choice.fitted), seen.chargers), strict=True))
    turns = [turn for own in order.turns for turn in own]
    runs = tuple(Planned(f"r{i + 1}", t, cell_of[t.key], by_cell[t.key]) for i, t in enumerate(turns))
    drains, cools = {}, {}
    for phone in choice.phones:
        own = [r.expected for r in runs if r.turn.phone == phone.label]
        if own:
            drains[phone.label] = seen.drains.get(phone.label, drain_minutes(phone, card))
            cools[phone.label] = seen.cools.get(phone.label, cool_minutes(phone, own))
    return Plan(card, tuple(cells), by_cell, order, runs, drains, cools)


def tasks_of(plan: Plan) -> tuple[Task, ...]:
    """The runs of a plan for the scheduler."""
    return tuple(
        Task(
            id=run.id,
            phone=run.turn.phone,
            charger=run.cell.factors["charger"] if run.cell.chain.charger else "",
            adapter=run.cell.factors.get("adapter", ""),
            minutes=run.expected.minutes,
            attended_min=run.expected.attended_min,
            drain_min=plan.drains[run.turn.phone],
            cool_min=plan.cools[run.turn.phone],
            said=run.said,
            pack=run.expected.pack,
            fill_min=run.expected.fill_min,
            rest_min=run.expected.rest_min,
        )
        for run in plan.runs
    )


def resolutions(plan: Plan) -> list[Resolution]:
    """Resolution of a plan on each phone, to each percentage that its method judges."""
    runs_of = Counter(run.cell.key for run in plan.runs)
    return [
        resolution
        for percent in plan.card.judged_at
        for phone in dict.fromkeys(run.turn.phone for run in plan.runs)
        if (resolution := _resolution(plan, phone, percent, plan.card.interval_var, runs_of)) is not None
    ]


def _resolution(
    plan: Plan, phone: str, percent: int, interval_var: float, runs_of: Mapping[str, int]
) -> Resolution | None:
    own = [c for c in plan.cells if c.key in runs_of and c.chain.phone.label == phone and c.chain.charger is not None]
    times = [m for c in own if (m := plan.expected[c.key].to.get(percent)) is not None]
    if len(times) < 2:
        return None
    minutes = statistics.fmean(times)
    runs = min(runs_of[c.key] for c in own)
    measured = float(sum(n - 1 for n in runs_of.values()))
    pairs = len(own) * (len(own) - 1) // 2
    single, ranking = (
        resolvable(minutes, runs, interval_var, plan.card.spread, measured, comparisons) for comparisons in (1, pairs)
    )
    return Resolution(phone, percent, minutes, single, ranking)


def warm_chargers(plan: Plan, schedule: Schedule) -> list[str]:
    """Where a charger would still be warm from the run before, in words."""
    runs = {r.id: r for r in plan.runs}
    warm = carried_over(
        {s.id: (s.start, s.end) for s in schedule.slots},
        {t.id: t.charger for t in tasks_of(plan)},
        {i: r.expected.pad_end_c - r.expected.ambient_c for i, r in runs.items()},
        {i: r.expected.pad_tau_min for i, r in runs.items()},
    )
    return [warm_said(w, {i: r.turn.phone for i, r in runs.items()}) for w in warm]


@dataclass(frozen=True)
class Trade:
    """Resolution with other repeats and another interval [min], on the phone that shows the least."""

    repeats: int
    interval_min: float
    difference_min: float | None


def trades(plan: Plan) -> list[Trade]:
    """Smallest difference by repeats and interval, to the first percentage that is judged."""
    first = max((r for r in resolutions(plan) if r.percent == plan.card.judged_at[0]), key=_minutes, default=None)
    if first is None:
        return []
    cells, closing = len({run.cell.key for run in plan.runs}), sum(run.turn.closing for run in plan.runs)
    rows = []
    for interval in dict.fromkeys((*INTERVALS_SHOWN, plan.card.interval_min)):
        spread = replace(plan.card, interval_min=interval).spread
        variance = interval_variance(interval or LOG_STEP_MIN)
        for repeats in REPEATS_SHOWN:
            measured = float(cells * (repeats - 1) + closing)
            rows.append(Trade(repeats, interval, resolvable(first.minutes, repeats, variance, spread, measured)))
    return sorted(rows, key=lambda t: (-t.interval_min, t.repeats))


def _minutes(resolution: Resolution) -> float:
    return resolution.minutes


def one_more(choice: Choice, plan: Plan, ordering: Ordering, problem: Problem, schedule: Schedule) -> str:
    """Gain and delay of one repeat more, strong between asterisks; empty where it does not matter.

    Parameters
    ----------
    problem, schedule : Problem, Schedule
        Those of the plan as it is.
    """
    first = [r for r in resolutions(plan) if r.percent == next(iter(plan.card.judged_at), None)]
    if not first or len(plan.runs) * (ordering.repeats + 1) > MOST_RUNS * ordering.repeats:
        return ""
    more = make_plan(
        choice,
        plan.card,
        replace(ordering, repeats=ordering.repeats + 1),
        KnownBefore(frozenset(), plan.drains, plan.cools),
    )
    then = [r.single for r in resolutions(more) if r.percent == first[0].percent and r.single is not None]
    longer = first_schedule(replace(problem, tasks=tasks_of(more), sequences=more.sequences(), end=None), 4)
    if not then or longer is None:
        return ""
    hours = (longer.makespan_min - schedule.makespan_min) / 60.0
    later = counted(round(hours / 24.0), "day") if hours >= 20.0 else f"{max(0.0, hours):.0f} h"
    name = {2: "second", 3: "third", 4: "fourth"}.get(ordering.repeats + 1, f"{ordering.repeats + 1}th")
    return f"A {name} round: *{max(then):.0f} min*, *{later}* more."


def deep_drains(plan: Plan) -> dict[str, int]:
    """Number of drains to dead that a plan costs each phone."""
    counts = Counter(run.turn.phone for run in plan.runs)
    return {phone: counts[phone] if plan.card.deep else 0 for phone in counts}


def cost_said(plan: Plan) -> str:
    """Wear that a plan costs the phones, in one or two sentences."""
    if plan.card.is_spot:
        return "No drains: a spot check begins where the phone stands."
    drains = Counter(run.turn.phone for run in plan.runs)
    each = set(drains.values())
    alike = len(each) == 1
    number = each.pop() if alike else 0
    listed = f" ({', '.join(f'{p}: {n}' for p, n in drains.items())})" if not alike else ""
    if plan.card.deep:
        many = counted(number, "deep discharge") + " for each phone" if alike else f"Deep discharges{listed}"
        return f"{many}, which age a battery. From ten instead of from dead: none."
    many = counted(number, "drain") + " for each phone" if alike else f"Drains{listed}"
    return (
        f"{many}, to {plan.card.starts_at:g} %, none to dead. "
        "Charge limits and optimised charging go back on at the end."
    )


def shows_said(plan: Plan) -> str:
    """Resolution of a plan in one sentence, strong between asterisks."""
    if not plan.card.judged_at:
        return "A spot check shows watts, not minutes: it tells classes of chargers apart, not chargers of one class."
    first = [r for r in resolutions(plan) if r.percent == plan.card.judged_at[0]]
    if not first:
        return "One charger a phone: there is nothing to compare it with."
    known = [r.single for r in first if r.single is not None]
    if len(known) < len(first):
        return "It would not detect even a charger that is twice as fast: repeat the runs."
    worst, best = max(known), min(known)
    text = f"Would detect a difference of *{worst:.0f} min* to {first[0].percent} %"
    if round(best) < round(worst):
        quickest = min(first, key=lambda r: r.single or 0.0)
        text += f" ({best:.0f} on {quickest.phone})"
    return f"{text} with 80 % probability."


def warnings_of(plan: Plan, choice: Choice, ordering: Ordering) -> list[str]:
    """Cautions about a plan, the gravest first."""
    runs, card = plan.runs, plan.card
    warnings = [*_mixed_up(plan, choice)]
    if ordering.rule == "as listed" and len({r.cell.key for r in runs}) > len({r.turn.phone for r in runs}):
        warnings.append("Charger and time of day always change together: the order is as listed. Draw it by lot.")
    for cell in plan.cells:
        outcome = plan.expected.get(cell.key)
        if cell.wanted and cell.pointless:
            warnings.append(f"{run_said(cell.chain.phone.label, cell.said)} is run although {cell.pointless}.")
        if outcome is not None and not outcome.reaches:
            warnings.append(
                f"{run_said(cell.chain.phone.label, cell.said)} is not expected to get to {card.ends_at} %: "
                f"stopped after {duration(outcome.minutes * MINUTE_S)}."
            )
    hot = [r for r in runs if r.expected.hottest_c >= WARN_C]
    if hot:
        worst = max(hot, key=lambda r: r.expected.hottest_c)
        warnings.append(
            f"{worst.said} may reach {worst.expected.hottest_c:.0f} °C: stop and separate "
            f"at {threshold(STOP_C)}, or at any swelling, smell or hiss."
        )
    if card.limits == "left on":
        warnings.append(f"Charge limits are left on: a run may hold at {CHARGE_LIMITS[0]:g} % or so for hours.")
    if ordering.repeats == 1 and len(runs) > 1 and card.judged_at:
        spread: Spread = card.spread
        warnings.append(
            f"One run each: the spread of a run is assumed, {spread.assumed * 100:.0f} % of its time, not measured."
        )
    unknown = {r.cell.factors["charger"] for r in runs if card.continuous and r.expected.attended_min > 0}
    if unknown:
        warnings.append(
            f"First runs of {', '.join(sorted(unknown))}: somebody stays there, as with any charger not known yet."
        )
    if not ordering.close and ordering.repeats == 1 and len(runs) > len(plan.sequences()):
        warnings.append("Nothing is repeated: a drift of room, phone or meter would go unseen.")
    return warnings


def _mixed_up(plan: Plan, choice: Choice) -> list[str]:
    """Aliased levels: on the phones, as chargers are compared on each, and phones with anything else."""
    by_phone: dict[str, list[dict[str, str]]] = {}
    for run in plan.runs:
        by_phone.setdefault(run.turn.phone, []).append(_compared(run))
    warnings: list[str] = []
    several = [p for p, own in by_phone.items() if len({r.get("adapter") for r in own if r.get("adapter")}) > 1]
    bundles = choice.adapter_rule == "each its best" and bool(several)
    if bundles:
        warnings.append(
            f"Charger and adapter change together on {', '.join(several)}: each charger has its best, as a buyer gets "
            "it. The comparison is of both."
        )
    groups: dict[Aliased, list[str]] = {}
    for phone, own in by_phone.items():
        for a in aliased(own):
            if not (bundles and "adapter" in {a.a, a.b}):
                groups.setdefault(a, []).append(phone)
    for a, phones in groups.items():
        warnings.append(a.said if len(phones) == len(by_phone) else f"On {', '.join(phones)}: {a.said}")
    whole = aliased([_compared(r) for r in plan.runs])
    return warnings + [a.said for a in whole if a.a == "phone"]


def _compared(run: Planned) -> dict[str, str]:
    """The factors of a run that a plan chooses; what follows from the card is the same in all."""
    return {k: v for k, v in run.cell.factors.items() if k not in {"method", "start"}}


def runs_said(plan: Plan) -> str:
    """Size of a plan: cells, repeats and runs."""
    phones = len({r.turn.phone for r in plan.runs})
    chargers = len({r.cell.row.label for r in plan.runs if r.cell.row.charger is not None})
    wired = " and wired" if any(r.cell.row.charger is None for r in plan.runs) else ""
    rounds = max(r.turn.repeat for r in plan.runs if not r.turn.closing)
    return (
        f"{counted(chargers, 'charger')}{wired} × {counted(phones, 'phone')}, {counted(rounds, 'round')}, "
        f"{counted(len(plan.runs), 'run')}"
    )
