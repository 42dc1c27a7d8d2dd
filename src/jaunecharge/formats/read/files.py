"""Files that were sent, as they are asked for: looked at, laid on one clock, put together to a run."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from zoneinfo import ZoneInfo

import numpy as np

from ...core.errors import CannotRead
from ...core.log import ClockKind, Guess, Whose, refuse_no_temperature
from ...core.packs import counter_doubts
from ...documents.case import Case
from .assemble import Assembled, Part, assemble, clocks_asked
from .columns import Progress, no_progress
from .logs import MeterLog, meter_log
from .source import examine
from .understanding import Choice, Understanding, understand


@dataclass(frozen=True)
class Asked:
    """A file and what is wanted of it: where it lies, its name, what a person put right, its roles, whose clock."""

    path: Path
    name: str
    choice: Choice = field(default_factory=Choice)
    roles: tuple[str, ...] = ()
    whose: Whose | None = None


@dataclass(frozen=True)
class ReadRun:
    """A run as it was put together, and how each of its files was understood."""

    assembled: Assembled
    understood: tuple[Understanding, ...]


def look(asked: Asked) -> Understanding:
    """Understanding of a file.

    Raises
    ------
    CannotRead
    """
    return understand(examine(asked.path, asked.name), asked.choice)


def part_of(asked: Asked) -> Part:
    """A file as it is to be read.

    Raises
    ------
    CannotRead
    """
    source = examine(asked.path, asked.name)
    return Part(source, understand(source, asked.choice), asked.roles, asked.whose)


def clocks_of(asked: Sequence[Asked], placed_s: float | None) -> list[tuple[int, Guess]]:
    """Whose clock the relative times of files are on, by their place among them.

    Raises
    ------
    CannotRead
    """
    return clocks_asked([part_of(a) for a in asked], placed_s)


def run_of(
    asked: Sequence[Asked],
    checkins: str = "",
    reference: ClockKind | None = None,
    case: Case | None = None,
    zone: ZoneInfo | None = None,
    heat: str = "",
    in_fahrenheit: bool = False,
    progress: Progress = no_progress,
) -> ReadRun:
    """A run from files that were sent, and from what was typed.

    Raises
    ------
    CannotRead
    """
    parts = [part_of(a) for a in asked]
    assembled = assemble(parts, checkins, reference, case, zone, progress, heat, in_fahrenheit)
    return ReadRun(assembled, tuple(p.understood for p in parts))


def load_log(asked: Asked) -> MeterLog:
    """The log of a load test, as its file gives it; its remarks tell where the meter's counters do not agree with it.

    Raises
    ------
    CannotRead
    """
    source = examine(asked.path, asked.name)
    understood = understand(source, asked.choice)
    try:
        log = meter_log(source, understood, counters=True)
    except CannotRead:
        # A counter that cannot be read spoils no log that has volts and amps.
        log = meter_log(source, understood)
    if log.celsius is not None:
        known = np.isfinite(log.celsius)
        refuse_no_temperature(log.celsius[known], log.clock.only(known))
    doubts = counter_doubts(log.clock.seconds, log.watts, log.amps, log.wh, log.ah)
    return replace(log, remarks=(*log.remarks, *doubts))
