"""A lane is ended: the run that it closes into, and what that run keeps of it."""

import datetime as dt
import logging
import math
import uuid

from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from ...core.bench import (
    ON_ALREADY,
    PACK_ALONE,
    Entered,
    OnBench,
    Outcome,
    Recorded,
    gap_said,
    report_gaps,
    run_log,
    skipped,
    steps,
)
from ...core.errors import CannotRead
from ...core.reading import RunLog
from ...documents.bench_record import BenchRecord, LineDocument
from .. import bench_models as b
from .. import models as m
from ..failures import failure
from ..plan.slots import fill_slot, tell
from ..runs.logs import load_log
from ..runs.readings import keep_reading
from ..runs.runs import NewRun, add_run
from .entries import STARTED_BEFORE, SYSTEM, first_of, item_of, lane_s, told_of, wanted_of
from .lanes import (
    NewEntry,
    add_entries,
    entries_of,
    forget_readings,
    readings_of,
)
from .pack_ending import keep_beside_run, keep_pack_alone

logger = logging.getLogger(__name__)
ORIGIN = "bench"


def close_lane(
    session: Session,
    lane: b.Lane,
    outcome: Outcome,
    reason: str,
    now: dt.datetime,
    by: str = "",
    id: uuid.UUID | None = None,
) -> m.Run | None:
    """End a lane and keep what it recorded as a run; None where it is void and hardly anything was logged.

    Raises
    ------
    CannotRead
        If it is not void and nothing was logged at two moments, or the phone was never placed.
    """
    add_entries(
        session, lane,
        [NewEntry("end", lane_s(lane, now), unit=outcome, text=reason.strip(), by=by, id=id or uuid.uuid4())], now,
    )  # fmt: skip
    if lane.kind in PACK_ALONE:
        _end_pack(session, lane, outcome, now, by)
        run, unread = None, False
    elif outcome == "void":
        run, unread = _run_of_void(session, lane, reason, now, by)
    else:
        log, unread = _log_of(session, lane), False
        if lane.placed_s is None:
            raise CannotRead(
                f"the phone of lane {lane.name} was never placed", f"{lane.name.lower()} end void, with the reason",
                file="line",
            )  # fmt: skip
        if log is None and not lane.card.is_spot:
            raise CannotRead(
                f"hardly anything was logged on lane {lane.name}",
                f"type at least two readings, as {lane.name.lower()} 47; or end it as void",
                file="line",
            )
        run = None if log is None else _run_of(session, lane, log, outcome, reason, now, by)
        if run is not None and log is not None:
            _keep_giver(session, lane, run, log, now, by)
    lane.state, lane.outcome, lane.reason, lane.closed_at = "closed", outcome, reason.strip(), now
    lane.run_id = None if run is None else run.id
    if not unread:
        forget_readings(session, lane.id)
    if lane.slot_id is not None:
        if outcome == "void":
            tell(session, lane.slot_id, "void", now, now, by, reason, again=True)
        elif run is not None:
            fill_slot(session, run, now, lane.slot_id)
    session.flush()
    return run


def _end_pack(session: Session, lane: b.Lane, outcome: Outcome, now: dt.datetime, by: str) -> None:
    """Keep what a lane of a pack alone has logged as a test of it; of a void one nothing."""
    if outcome == "void":
        return
    if lane.placed_s is None:
        raise CannotRead(
            f"lane {lane.name} never began", f"{lane.name.lower()} placed, or {lane.name.lower()} end void WHY",
            file="line",
        )  # fmt: skip
    entered = entered_of(session, lane.id)
    log = run_log(recorded_of(session, lane.id), entered, lane.placed_s)
    lane.pack_test_id = keep_pack_alone(session, lane, log, entered, now, by).id


def _keep_giver(session: Session, lane: b.Lane, run: m.Run, log: RunLog, now: dt.datetime, by: str) -> None:
    """Keep the test of what gave beside the run; what is missing for it is noted on the run."""
    test, missing = keep_beside_run(session, lane, run, log.readings, entered_of(session, lane.id), now, by)
    lane.pack_test_id = None if test is None else test.id
    if missing:
        session.add(
            m.Note(run_id=run.id, t_s=lane.placed_s, text=missing[0].upper() + missing[1:] + ".", created_by="")
        )


def _log_of(session: Session, lane: b.Lane) -> RunLog | None:
    recorded, entered = recorded_of(session, lane.id), entered_of(session, lane.id)
    return run_log(recorded, entered, lane.placed_s, lane.case.ambient_c)


def _run_of_void(session: Session, lane: b.Lane, reason: str, now: dt.datetime, by: str) -> tuple[m.Run | None, bool]:
    """The run of a void lane, None where there is none; and whether none can be made of what was logged.

    A lane can always be ended.
    """
    try:
        with session.begin_nested():
            log = _log_of(session, lane)
            return None if log is None else _run_of(session, lane, log, "void", reason, now, by), False
    except Exception as error:
        if failure(error) not in (None, "refused"):
            raise
        logger.warning("no run can be made of lane %s", lane.name, exc_info=True)
        words = f"what was logged could not be made a run, and stays with the lane: {error}".splitlines()[0][:300]
        add_entries(session, lane, [NewEntry("remark", lane_s(lane, now), text=words)], now)
        return None, True


