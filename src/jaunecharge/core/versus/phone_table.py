"""Phones × chargers: the median time of each pair under like conditions, its spread, its place, and what is missing."""

import statistics
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..errors import CannotRead
from ..milestones import SLOWS_FROM
from .compare import Versus, timed, versus
from .contender import Contender
from .copies import without_copies
from .heat_table import unlike, usual_conditions
from .pairing import unfit
from .ranking import place_said
from .repeats import Repeats, grouped
from .run_names import charger_name
from .window import Window, span, worthwhile_windows


@dataclass(frozen=True)
class TableCell:
    """A phone on a charger. times [min] of its runs under the usual conditions; place : its place on this phone in
    words, empty where it has none; others : runs under other conditions, or short of the window, each with what sets it
    apart."""

    phone: str
    charger: str
    runs: tuple[Contender, ...]
    times: tuple[float, ...]
    place: str
    others: tuple[tuple[Contender, str], ...]

    @property
    def median(self) -> float | None:
        """Of the times [min]."""
        return statistics.median(self.times) if self.times else None

    @property
    def spread(self) -> tuple[float, float] | None:
        """The least and the most of several times [min]."""
        return (min(self.times), max(self.times)) if len(self.times) > 1 else None


@dataclass(frozen=True)
class Column:
    """A phone: its window, None where no run of it covers any; how many of its chargers have a time."""

    phone: str
    window: Window | None
    timed: int


@dataclass(frozen=True)
class PhoneTable:
    """Chargers down, phones across; usual : what most runs state of their conditions, and their room [°C]."""

    chargers: tuple[str, ...]
    columns: tuple[Column, ...]
    fields: Mapping[tuple[str, str], TableCell]
    usual: Mapping[str, str]
    usual_room_c: float | None


def phone_table(runs: Sequence[Contender]) -> PhoneTable:
    """The table of all runs that state phone and charger; void and simulated ones and copies are left out."""
    stated = [r for r in runs if r.levels.get("phone") and r.levels.get("charger") and not r.spot]
    chosen, _ = without_copies([r for r in stated if r.outcome != "void" and not r.simulated])
    usual, room = usual_conditions([r.factors for r in chosen], [r.ambient_c for r in chosen])
    phones = list(dict.fromkeys(r.factors["phone"] for r in sorted(chosen, key=lambda r: r.levels["phone"])))
    fields: dict[tuple[str, str], TableCell] = {}
    columns = []
    for phone in phones:
        column, cells = phone_column(phone, [r for r in chosen if r.levels["phone"] == phone.casefold()], usual, room)
        columns.append(column)
        fields |= {(cell.charger, phone): cell for cell in cells}
    chargers = sorted({c for c, _ in fields}, key=str.casefold)
    return PhoneTable(tuple(chargers), tuple(columns), fields, usual, room)


def phone_column(
    phone: str, own: Sequence[Contender], usual: Mapping[str, str], room: float | None
) -> tuple[Column, list[TableCell]]:
    """A phone of the table, from its own runs alone, and its cells."""
    apart = {r.key: _apart(r, usual, room) for r in own}
    alike = [r for r in own if not apart[r.key]]
    window = _window(alike or own)
    comparison = _compared(alike, window)
    by_charger: dict[str, list[Contender]] = {}
    for run in own:
        by_charger.setdefault(charger_name(run), []).append(run)
    cells = [_field(phone, name, here, apart, comparison, window) for name, here in by_charger.items()]
    return Column(phone, window, 0 if comparison is None else comparison.ranked), cells


def _apart(run: Contender, usual: Mapping[str, str], room: float | None) -> str:
    """Deviations of a run from the usual conditions; where it started counts by the window, not here."""
    stated = {**run.factors, "start": usual.get("start", "")}
    return "; ".join(unlike(stated, run.ambient_c, usual, room))


def _window(runs: Sequence[Contender]) -> Window | None:
    """The window of a phone, up to where chargers slow: that which covers most points of most of its runs."""
    capped = [
        (s[0], min(s[1], SLOWS_FROM)) for r in runs if (s := span(r.course.readings)) is not None and s[0] < SLOWS_FROM
    ]
    windows = worthwhile_windows(capped)
    return windows[0][0] if windows else None


def _compared(runs: Sequence[Contender], window: Window | None) -> Versus | None:
    if window is None or len(runs) < 2:
        return None
    try:
        return versus(grouped(runs), *window, with_gaps=False)
    except CannotRead:
        return None


def _field(
    phone: str,
    charger: str,
    here: Sequence[Contender],
    apart: Mapping[str, str],
    comparison: Versus | None,
    window: Window | None,
) -> TableCell:
    times: dict[str, float] = {}
    places: list[tuple[int, int]] = []
    if comparison is not None:
        named = zip(comparison.cells, comparison.rank, comparison.last_rank, strict=True)
        places = [(rank, last) for cell, rank, last in named if rank and charger_name(cell.first) == charger]
    for run in here:
        minutes = None if apart[run.key] or window is None else _minutes(run, window)
        if minutes is not None:
            times[run.key] = minutes
    return TableCell(
        phone,
        charger,
        tuple(r for r in here if r.key in times),
        tuple(times[r.key] for r in here if r.key in times),
        place_said(*min(places), comparison.ranked) if comparison is not None and times and places else "",
        tuple((r, apart[r.key] or unfit(r, window)) for r in here if r.key not in times),
    )


def _minutes(run: Contender, window: Window) -> float | None:
    laps = timed([Repeats(run.key, run.label, (run,))], window).laps[0]
    return laps[0].estimate if laps else None
