"""Runs as rows of the table of all runs."""

import datetime as dt
from collections.abc import Iterable, Iterator

from sqlalchemy.orm import Session

from ...core.errors import CannotRead
from ...core.log import zone_named
from ...formats.write.runs_table import RunOut
from .. import models as m
from .copies import copies_listed
from .runs import is_spot


def rows_out(session: Session, runs: Iterable[m.Run]) -> Iterator[RunOut]:
    """Runs as they go into the table, in their order."""
    copied = copies_listed(session)
    for run in runs:
        yield RunOut(
            id=str(run.id),
            label=run.label,
            began_at=moment_out(run.started_at, run.zone),
            zone=run.zone,
            read_at=moment_out(run.created_at, run.zone),
            factors=run.factors,
            summary=run.summary,
            outcome=run.outcome,
            spot=is_spot(run),
            simulated=run.case.simulated,
            copy_of=copied[str(run.id)].key if str(run.id) in copied else "",
            origin=run.origin,
        )


def moment_out(at: dt.datetime | None, zone: str) -> str:
    """A moment on the clock of a zone, ISO 8601; empty where there is none."""
    if at is None:
        return ""
    try:
        here: dt.tzinfo = zone_named(zone)
    except CannotRead:  # One run must not keep all others from being exported.
        here = dt.UTC
    return at.astimezone(here).isoformat(timespec="seconds")
