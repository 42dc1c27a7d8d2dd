"""When runs can be made: drains, runs and cool-downs put down so that every rule holds, improved, and with a bound that
says how good it is.

The solver is loaded once it is asked for: its library takes a second to load.
"""

from typing import TYPE_CHECKING, Any

from .attended_hours import Window, attended_spans, minutes_between, moment_at, window
from .bounds import pace_said, refuse_impossible
from .greedy import first_schedule
from .problem import MOST_METERS, MOST_RUNS, Problem, Schedule, Task, check_problem, said_of_schedule

if TYPE_CHECKING:
    from .solver import Search, solve

__all__ = [
    "MOST_METERS",
    "MOST_RUNS",
    "Problem",
    "Schedule",
    "Search",
    "Task",
    "Window",
    "attended_spans",
    "check_problem",
    "first_schedule",
    "minutes_between",
    "moment_at",
    "pace_said",
    "refuse_impossible",
    "said_of_schedule",
    "solve",
    "window",
]


if not TYPE_CHECKING:

    def __getattr__(name: str) -> Any:
        if name not in {"Search", "solve"}:
            raise AttributeError(name)
        from . import solver

        return getattr(solver, name)
