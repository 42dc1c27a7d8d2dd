"""Plans: made, changed, scheduled and laid aside, with their slots."""

import datetime as dt
import uuid
from dataclasses import replace

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ...core.errors import Impossible
from ...core.labels import label
from ...core.plan import (
    OVER,
    Choice,
    Plan,
    Planned,
    learned,
    one_more,
    tasks_of,
    what_is_left,
)
from ...core.schedule import (
    Problem,
    Schedule,
    check_problem,
    first_schedule,
    moment_at,
    pace_said,
    refuse_impossible,
)
from ...documents.expected_run import ExpectedRun
from .. import models as m
from ..errors import ChangedMeanwhile, NotThere
from .work import NewPlan, placed, seen, worked_out

RESTARTS_AT_ONCE = 20
SECONDS_FOR_THE_END = 5.0


def soonest_over(plan: Plan, choice: Choice, new: NewPlan) -> tuple[Problem, Schedule]:
    """A first schedule of a plan.

    Raises
    ------
    CannotRead, Impossible
    """
    common = choice.adapters[0].label if choice.adapter_rule == "one for all" else ""
    problem = new.wishes.problem(tasks_of(plan), plan.sequences(), common)
    return problem, _first(problem)


def _first(problem: Problem) -> Schedule:
    check_problem(problem)
    refuse_impossible(problem)
    schedule = first_schedule(problem, RESTARTS_AT_ONCE)
    if schedule is None:
        raise Impossible("No schedule holds these runs within two years.", ["Widen the attended hours."])
    return schedule


def add_plan(session: Session, new: NewPlan) -> m.Plan:
    """Keep a plan with a first schedule.

    Raises
    ------
    CannotRead, NotThere, Impossible
    """
    plan, choice, findings = worked_out(session, new)
    problem, schedule = soonest_over(plan, choice, new)
    schedule = _in_time(problem, schedule)
    findings["one_more"] = one_more(choice, plan, new.choice.ordering(), problem, schedule)
    row = m.Plan(
        id=uuid.uuid4(),
        question=label(new.question, "question") or "What is to be found out?",
        card=new.card,
        choice=new.choice,
        wishes=new.wishes,
        findings=findings,
        schedule={},
        changes=[],
        created_by=new.by,
    )
    session.add(row)
    session.flush()
    slots = {run.id: _new_slot(row.id, i, run, plan) for i, run in enumerate(plan.runs)}
    session.add_all(slots.values())
    session.flush()
    _keep_schedule(row, list(slots.values()), problem, schedule, {k: str(s.id) for k, s in slots.items()})
    return row


def _in_time(problem: Problem, schedule: Schedule) -> Schedule:
    """The schedule, or a better one where it does not meet the end that is wished.

    Raises
    ------
    Impossible
        If none is found that meets it.
    """
    if problem.end_min is None or schedule.makespan_min <= problem.end_min + 1e-9:
        return schedule
    from ...core.schedule import solve

    return solve(problem, SECONDS_FOR_THE_END)


def _new_slot(plan_id: uuid.UUID, position: int, run: Planned, plan: Plan) -> m.Slot:
    return m.Slot(
        id=uuid.uuid4(),
        plan_id=plan_id,
        position=position,
        key=run.cell.key,
        repeat=run.turn.repeat,
        closing=run.turn.closing,
        phone=run.turn.phone,
        said=run.cell.said,
        factors=dict(run.cell.factors),
        expected=ExpectedRun.of(run.expected),
        drain_min=plan.drains[run.turn.phone],
        cool_min=plan.cools[run.turn.phone],
        state="planned",
        void_reason="",
        history=[],
    )


def list_plans(session: Session, deleted: bool = False) -> list[m.Plan]:
    """All plans, the newest first."""
    wanted = m.Plan.deleted_at.is_not(None) if deleted else m.Plan.deleted_at.is_(None)
    return list(session.scalars(select(m.Plan).where(wanted).order_by(m.Plan.created_at.desc())))


def get_plan(session: Session, plan_id: uuid.UUID, deleted: bool = False) -> m.Plan:
    """A plan by its id.

    Raises
    ------
    NotThere
    """
    plan = session.get(m.Plan, plan_id)
    if plan is None or (plan.deleted_at is not None and not deleted):
        raise NotThere(f"there is no plan {plan_id}")
    return plan