def recorded_of(session: Session, lane_id: uuid.UUID) -> list[Recorded]:
    """Readings of instruments on a lane; nothing at a time that is none."""
    return [
        Recorded(r.t_s, r.volts, r.amps, r.watts, r.celsius, r.position, r.percent, r.point, r.humidity, r.charging)
        for r in readings_of(session, lane_id)
        if math.isfinite(r.t_s)
    ]


def entered_of(session: Session, lane_id: uuid.UUID) -> list[Entered]:
    """Entries of persons on a lane that still stand."""
    return [
        Entered(e.t_s, item_of(e)) for e in entries_of(session, lane_id) if e.kind not in SYSTEM and e.undone_at is None
    ]


def _run_of(session: Session, lane: b.Lane, log: RunLog, outcome: str, reason: str, now: dt.datetime, by: str) -> m.Run:
    card = lane.card
    case = lane.case.model_copy(
        update={
            "placed_s": lane.placed_s,
            "simulated": lane.simulated,
            "interval_min": card.interval_min or None,
            "shared_with": ", ".join(shared_with(session, lane)),
            "socket_shared": bool(lane.socket_address) and bool(_meanwhile(session, lane, "socket", "socket_address")),
        }
    )
    entries = entries_of(session, lane.id)
    run = add_run(
        session,
        NewRun(
            label=lane.label,
            log=log,
            case=case,
            factors={**lane.factors, "method": card.name},
            origin=ORIGIN,
            started_at=lane.opened_at,
            zone=lane.zone,
            by=lane.created_by,
            remarks=(*remarks(lane, entries), *silences(recorded_of(session, lane.id), lane.placed_s or 0.0)),
            card=card,
        ),
    )
    run.outcome = outcome
    run.bench = BenchRecord(
        lane=lane.name, outcome=outcome, reason=reason.strip(), speed=lane.speed, setup=lane.setup,
        log=[_kept(e) for e in entries],
    )  # fmt: skip
    for e in entries:
        if e.kind == "note" and e.undone_at is None:
            session.add(m.Note(run_id=run.id, t_s=e.t_s, text=e.text, created_by=e.by))
    session.flush()
    # Its card, its kit and its notes are evidence too.
    keep_reading(session, run, load_log(session, run))
    return run


def shared_with(session: Session, lane: b.Lane) -> list[str]:
    """Phones that other lanes had on the same meter meanwhile."""
    if not lane.meter and not lane.meter_address:
        return []
    others = _meanwhile(session, lane, "meter", "meter_address")
    return sorted({other.factors.get("phone", other.label) for other in others})


def _meanwhile(session: Session, lane: b.Lane, *columns: str) -> list[b.Lane]:
    """Other lanes with a phone on them meanwhile that are equal in some columns."""
    same = [getattr(b.Lane, name) == getattr(lane, name) for name in columns]
    query = select(b.Lane).where(
        b.Lane.id != lane.id, *same, or_(b.Lane.closed_at.is_(None), b.Lane.closed_at > lane.opened_at),
        b.Lane.placed_s.is_not(None),
    )  # fmt: skip
    return list(session.scalars(query))


def remarks(lane: b.Lane, entries: list[b.LaneEntry]) -> tuple[str, ...]:
    """Cautions about a run that was made on the bench."""
    answers = told_of(lane)
    lines = [f"{s}." for s in skipped(steps(wanted_of(lane), OnBench(), answers), answers)]
    if any(e.kind == "placed" and e.text == ON_ALREADY and e.undone_at is None for e in entries):
        lines.append(STARTED_BEFORE)
    lines += [f"{e.text}." for e in entries if e.kind in {"gap", "source"}]
    return tuple(dict.fromkeys(lines))


def silences(recorded: list[Recorded], placed_s: float) -> list[str]:
    """Gaps in what a phone reported, in words; after the placing."""
    reports = sorted((r.t_s, r.percent) for r in recorded if r.percent is not None)
    return [gap_said((max(gap[0], placed_s), gap[1]), placed_s) for gap in report_gaps(reports) if gap[1] > placed_s]


def _kept(e: b.LaneEntry) -> LineDocument:
    return LineDocument(
        t_s=round(e.t_s, 3), at=e.at, kind=e.kind, value=e.value, unit=e.unit, text=e.text, by=e.by,
        advice=e.advice or "", first=first_of(e),
        corrected_by=None if e.corrected_at is None else e.corrected_by, corrected_at=e.corrected_at,
        undone_by=None if e.undone_at is None else e.undone_by, undone_at=e.undone_at,
    )  # fmt: skip
