"""The demonstration's plan: half done, one run void, planned anew around it. All invented."""

import datetime as dt
import random
import uuid
from dataclasses import replace

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.factors import OWN_FAN
from ..core.kit import Meter
from ..core.log import zone_named
from ..core.plan import AgendaEvent, Card, OrderRule, PlanCell, cells_of, events
from ..core.simulator import Prepared, prepare, simulate
from ..core.units import MINUTE_S
from ..documents.card import card_of
from ..documents.choice import Hours, PickedCharger, PlanChoice, PlanWishes
from ..store import models as m
from ..store.kit import by_label, item_of
from ..store.plan.cards import add_card
from ..store.plan.plans import add_plan, reschedule, slots_of
from ..store.plan.slots import fill_slot, tell
from ..store.plan.work import NewPlan, choice_of, timed
from ..store.runs.rehearsals import NewRehearsal, add_rehearsal

WARDEN = "hut warden"
ORIGIN = "demo"
ZONE = "Europe/Zurich"
QUESTION = "Which disc is fastest to 80 % in the bunk rooms, and stays under 43 °C?"
PHONES = ("Ostrel Mini", "Ostrel Max", "Tarn 9")
CHARGERS = ("Cairn disc 15", "Serac dock 15", "Moraine magnet pad")
RULE: OrderRule = "randomised"
SEED, FIRST_RUN_SEED = 7, 101
VOID_REASON = "the fan was off"
DRAIN_TAKES, LATE_MIN = 1.06, 3.0
SPREAD_OF_RUNS = 0.04
OFF_AFTER_MIN, LONGEST_MIN = 6.0, 300.0

HUT_CARD = Card(
    name="Bunk room",
    good_for="as guests charge overnight, but quick enough for three days",
    end="to eighty",
    interval_min=5.0,
    ambient_c=24.0,
    repeats=2,
)


LENDING = "Which of the two magnetic packs do we lend out: what does a guest's phone get of each?"
LENT_PHONES, LENT_PACKS = ("Ostrel Mini",), ("Col bank 10", "Scree bank 5")
LENDING_CARD = Card(
    name="Lent out",
    good_for="what a guest gets of a lent pack: from ten to eighty, the phone in a pocket of the rucksack",
    end="to eighty",
    interval_min=15.0,
    ambient_c=24.0,
    repeats=2,
)
LENDING_SEED, LENDING_DAYS = 11, 2


def add_hut_plan(session: Session, now: dt.datetime) -> int:
    """Store the plan as it stands at a moment; how many runs were made for it."""
    card = card_of(add_card(session, HUT_CARD, WARDEN).facts)
    ids = {piece.label: piece.id for piece in session.scalars(select(m.Kit))}
    zone = zone_named(ZONE)
    start = now.astimezone(zone) - dt.timedelta(days=1)
    choice = PlanChoice(
        phones=[ids[p] for p in PHONES],
        chargers=[PickedCharger(id=ids[c]) for c in CHARGERS],
        adapter=ids["Plug 20"],
        cable=ids["Braided 1.5"],
        levels={"airflow": ["still air", OWN_FAN]},
        order=RULE,
        seed=SEED,
        repeats=card.repeats,
        close=False,
    )
    # The dock was only ever run with its fan on: what the plan then says of it is part of the demonstration.
    cells = cells_of(choice_of(session, choice), card)
    still = [c.key for c in cells if c.row.label == CHARGERS[1] and c.around.airflow != OWN_FAN]
    choice = choice.model_copy(update={"left_out": still})
    wishes = PlanWishes(
        start=dt.datetime.combine(start.date(), dt.time(8)), zone=ZONE, attended=[Hours(begins="07:30", ends="22:00")],
        meters=2, plugs=2,
    )  # fmt: skip
    plan = add_plan(session, NewPlan(QUESTION, card, choice, wishes, WARDEN))
    return _play(session, plan, {c.key: c for c in cells}, FIRST_RUN_SEED, now)


