"""`jaunecharge schedule` and `jaunecharge resolve`: when each run can happen, and what differences runs would show."""

import datetime as dt
import json
from pathlib import Path
from typing import Annotated, Any
from zoneinfo import ZoneInfo

import typer

from ..core.errors import CannotRead
from ..core.noise import CHAMBER_SPREAD, ROOM_SPREAD, Spread, interval_variance, resolvable
from ..core.plan import LOG_STEP_MIN, events
from ..core.schedule import Problem, Schedule, moment_at
from ..core.wording import duration
from ..formats.plan import read_plan, schedule_csv, schedule_document, timed_slots
from .app import command


@command("schedule")
def schedule(
    plan: Annotated[Path, typer.Argument(help="the plan, JSON: start, zone, attended, meters, phones, runs")],
    seconds: Annotated[float, typer.Option(help="how long to look for a better one", min=0.1, max=600)] = 10.0,
    ics: Annotated[Path | None, typer.Option(help="write a calendar too (iCalendar)")] = None,
    csv: Annotated[Path | None, typer.Option(help="write a table too (CSV)")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="one JSON document and nothing else")] = False,
) -> None:
    from ..core.schedule import solve

    problem = read_plan(plan)
    solution = solve(problem, seconds)
    slots = timed_slots(problem, solution)
    if csv is not None:
        _write(csv, schedule_csv(slots).encode())
    if ics is not None:
        from ..formats.write.calendar import calendar

        zone = problem.start.tzinfo
        assert isinstance(zone, ZoneInfo)
        _write(ics, calendar(events(slots), plan.stem, zone, plan.stem, 0, dt.datetime.now(dt.UTC)))
    document = schedule_document(problem, solution)
    typer.echo(json.dumps(document, ensure_ascii=False) if as_json else _table(problem, solution))


def _write(path: Path, content: bytes) -> None:
    try:
        path.write_bytes(content)
    except OSError as error:
        raise CannotRead("it cannot be written", "check the folder", file=path.name) from error


def _table(problem: Problem, solution: Schedule) -> str:
    tasks = {t.id: t for t in problem.tasks}

    def at(minutes: float) -> str:
        return f"{moment_at(problem.start, minutes):%a %d %b %H:%M}"

    lines = [f"{'run':8} {'phone':14} {'charger':18} {'drain from':16} {'start':16} {'end':16} ready again", "-" * 106]
    for s in solution.slots:
        t = tasks[s.id]
        drain = at(s.drain_start) if t.drain_min else "no drain"
        lines.append(
            f"{s.id:8.8} {t.phone:14.14} {(t.charger or 'wired'):18.18} {drain:16} {at(s.start):16} {at(s.end):16} "
            f"{at(s.ready_again)}"
        )
    plugged = [s for s in solution.slots if s.fill_start is not None]
    lines += (
        ["", *(f"{s.id}: plug {tasks[s.id].pack} in {at(s.fill_start or 0.0)}" for s in plugged)] if plugged else []
    )
    proof = (
        "no shorter schedule exists"
        if solution.optimal
        else f"at most {solution.gap * 100:.0f} % longer than the shortest possible"
    )
    waiting = duration(solution.wait_min * 60.0) if solution.wait_min else "never"
    lines += ["", f"Over on {at(solution.makespan_min)}: {proof}. Phones lie drained and waiting {waiting} in all."]
    return "\n".join(lines)


@command("resolve")
def resolve(
    minutes: Annotated[float, typer.Option(help="what the slower side takes over the window, min")],
    runs: Annotated[int, typer.Option(help="runs of each side", min=1, max=100)] = 1,
    interval_min: Annotated[
        float, typer.Option(help="minutes between check-ins; 0 for a continuous log", min=0)
    ] = 10.0,
    chamber: Annotated[bool, typer.Option("--chamber", help="a chamber with a continuous log: 3 % spread")] = False,
    cells: Annotated[int, typer.Option(help="cells that are repeated alike, both sides among them", min=2)] = 2,
    comparisons: Annotated[int, typer.Option(help="comparisons of a ranking (Holm)", min=1, max=10_000)] = 1,
    as_json: Annotated[bool, typer.Option("--json", help="one JSON document and nothing else")] = False,
) -> None:
    if not 0 < minutes <= 100_000:
        raise CannotRead(f"{minutes:g} min is no charging time", "above 0", file="--minutes")
    spread = Spread(CHAMBER_SPREAD if chamber else ROOM_SPREAD)
    variance = interval_variance(interval_min or LOG_STEP_MIN)
    difference = resolvable(minutes, runs, variance, spread, float(cells * (runs - 1)), comparisons)
    document: dict[str, Any] = {
        "minutes": minutes, "runs": runs, "interval_min": interval_min, "assumed_spread": spread.assumed,
        "comparisons": comparisons,
        "difference_min": None if difference is None else round(difference, 3), "power": 0.8,
    }  # fmt: skip
    if as_json:
        typer.echo(json.dumps(document))
    elif difference is None:
        typer.echo("It would not detect even a charger that is twice as fast: repeat the runs.")
    else:
        typer.echo(
            f"Would detect a difference of {difference:.1f} min ({difference / minutes * 100:.0f} %) "
            "with 80 % probability."
        )
