"""When runs can be made: drains, runs and cool-downs put down so that every rule holds, improved, and with a bound that
says how good it is.
"""

from .attended_hours import Window, attended_spans, minutes_between, moment_at, window
from .bounds import pace_said, refuse_impossible
from .greedy import first_schedule
from .problem import MOST_METERS, MOST_RUNS, Impossible, Problem, Schedule, Task, check_problem, said_of_schedule
from .solver import Search, solve

__all__ = [
    "MOST_METERS",
    "MOST_RUNS",
    "Impossible",
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
