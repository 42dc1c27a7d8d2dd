"""A plan as the front end shows it."""

import datetime as dt
from zoneinfo import ZoneInfo

from sqlalchemy.orm import Session

from ...core.log import zone_named
from ...core.plan import (
    OPEN,
    OVER,
    REMINDER,
    carried_over,
    evening,
    in_words,
    may,
    next_step,
    overdue_min,
    run_said,
    warm_said,
)
from ...core.schedule import attended_spans, minutes_between, moment_at, said_of_schedule
from ...documents.choice import PlanWishes, local_moment
from ...store import models as m
from ...store.plan import plans as store
from ...store.plan.stopping import LET_GO, answered
from ...store.plan.work import happened, timed, warmth_of
from . import shapes


def plan_shape(session: Session, plan: m.Plan, now: dt.datetime) -> shapes.PlanShape:
    """A plan with its slots, and what to do now."""
    wishes = plan.wishes
    zone = zone_named(wishes.zone)
    here = now.astimezone(zone)
    slots = store.slots_of(session, plan.id)
    labels = store.run_labels(session, plan.id)
    due = [timed(s, zone) for s in slots]
    step, night = next_step(due), evening(due, here)
    card = plan.card
    start = local_moment(wishes.start, zone)
    last = max((s.end_at for s in slots if s.end_at is not None), default=start)
    length = minutes_between(start, max(last, now)) + 60.0
    spans = attended_spans([h.window() for h in wishes.attended], start, length)
    over = all(s.state in OVER for s in slots)
    counts = {state: sum(s.state == state for s in slots) for state in dict.fromkeys(s.state for s in slots)}
    midnight = dt.datetime.combine(start.date(), dt.time(), zone)
    days = [dt.datetime.combine(midnight.date() + dt.timedelta(days=i), dt.time(), zone)
            for i in range(int(length // 1440) + 2)]  # fmt: skip
    return shapes.PlanShape(
        id=plan.id,
        question=plan.question,
        card=card,
        card_said=in_words(card),
        choice=plan.choice,
        wishes=wishes,
        findings=shapes.FindingsShape.model_validate(plan.findings),
        schedule=_schedule(plan, wishes, slots, zone),
        slots=[_slot(s, labels.get(s.id, ""), now) for s in slots],
        attended=[shapes.SpanShape(begins=moment_at(start, a), ends=moment_at(start, b)) for a, b in spans],
        days=days,
        now=here,
        next=None if step is None else shapes.EventShape(kind=step.kind, slot=step.slot, said=step.said, at=step.at),
        tonight=[shapes.EventShape(kind=e.kind, slot=e.slot, said=e.said, at=e.at) for e in night.due],
        after_tonight=night.then,
        carried_over=[] if over else _carried(slots),
        reminder=f"{REMINDER}." if over and slots else "",
        counts=counts,
        changes=[shapes.ChangeShape.model_validate(c) for c in plan.changes],
        revision=plan.revision,
        stopping=_stopping(session, plan, slots),
    )


def _stopping(session: Session, plan: m.Plan, slots: list[m.Slot]) -> shapes.StoppingShape | None:
    if sum(s.run_id is not None for s in slots) < 2:
        return None
    found = answered(session, plan)
    return shapes.StoppingShape(
        said=found.said, answered=found.state.answered, made=found.state.made, planned=found.state.planned,
        minutes_left=found.minutes_left, let_go=sum(s.state == LET_GO for s in slots),
    )  # fmt: skip


def _schedule(plan: m.Plan, wishes: PlanWishes, slots: list[m.Slot], zone: ZoneInfo) -> shapes.ScheduleShape:
    schedule = plan.schedule
    over = dt.datetime.fromisoformat(schedule["over_at"]).astimezone(zone) if schedule.get("over_at") else None
    end = None if wishes.end is None else local_moment(wishes.end, zone)
    return shapes.ScheduleShape(
        over_at=over,
        optimal=schedule.get("optimal", False),
        said=said_of_schedule(schedule.get("optimal", False), schedule.get("gap"), over, end),
        pace=schedule.get("pace", ""),
        searched=schedule.get("searched", False),
    )


def _slot(slot: m.Slot, run_label: str, now: dt.datetime) -> shapes.SlotShape:
    h, expected = happened(slot), slot.expected
    drain_end = slot.drained_at
    if drain_end is None and slot.drain_start is not None:
        drain_end = slot.drain_start + dt.timedelta(minutes=slot.drain_min)
    cool_end = slot.cool_at
    if cool_end is None and slot.end_at is not None:
        cool_end = slot.end_at + dt.timedelta(minutes=slot.cool_min)
    return shapes.SlotShape(
        id=slot.id,
        phone=slot.phone,
        said=slot.said,
        label=run_said(slot.phone, slot.said),
        repeat=slot.repeat,
        closing=slot.closing,
        state=h.state,
        drain_start=slot.drain_start if slot.drain_min > 0 else None,
        drain_end=drain_end if slot.drain_min > 0 else None,
        pack=expected.pack,
        fill_start=slot.fill_at,
        start=slot.start_at,
        end=slot.end_at,
        cool_end=cool_end,
        minutes=expected.minutes,
        to_80=expected.to.get(80),
        hottest_c=expected.hottest_c,
        attended_min=expected.attended_min,
        began_at=slot.began_at,
        ended_at=slot.ended_at,
        void_reason=slot.void_reason,
        run=slot.run_id,
        run_label=run_label,
        can_undo=any("state" in x for x in slot.history),
        may=may(h),
        late_min=overdue_min(h, slot.drain_start, slot.start_at, slot.end_at, slot.drain_min > 0, now),
        factors=slot.factors,
        ribbon=expected.ribbon,
    )


def _carried(slots: list[m.Slot]) -> list[str]:
    names = {str(s.id): s.phone for s in slots}
    ahead = {str(s.id) for s in slots if s.state in OPEN}
    return [warm_said(w, names) for w in carried_over(*warmth_of(slots)) if w.after in ahead]
