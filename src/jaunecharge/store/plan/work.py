"""A plan worked out from what was picked and what is on the shelf: its runs, what it shows, what was learned before."""

import datetime as dt
import uuid
from dataclasses import asdict, dataclass, replace
from typing import Any
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.errors import CannotRead
from ...core.factors import NAMES, WIRED
from ...core.forecast import Row
from ...core.kit import Adapter, Cable, Case, Phone, as_charger, transmits
from ...core.plan import (
    Card,
    Choice,
    Happened,
    KnownBefore,
    Placed,
    Plan,
    SlotState,
    TimedSlot,
    cost_said,
    deep_drains,
    learned,
    make_plan,
    resolutions,
    run_said,
    runs_said,
    seen_times,
    shows_said,
    trades,
    warnings_of,
)
from ...core.schedule import Task, minutes_between
from ...core.wording import an
from ...documents.choice import PlanChoice, PlanWishes, refuse_many
from .. import models as m
from ..kit import fitted_of, get_piece, item_of, shelf


@dataclass(frozen=True)
class NewPlan:
    """A plan as a person makes it."""

    question: str
    card: Card
    choice: PlanChoice
    wishes: PlanWishes
    by: str = ""


def choice_of(session: Session, picked: PlanChoice) -> Choice:
    """The matrix that was picked, with the kit as it is now.

    Raises
    ------
    NotThere, CannotRead
    """
    refuse_many(picked)
    items = {p.id: item_of(p) for p in shelf(session)}

    def one(piece_id: uuid.UUID, kind: str) -> Any:
        item = items.get(piece_id) or item_of(get_piece(session, piece_id))
        if item.kind != kind:
            raise CannotRead(f"“{item.label}” is {an(item.kind)}", f"pick {an(kind)}", file=kind)
        return item

    rows = []
    for c in picked.chargers:
        item = items.get(c.id) or item_of(get_piece(session, c.id))
        if not transmits(item):
            raise CannotRead(f"“{item.label}” gives nothing by coil", "pick a charger or a pack with a coil", "charger")
        charger = as_charger(item)
        if c.place and c.place not in {p.place for p in charger.pads}:
            raise CannotRead(f"“{charger.label}” has no place “{c.place}”", "choose one of its pads", file="place")
        rows.append(Row(charger, c.place))
    if picked.wired:
        rows.append(Row(None))
    phones: list[Phone] = [one(i, "phone") for i in dict.fromkeys(picked.phones)]
    adapters = (
        [one(picked.adapter, "adapter")] if picked.adapter else [i for i in items.values() if isinstance(i, Adapter)]
    )
    cable: Cable | None = None if picked.cable is None else one(picked.cable, "cable")
    cases = {i.label: i for i in items.values() if isinstance(i, Case)}
    fitted = {p.label: f for p in shelf(session) if (f := fitted_of(p)) is not None}
    order = {name: i for i, name in enumerate(NAMES)}
    levels = sorted(((n, tuple(v)) for n, v in picked.levels.items() if v), key=lambda x: order.get(x[0], 0))
    return Choice(
        phones=tuple(phones),
        rows=tuple(dict.fromkeys(rows)),
        adapters=tuple(adapters),
        cable=cable,
        cases=cases,
        levels=tuple(levels),
        adapter_rule="one for all" if picked.adapter else "each its best",
        left_out=frozenset(picked.left_out),
        forced=frozenset(picked.forced),
        fitted=fitted,
    )


def seen(session: Session, card: Card) -> tuple[frozenset[str], dict[str, list[float]], dict[str, list[float]]]:
    """Chargers that were run before; minutes that drains and cool-downs of phones took under the same start and end."""
    chargers = {
        r for r in session.scalars(select(m.Run.factors["charger"].astext).where(m.Run.deleted_at.is_(None))) if r
    }
    alike = (
        select(m.Slot)
        .join(m.Plan, m.Plan.id == m.Slot.plan_id)
        .where(
            m.Plan.card_json["start"].astext == card.start,
            m.Plan.card_json["end"].astext == card.end,
            m.Slot.drained_at.is_not(None) | m.Slot.cool_at.is_not(None),
        )
    )
    times = seen_times(placed(s) for s in session.scalars(alike))
    return frozenset(chargers), times.drains, times.cools


