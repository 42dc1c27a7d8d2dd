"""The plan of pack tests: made, kept, told with what was done since, let go."""

import datetime as dt
import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from typing import cast

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.errors import CannotRead
from ..core.log import zone_named
from ..core.packs import METHODS, WantedTest, done_of, problem_of_tests, rating, timed_tests
from ..core.plan import AgendaEvent
from ..documents.choice import Hours
from ..documents.pack_plan import PackPlanDocument, PlannedPackTest
from ..documents.pack_test import Kind
from .errors import NotThere
from .pack_models import PackPlan, PackTest
from .packs import pack_of, tests


@dataclass(frozen=True)
class NewPackPlan:
    """A plan to be made: tests by the label of their pack and the name of their method."""

    wanted: Sequence[tuple[str, str]]
    start: dt.datetime
    zone: str
    attended: Sequence[Hours]
    meters: int = 1
    by: str = ""


def make_pack_plan(session: Session, new: NewPackPlan, now: dt.datetime) -> PackPlan:
    """Put tests in time and keep that; the plan before is let go.

    Raises
    ------
    NotThere, CannotRead, Impossible
    """
    by_name = {m.name: m for m in METHODS}
    wanted = []
    for label, name in new.wanted:
        pack, method = pack_of(session, label), by_name.get(name)
        if method is None:
            raise CannotRead(f"there is no method “{name}”", "choose one of the methods", file="method")
        known = bool(tests(session, pack.label))
        wanted.append(WantedTest(pack.label, rating(pack.rated_mah, pack.cell_v), method, known))
    start = new.start.astimezone(zone_named(new.zone))
    problem = problem_of_tests(wanted, start, [h.window() for h in new.attended], new.meters)
    rows = [PlannedPackTest(**vars(t)) for t in timed_tests(wanted, problem)]
    document = PackPlanDocument(zone=new.zone, attended=list(new.attended), meters=new.meters, tests=rows)
    let_go(session, now)
    plan = PackPlan(id=uuid.uuid4(), document=document.kept(), by=new.by, at=now)
    session.add(plan)
    session.flush()
    return plan


def present_pack_plan(session: Session) -> tuple[PackPlan, PackPlanDocument, list[bool]]:
    """The plan that counts, and which of its tests were made since.

    Raises
    ------
    NotThere
        If there is none.
    """
    asked = select(PackPlan).where(PackPlan.deleted_at.is_(None)).order_by(PackPlan.at.desc()).limit(1)
    plan = session.scalar(asked)
    if plan is None:
        raise NotThere("there is no plan of pack tests")
    document = PackPlanDocument.read(plan.document)
    since = select(PackTest.pack, PackTest.kind).where(PackTest.deleted_at.is_(None), PackTest.at >= plan.at)
    made = [(pack.casefold(), cast(Kind, kind)) for pack, kind in session.execute(since)]
    return plan, document, done_of([(t.pack.casefold(), t.kind) for t in document.tests], made)


def let_go(session: Session, now: dt.datetime) -> None:
    """Let the plan go that counts."""
    for plan in session.scalars(select(PackPlan).where(PackPlan.deleted_at.is_(None))):
        plan.deleted_at = now
    session.flush()


def bring_back(session: Session) -> None:
    """Bring the plan back that was let go last, in the place of the one that counts.

    Raises
    ------
    NotThere
        If none was.
    """
    gone = select(PackPlan).where(PackPlan.deleted_at.is_not(None)).order_by(PackPlan.deleted_at.desc()).limit(1)
    plan = session.scalar(gone)
    if plan is None:
        raise NotThere("no plan of pack tests was deleted")
    for present in session.scalars(select(PackPlan).where(PackPlan.deleted_at.is_(None))):
        session.delete(present)
    plan.deleted_at = None
    session.flush()


def agenda(document: PackPlanDocument, done: Sequence[bool]) -> list[AgendaEvent]:
    """Work still to be done, for a calendar."""
    rows = []
    for n, (test, over) in enumerate(zip(document.tests, done, strict=True)):
        if over:
            continue
        if test.fill_at is not None:
            said = f"Plug {test.pack} in, to be full"
            rows.append(AgendaEvent(test.fill_at, test.start, "fill", f"t{n}", said))
        stay = ", stay by it" if test.attended else ""
        rows.append(AgendaEvent(test.start, test.end, "run", f"t{n}", f"{test.pack}: {test.method}{stay}"))
    return sorted(rows, key=lambda e: (e.at, e.said))
