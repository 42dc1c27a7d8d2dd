"""Readings of stored runs: what each rests on, and making them anew when the method has changed."""

import uuid
from dataclasses import asdict, dataclass, replace

from sqlalchemy import func, or_, select
from sqlalchemy.orm import Session
from sqlalchemy.orm.attributes import flag_modified

from ...core.errors import CannotRead
from ...core.factors import NO_ADAPTER, more_on_adapter, with_own_supply
from ...core.kit import OWN_SOURCE, Charger, Kit, Pack, Phone, Transfer, as_charger, phone_limit_w, transmits
from ...core.log import recording_of
from ...core.reading import READER_VERSION, USUAL_RATIO, Conditions, Limits, Reading, RunLog, known_limits, read_run
from ...documents.kit import kit_of
from ...documents.run_summary import RunSummary
from .. import models as m
from ..settings import ratio


def conditions_of(session: Session, run: m.Run) -> Conditions:
    """All that a reading of a run rests on besides its log."""
    stated = run.case.conditions()
    # A pack may feed a phone by its coil, or by wire in an adapter's place.
    feeds = [kit for factor in ("charger", "adapter") if (kit := kit_used(run, factor)) is not None]
    source = next((kit for kit in feeds if kit.kind in OWN_SOURCE), None)
    return replace(
        stated,
        limits=_limits(run),
        own_source=source is not None or run.factors.get("adapter", "") == NO_ADAPTER,
        source_wh=source.rated_wh if isinstance(source, Pack) else None,
        ratio=ratio(session) or USUAL_RATIO,
        phone_limit_w=_phone_limit(run),
        overrulings=tuple(d.decision() for d in run.decisions if d.undone_at is None),
        method_start=_method_start(run),
        socket_shared=stated.socket_shared or more_on_adapter(run.factors),
    )


def _limits(run: m.Run) -> Limits:
    """Knowledge of the phone's charge limit: what its card says, and whether somebody ticked that on the bench."""
    if run.card is None:
        return ""
    ticked = run.bench.setup.get("settings") if run.bench is not None else None
    return known_limits(run.card.limits == "left on", ticked is not None and not ticked.skipped)


def _method_start(run: m.Run) -> tuple[float, float] | None:
    return None if run.card is None else run.card.start_window


def _phone_limit(run: m.Run) -> float | None:
    """Most that the phone takes from this charger, where both were on the shelf."""
    phone, gives = kit_used(run, "phone"), charger_pads(run)
    if not isinstance(phone, Phone) or not phone.accepts or gives is None:
        return None
    return phone_limit_w(gives, phone.accepts)


def charger_pads(run: m.Run) -> tuple[Transfer, ...] | None:
    """Profiles that the charger of a run gives at its place, where it was on the shelf."""
    charger = kit_used(run, "charger")
    if charger is not None and transmits(charger):
        charger = as_charger(charger)
    if not isinstance(charger, Charger):
        return None
    place = run.factors.get("place", "")
    return charger.pad(place if place in {p.place for p in charger.pads} else "").gives


def factors_of(run: m.Run) -> dict[str, str]:
    """Factors that a run states; of a charger that is a pack or a phone, that no adapter feeds it."""
    return with_own_supply(run.factors, run.kit.get("charger", {}).get("kind", ""))


def kit_used(run: m.Run, factor: str) -> Kit | None:
    """A piece of kit as it was when the run was made."""
    facts = run.kit.get(factor)
    return None if facts is None else kit_of({k: v for k, v in facts.items() if k not in {"id", "revision"}})


def timed_notes(session: Session, run_id: uuid.UUID) -> tuple[tuple[float, str], ...]:
    """Notes at a moment of a run: (seconds, text)."""
    query = select(m.Note.t_s, m.Note.text).where(
        m.Note.run_id == run_id, m.Note.deleted_at.is_(None), m.Note.t_s.is_not(None)
    )
    return tuple((t_s, text) for t_s, text in session.execute(query.order_by(m.Note.t_s)) if t_s is not None)


@dataclass(frozen=True)
class Basis:
    """All that a reading rests on besides the log: equal ones read a log alike."""

    conditions: Conditions
    notes: tuple[tuple[float, str], ...]


def basis_of(session: Session, run: m.Run) -> Basis:
    """Basis of a run's reading."""
    return Basis(conditions_of(session, run), timed_notes(session, run.id))


def read_on(basis: Basis, log: RunLog) -> Reading:
    """A log, read.

    Raises
    ------
    CannotRead
    """
    return read_run(replace(log, notes=basis.notes), basis.conditions)


def reading_of(session: Session, run: m.Run, log: RunLog) -> Reading:
    """A run, read from its log with all that is known of it.

    Raises
    ------
    CannotRead
    """
    return read_on(basis_of(session, run), log)


def known_placing(run: m.Run) -> float | None:
    """When the phone of a run was placed [s], as its present reading has it; None where only reading it again tells."""
    return run.placed_s if run.reader_version == READER_VERSION else None


def keep_reading(session: Session, run: m.Run, log: RunLog) -> Reading:
    """Read a run and keep what lists show of it.

    Raises
    ------
    CannotRead
    """
    reading = reading_of(session, run, log)
    run.summary = RunSummary.of(reading)
    run.recording = asdict(recording_of(log.trace, log.readings, reading.placed_s))
    run.placed_s = reading.placed_s
    run.reader_version = READER_VERSION
    return reading


# Written as two ranges, so that an index finds them.
_IS_STALE = or_(m.Run.reader_version < READER_VERSION, m.Run.reader_version > READER_VERSION)


def stale(session: Session) -> int:
    """Number of runs an older reader has read, or one with another reference."""
    return session.scalar(select(func.count()).where(_IS_STALE)) or 0


def stale_runs(session: Session, most: int) -> list[uuid.UUID]:
    """Runs to be read anew, the newest first, those that were deleted last."""
    order = m.Run.deleted_at.is_not(None), m.Run.created_at.desc()
    return list(session.scalars(select(m.Run.id).where(_IS_STALE).order_by(*order).limit(most)))


def claim_stale(session: Session, run_id: uuid.UUID) -> m.Run | None:
    """A run that is to be read anew, locked against others who do the same; None where one of them has it."""
    return session.scalar(select(m.Run).where(m.Run.id == run_id, _IS_STALE).with_for_update(skip_locked=True))


def read_stale(session: Session, run: m.Run, log: RunLog) -> None:
    """Read a run anew; where that fails, its old reading stays, and says so."""
    try:
        keep_reading(session, run, log)
    except CannotRead as error:
        run.summary_json = {**run.summary_json, "kept_old": str(error)}
        run.reader_version = READER_VERSION
    # Nobody changed it: a window that shows it need not ask anew, and no later save is refused.
    flag_modified(run, "updated_at")
    session.flush()