def add_lending_plan(session: Session, now: dt.datetime) -> int:
    """Store the plan of the packs, half done; how many runs were made for it. Its packs are full before each run."""
    card = card_of(add_card(session, LENDING_CARD, WARDEN).facts)
    ids = {piece.label: piece.id for piece in session.scalars(select(m.Kit))}
    choice = PlanChoice(
        phones=[ids[p] for p in LENT_PHONES],
        chargers=[PickedCharger(id=ids[c]) for c in LENT_PACKS],
        order=RULE,
        seed=LENDING_SEED,
        repeats=card.repeats,
        close=False,
    )
    cells = cells_of(choice_of(session, choice), card)
    start = now.astimezone(zone_named(ZONE)) - dt.timedelta(days=LENDING_DAYS)
    wishes = PlanWishes(
        start=dt.datetime.combine(start.date(), dt.time(8)), zone=ZONE, attended=[Hours(begins="07:30", ends="22:00")],
        meters=1, plugs=1,
    )  # fmt: skip
    plan = add_plan(session, NewPlan(LENDING, card, choice, wishes, WARDEN))
    return _play(session, plan, {c.key: c for c in cells}, LENDING_SEED * 10, now, most=2)


def _play(
    session: Session, plan: m.Plan, cells: dict[str, PlanCell], seed: int, now: dt.datetime, most: int = 100
) -> int:
    """Let happen what was planned, a little late, until now, or until so many runs were made."""
    count, void = 0, False
    while count < most and (event := _due(session, plan, now)) is not None:
        slot_id = uuid.UUID(event.slot)
        slot = session.get_one(m.Slot, slot_id)
        late = dt.timedelta(minutes=LATE_MIN)
        if event.kind == "drain":
            tell(session, slot_id, "drain", event.at, now, WARDEN, replan=False)
            drained = event.at + dt.timedelta(minutes=slot.drain_min * DRAIN_TAKES)
            if drained < now:
                tell(session, slot_id, "drained", drained, now, WARDEN, replan=False)
        elif event.kind == "run":
            begins = max(event.at, slot.drained_at or event.at) + late
            if begins >= now:
                break
            tell(session, slot_id, "begin", begins, now, WARDEN, replan=False)
            slot.end_at = begins + dt.timedelta(minutes=slot.expected.minutes)
        else:
            if not void and slot.factors["charger"] == CHARGERS[1]:
                void = True
                ends = min(event.at, now)
                tell(session, slot_id, "void", ends, ends, WARDEN, VOID_REASON, again=True)
                continue
            _make_run(session, slot, cells[slot.key], seed + count, now)
            count += 1
    reschedule(session, plan, now, "rescheduled from here", WARDEN)
    return count


PECULIAR: dict[tuple[str, str], tuple[tuple[float, float], ...]] = {
    ("Ostrel Max", "Cairn disc 15"): ((0, 15.0), (35, 12.5), (60, 9.5)),
}
"""Steps down of a phone on a charger in every run of the two [from %, W]; no forecast knows of it."""


def _as_it_went(cell: PlanCell, seed: int) -> Prepared:
    """The run a little stronger or weaker than the last of its kind, taken off soon after 80 %."""
    prepared = prepare(cell.chain, cell.around)
    luck = random.Random(seed).gauss(1.0, SPREAD_OF_RUNS)
    stages = PECULIAR.get((cell.chain.phone.label, cell.row.label), prepared.scenario.stages)
    scenario = replace(prepared.scenario, stages=tuple((p, w * luck) for p, w in stages))
    reached = simulate(scenario).minutes_to(HUT_CARD.ends_at or 100) or LONGEST_MIN
    return replace(
        prepared, scenario=replace(scenario, most_s=scenario.placed_s + (reached + OFF_AFTER_MIN) * MINUTE_S)
    )


def _due(session: Session, plan: m.Plan, now: dt.datetime) -> AgendaEvent | None:
    due = events([timed(s, zone_named(ZONE)) for s in slots_of(session, plan.id)])
    return next((e for e in due if e.slot and e.kind != "fill" and e.at < now), None)


def _meter(session: Session) -> Meter:
    """The meter of the shelf."""
    piece = by_label(session, "Inline A")
    item = None if piece is None else item_of(piece)
    assert isinstance(item, Meter)
    return item


def _make_run(session: Session, slot: m.Slot, cell: PlanCell, seed: int, now: dt.datetime) -> None:
    """A run that plays what the slot asked for, as it would have been logged."""
    began = slot.began_at or now
    ends = began + dt.timedelta(minutes=slot.expected.minutes)
    tell(session, slot.id, "end", min(ends, now), now, WARDEN, replan=False)
    new = NewRehearsal(cell.chain, cell.around, seed, _meter(session), by=WARDEN, zone=ZONE, origin=ORIGIN)
    run = add_rehearsal(session, new, _as_it_went(cell, seed))
    run.started_at = began
    fill_slot(session, run, now, slot.id, replan=False)
