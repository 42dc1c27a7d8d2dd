"""Plans as files: what is to be scheduled as JSON, a schedule as JSON and CSV."""

import datetime as dt
from collections.abc import Sequence
from pathlib import Path
from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from ..core.errors import CannotRead
from ..core.log import zone_named
from ..core.plan import TimedSlot
from ..core.schedule import MOST_RUNS, Problem, Schedule, Task, Window, check_problem, moment_at, window
from ..documents.choice import local_moment
from ..documents.document import said
from .json_files import read_json
from .write.csv_xlsx import csv_text

Minutes = Annotated[float, Field(ge=0, le=1_000_000)]
Id = Annotated[str, Field(min_length=1, max_length=200)]


class _Document(BaseModel):
    model_config = ConfigDict(extra="ignore", allow_inf_nan=False)


class PhoneDocument(_Document):
    """Drain before a run and cool-down after it, of a phone [min]."""

    drain_min: Minutes = 0.0
    cool_min: Minutes = 0.0


class PackDocument(_Document):
    """Filling before a run that empties it and rest after, of a pack [min]."""

    recharge_min: Minutes = 0.0
    rest_min: Minutes = 0.0


class PlannedRun(_Document):
    """A run to be scheduled; of one that needs somebody for its first part only `attended_min` says how much."""

    id: Id
    phone: Id
    charger: str = ""
    adapter: str = ""
    pack: str = ""
    minutes: Annotated[float, Field(gt=0, le=1_000_000)]
    attended: bool = True
    attended_min: Minutes | None = None


class PlanDocument(_Document):
    """Fields of such a document; everything else in it is ignored."""

    start: dt.datetime
    zone: str = "UTC"
    attended: list[tuple[str, str] | tuple[str, str, list[str]]]
    meters: int = 1
    phones: dict[str, PhoneDocument] = Field(default_factory=dict)
    packs: dict[str, PackDocument] = Field(default_factory=dict)
    runs: list[PlannedRun]
    order: list[str] = Field(default_factory=list)
    grid_min: int = 15
    end: dt.datetime | None = None
    at_once: int | None = None
    copies: dict[str, Annotated[int, Field(ge=1, le=50)]] = Field(default_factory=dict)


def read_plan(path: Path) -> Problem:
    """The problem of a plan's file.

    Raises
    ------
    CannotRead
    """
    document = read_json(path)
    if isinstance(document, dict) and len(document.get("runs") or ()) > MOST_RUNS:
        what = f"{len(document['runs']):,} runs are more than anybody makes"
        raise CannotRead(what, f"at most {MOST_RUNS}; make several plans of it", file=path.name)
    try:
        plan = PlanDocument.model_validate(document)
        problem = problem_of(plan)
        check_problem(problem)
    except ValidationError as error:
        what, mend = said(error)
        raise CannotRead(what, mend, file=path.name) from error
    except CannotRead as error:
        where = f"{path.name}, {error.file}" if error.file else path.name
        raise CannotRead(error.what, error.mend, file=where) from error
    return problem


def problem_of(plan: PlanDocument) -> Problem:
    """The problem of a plan's document.

    Raises
    ------
    CannotRead
    """
    zone = zone_named(plan.zone)
    tasks = []
    for run in plan.runs:
        phone = plan.phones.get(run.phone)
        if phone is None:
            raise CannotRead(
                f"run “{run.id}” is on “{run.phone}”, which is not among the phones",
                "give its drain_min and cool_min under phones", file="runs",
            )  # fmt: skip
        pack = plan.packs.get(run.pack) if run.pack else PackDocument()
        if pack is None:
            raise CannotRead(
                f"run “{run.id}” empties “{run.pack}”, which is not among the packs",
                "give its recharge_min and rest_min under packs", file="runs",
            )  # fmt: skip
        attended = run.minutes if run.attended else 0.0
        tasks.append(
            Task(
                run.id, run.phone, run.charger, run.adapter, run.minutes,
                min(run.minutes, attended if run.attended_min is None else run.attended_min),
                phone.drain_min, phone.cool_min, pack=run.pack, fill_min=pack.recharge_min, rest_min=pack.rest_min,
            )
        )  # fmt: skip
    return Problem(
        start=local_moment(plan.start, zone),
        attended=tuple(_window(w) for w in plan.attended),
        tasks=tuple(tasks),
        meters=plan.meters,
        grid_min=plan.grid_min,
        order=tuple(plan.order),
        end=None if plan.end is None else local_moment(plan.end, zone),
        at_once=plan.at_once,
        copies=plan.copies,
    )


def _window(typed: tuple[str, str] | tuple[str, str, list[str]]) -> Window:
    return window(typed[0], typed[1], typed[2]) if len(typed) == 3 else window(typed[0], typed[1])


def schedule_document(problem: Problem, schedule: Schedule) -> dict[str, Any]:
    """A schedule as JSON: times by the clock of the plan's zone, lengths in minutes."""

    def at(minutes: float) -> str:
        return moment_at(problem.start, minutes).isoformat(timespec="minutes" if minutes % 1 == 0 else "seconds")

    return {
        "slots": [
            {
                "id": s.id, "drain_start": at(s.drain_start), "start": at(s.start), "end": at(s.end),
                "ready_again": at(s.ready_again),
                **({} if s.fill_start is None else {"fill_start": at(s.fill_start)}),
            }
            for s in schedule.slots
        ],
        "makespan_min": schedule.makespan_min,
        "bound_min": schedule.bound_min,
        "optimal": schedule.optimal,
        "waiting_drained_min": schedule.wait_min,
    }  # fmt: skip


def timed_slots(problem: Problem, schedule: Schedule) -> list[TimedSlot]:
    """The slots of a schedule with their moments."""
    tasks = {t.id: t for t in problem.tasks}
    rows = []
    for s in schedule.slots:
        task = tasks[s.id]
        on = ", ".join(x for x in (task.charger or "the wire", task.adapter) if x)
        drain, start, end = (moment_at(problem.start, m) for m in (s.drain_start, s.start, s.end))
        fill = None if s.fill_start is None else moment_at(problem.start, s.fill_start)
        drains = task.drain_min > 0
        rows.append(TimedSlot(s.id, task.phone, on, "planned", drain, start, end, drains, task.pack, fill))
    return rows


COLUMNS = ("run", "phone", "on", "state", "drain_start", "start", "end")
OF_PACKS = ("pack", "fill_start")


def schedule_csv(slots: Sequence[TimedSlot]) -> str:
    """A schedule as CSV, a row a run, times with their offset; where packs are filled, when they are plugged in."""
    packs = OF_PACKS if any(s.pack for s in slots) else ()
    rows = []
    for s in sorted(slots, key=lambda s: (s.start, s.phone)):
        times = [
            "" if moment is None else moment.isoformat(timespec="minutes")
            for moment in (s.drain_start if s.drains else None, s.start, s.end, s.fill_start)
        ]
        rows.append([s.id, s.phone, s.said, s.state, *times[:3], *((s.pack, times[3]) if packs else ())])
    return csv_text((*COLUMNS, *packs), rows)