def for_change(session: Session, plan_id: uuid.UUID, revision: int | None = None) -> m.Plan:
    """A plan locked for change; with a revision only if nobody has changed it since.

    Raises
    ------
    NotThere, ChangedMeanwhile
    """
    plan = session.scalar(select(m.Plan).where(m.Plan.id == plan_id, m.Plan.deleted_at.is_(None)).with_for_update())
    if plan is None:
        raise NotThere(f"there is no plan {plan_id}")
    if revision is not None and plan.revision != revision:
        raise ChangedMeanwhile("the plan was changed in another window since you opened it")
    return plan


def slots_of(session: Session, plan_id: uuid.UUID) -> list[m.Slot]:
    """The slots of a plan, phone by phone in their order."""
    return list(session.scalars(select(m.Slot).where(m.Slot.plan_id == plan_id).order_by(m.Slot.position)))


def problem_of(session: Session, plan: m.Plan, slots: list[m.Slot]) -> Problem:
    """Scheduling problem of a plan, all its slots as if nothing had begun."""
    wishes, choice = plan.wishes, plan.choice
    sequences: dict[str, list[str]] = {}
    for s in sorted(slots, key=lambda s: s.position):
        sequences.setdefault(s.phone, []).append(str(s.id))
    common = ""
    if choice.adapter is not None:
        common = next((s.factors["adapter"] for s in slots if s.factors.get("adapter")), "")
    return wishes.problem(tuple(placed(s).task for s in slots), tuple(tuple(x) for x in sequences.values()), common)


def reschedule(session: Session, plan: m.Plan, now: dt.datetime, why: str = "", by: str = "") -> None:
    """Plan what is left anew: what has begun stays, learned times are used.

    Raises
    ------
    Impossible
    """
    slots = slots_of(session, plan.id)
    _learn(session, plan, slots)
    problem = what_is_left(problem_of(session, plan, slots), [placed(s) for s in slots], now)
    if problem is not None:
        _keep_schedule(plan, slots, problem, _first(replace(problem, end=None)))
    if why:
        plan.changes = [*plan.changes, {"at": now.isoformat(), "by": by, "why": why}]
    plan.revision += 1
    session.flush()


def left_of(session: Session, plan: m.Plan, now: dt.datetime) -> Problem | None:
    """Rest of a plan that is to be scheduled; None where nothing is."""
    slots = slots_of(session, plan.id)
    return what_is_left(problem_of(session, plan, slots), [placed(s) for s in slots], now)


def _learn(session: Session, plan: m.Plan, slots: list[m.Slot]) -> None:
    """Give what is planned the drains and cool-downs that are known by now, and say what they rest on."""
    _, drains, cools = seen(session, plan.card)
    forecast = plan.findings
    known_drains = {p: learned(t, drains.get(p, [])) for p, t in forecast["drain_forecast"].items()}
    known_cools = {p: learned(t, cools.get(p, [])) for p, t in forecast["cool_forecast"].items()}
    for s in slots:
        if s.state == "planned" and s.phone in known_drains:
            s.drain_min, s.cool_min = known_drains[s.phone], known_cools[s.phone]
    rests_on = {p: len(drains.get(p, [])) for p in known_drains}
    plan.findings = {**forecast, "drains": known_drains, "cools": known_cools, "learned": rests_on}


def without_end(problem: Problem) -> Problem:
    """The problem without the end that is wished: what is left of a plan is not refused for it."""
    return replace(problem, end=None)


def moment(problem: Problem, minutes: float) -> dt.datetime:
    """A moment of a plan, by the clock of its zone."""
    return moment_at(problem.start, minutes)


def run_labels(session: Session, plan_id: uuid.UUID) -> dict[uuid.UUID, str]:
    """The labels of the runs that fill the slots of a plan."""
    rows = session.execute(
        select(m.Slot.id, m.Run.label).join(m.Run, m.Run.id == m.Slot.run_id).where(m.Slot.plan_id == plan_id)
    )
    return {slot_id: text for slot_id, text in rows}


def keep_better(
    session: Session,
    plan_id: uuid.UUID,
    revision: int,
    problem: Problem,
    schedule: Schedule,
    searched: bool = False,
) -> bool:
    """Put a schedule in the place of the present one if it is better; not if the plan was changed meanwhile.

    Returns
    -------
    Whether the plan is still the one that was searched for.
    """
    plan = session.scalar(select(m.Plan).where(m.Plan.id == plan_id, m.Plan.deleted_at.is_(None)).with_for_update())
    if plan is None or plan.revision != revision:
        return False
    over = moment_at(problem.start, schedule.makespan_min)
    stored = plan.schedule
    present = (
        (dt.datetime.fromisoformat(stored["over_at"]), stored["wait_min"]) if stored else (over, schedule.wait_min)
    )
    if (over, schedule.wait_min) <= present:
        _keep_schedule(plan, slots_of(session, plan_id), problem, schedule)
    if searched:
        plan.schedule = {**plan.schedule, "searched": True}
    return True