def worked_out(session: Session, new: NewPlan) -> tuple[Plan, Choice, dict[str, Any]]:
    """The plan of a choice, with what it can show: nothing is kept.

    Raises
    ------
    NotThere, CannotRead
    """
    choice = choice_of(session, new.choice)
    ordering = new.choice.ordering()
    chargers, drains, cools = seen(session, new.card)
    plan = make_plan(choice, new.card, ordering, KnownBefore(chargers))
    forecast = {"drain_forecast": dict(plan.drains), "cool_forecast": dict(plan.cools)}
    plan = replace(
        plan,
        drains={p: learned(t, drains.get(p, [])) for p, t in plan.drains.items()},
        cools={p: learned(t, cools.get(p, [])) for p, t in plan.cools.items()},
    )
    findings = {
        **forecast,
        "said": runs_said(plan),
        "shows": shows_said(plan),
        "one_more": None,
        "warnings": warnings_of(plan, choice, ordering),
        "cost": cost_said(plan),
        "deep": deep_drains(plan),
        "why_order": plan.order.why,
        "resolutions": [asdict(r) for r in resolutions(plan)],
        "trades": [asdict(t) for t in trades(plan)],
        "drains": dict(plan.drains),
        "cools": dict(plan.cools),
        "learned": {p: len(drains.get(p, [])) for p in plan.drains},
    }
    return plan, choice, findings


def happened(slot: m.Slot) -> Happened:
    """State of a slot."""
    state: SlotState = slot.state  # type: ignore[assignment]
    return Happened(state, slot.drain_began_at, slot.drained_at, slot.began_at, slot.ended_at, slot.cool_at)


def placed(slot: m.Slot) -> Placed:
    """A slot for the core."""
    task = Task(
        id=str(slot.id),
        phone=slot.phone,
        charger="" if slot.factors.get("charger") == WIRED else slot.factors.get("charger", ""),
        adapter=slot.factors.get("adapter", ""),
        minutes=slot.expected.minutes,
        attended_min=slot.expected.attended_min,
        drain_min=slot.drain_min,
        cool_min=slot.cool_min,
        said=run_said(slot.phone, slot.said),
        pack=slot.expected.pack,
        fill_min=slot.expected.fill_min,
        rest_min=slot.expected.rest_min,
    )
    return Placed(task, slot.factors, happened(slot), slot.start_at)


Moments = dict[str, tuple[float, float]]


def warmth_of(slots: list[m.Slot]) -> tuple[Moments, dict[str, str], dict[str, float], dict[str, float]]:
    """When the slots of a plan begin and end [min], on which charger, how far above its room that ends [K], and its
    time constant [min]."""
    known = [(s, s.start_at, s.end_at) for s in slots if s.state not in {"void", "let go"}]
    timed = [(s, begins, ends) for s, begins, ends in known if begins is not None and ends is not None]
    if not timed:
        return {}, {}, {}, {}
    first = min(begins for _, begins, _ in timed)
    names = [str(s.id) for s, *_ in timed]
    return (
        {str(s.id): (minutes_between(first, begins), minutes_between(first, ends)) for s, begins, ends in timed},
        dict(zip(names, [placed(s).task.charger for s, *_ in timed], strict=True)),
        {str(s.id): s.expected.pad_end_c - s.expected.ambient_c for s, *_ in timed},
        {str(s.id): s.expected.pad_tau_min for s, *_ in timed},
    )


def timed(slot: m.Slot, zone: ZoneInfo) -> TimedSlot:
    """A slot with its moments, for what is to be done."""
    h = happened(slot)

    def local(moment: dt.datetime | None) -> dt.datetime:
        return (moment or dt.datetime.max.replace(tzinfo=dt.UTC, year=9000)).astimezone(zone)

    return TimedSlot(
        str(slot.id), slot.phone, slot.said, h.state, local(slot.drain_start), local(slot.start_at), local(slot.end_at),
        slot.drain_min > 0, slot.expected.pack, None if slot.fill_at is None else slot.fill_at.astimezone(zone),
    )  # fmt: skip