def _keep_schedule(
    plan: m.Plan, slots: list[m.Slot], problem: Problem, schedule: Schedule, names: dict[str, str] | None = None
) -> None:
    by_id = {(names or {}).get(s.id, s.id): s for s in schedule.slots}
    for slot in slots:
        timed = by_id.get(str(slot.id))
        if timed is None:
            continue
        if slot.state in {"planned"}:
            slot.drain_start = moment_at(problem.start, timed.drain_start)
        if slot.state != "running":
            slot.start_at = moment_at(problem.start, timed.start)
            slot.fill_at = None if timed.fill_start is None else moment_at(problem.start, timed.fill_start)
        slot.end_at = moment_at(problem.start, timed.end)
    plan.schedule = {
        "over_at": moment_at(problem.start, schedule.makespan_min).isoformat(),
        "bound_at": moment_at(problem.start, schedule.bound_min).isoformat() if schedule.bound_min else None,
        "optimal": schedule.optimal,
        "gap": schedule.gap if schedule.bound_min else None,
        "wait_min": schedule.wait_min,
        "pace": pace_said(problem, schedule.makespan_min),
    }


def change_plan(session: Session, plan_id: uuid.UUID, revision: int, new: NewPlan, now: dt.datetime) -> m.Plan:
    """Change a plan; what has begun or is over stays, what is planned is planned anew.

    Raises
    ------
    NotThere, ChangedMeanwhile, CannotRead, Impossible
    """
    plan = for_change(session, plan_id, revision)
    worked, choice, findings = worked_out(session, new)
    fixed = [s for s in slots_of(session, plan.id) if s.state != "planned"]
    for s in slots_of(session, plan.id):
        if s.state == "planned":
            session.delete(s)
    session.flush()
    begun: dict[tuple[str, bool], int] = {}
    for s in fixed:
        if s.state != "void":
            begun[s.key, s.closing] = begun.get((s.key, s.closing), 0) + 1
    position = max((s.position for s in fixed), default=-1) + 1
    for run in worked.runs:
        same = (run.cell.key, run.turn.closing)
        if begun.get(same, 0) > 0:
            begun[same] -= 1
            continue
        session.add(_new_slot(plan.id, position, run, worked))
        position += 1
    plan.question = label(new.question, "question") or plan.question
    plan.card, plan.choice, plan.wishes = new.card, new.choice, new.wishes
    plan.findings = findings
    session.flush()
    reschedule(session, plan, now, "the plan was changed" if fixed else "", new.by)
    problem = left_of(session, plan, now)
    if problem is not None and not fixed:
        schedule = _in_time(problem, _first(problem))
        _keep_schedule(plan, slots_of(session, plan.id), problem, schedule)
        plan.findings = {**findings, "one_more": one_more(choice, worked, new.choice.ordering(), problem, schedule)}
    return plan


def delete_plan(session: Session, plan_id: uuid.UUID, by: str) -> None:
    """Lay a plan aside; it can be brought back."""
    plan = get_plan(session, plan_id)
    plan.deleted_at, plan.deleted_by = dt.datetime.now(dt.UTC), by


def bring_back_plan(session: Session, plan_id: uuid.UUID) -> m.Plan:
    """Undo the deletion of a plan."""
    plan = get_plan(session, plan_id, deleted=True)
    plan.deleted_at, plan.deleted_by = None, ""
    return plan


def open_slots(session: Session) -> list[m.Slot]:
    """Slots of all plans in use that are not over."""
    return list(
        session.scalars(
            select(m.Slot)
            .join(m.Plan, m.Plan.id == m.Slot.plan_id)
            .where(m.Plan.deleted_at.is_(None), m.Slot.state.not_in(OVER))
            .order_by(m.Plan.created_at.desc(), m.Slot.position)
        )
    )


def count_slots(session: Session) -> dict[uuid.UUID, dict[str, int]]:
    """Counts of the slots of each plan by state."""
    counts: dict[uuid.UUID, dict[str, int]] = {}
    for plan_id, state, n in session.execute(
        select(m.Slot.plan_id, m.Slot.state, func.count()).group_by(m.Slot.plan_id, m.Slot.state)
    ):
        counts.setdefault(plan_id, {})[state] = n
    return counts
