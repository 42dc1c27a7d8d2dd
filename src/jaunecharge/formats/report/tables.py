"""Tables of a finding: a row a charger on a phone, with what people ask for; as text, CSV and Markdown."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from ...core.labels import harmless
from ...core.milestones import MILESTONES
from ...core.units import HOUR_S, MINUTE_S, fahrenheit
from ...core.wording import plain
from ...documents.run_summary import RunSummary
from ..drawings.svg import clean
from ..write.csv_xlsx import Cell, csv_text

AT_MINUTES = (5, 10, 15, 30, 45, 60, 90)


@dataclass(frozen=True)
class TableRow:
    """A charger on a phone: its runs, and the figures of the one nearest their mean, by column; None where nothing is
    known."""

    phone: str
    charger: str
    runs: int
    figures: Mapping[str, float | None]


def figures_of(summary: RunSummary, in_fahrenheit: bool = False) -> dict[str, float | None]:
    """The figures of a run that the table shows, by column."""
    course = None if summary.course is None else summary.course.course()
    readings = None if course is None else course.readings
    level: Callable[[float], float] | None = None
    if readings is not None and readings.level is not None:
        curve = readings.level
        last_s = float(readings.time_s[-1])
        level = lambda s: float(curve(s)) if s <= last_s else float("nan")  # noqa: E731
    reached = {m.percent: m.estimate for m in summary.milestones}
    levels, band = summary.levels, summary.ribbon
    unit = "°F" if in_fahrenheit else "°C"

    def degrees(celsius: float | None) -> float | None:
        return None if celsius is None else fahrenheit(celsius) if in_fahrenheit else celsius

    at_hour = int(HOUR_S / MINUTE_S / band.step_min)
    hour = band.celsius[at_hour] if band.celsius is not None and at_hour < len(band.celsius) else None
    found: dict[str, float | None] = {}
    for minute in AT_MINUTES:
        percent = None if level is None else level(minute * MINUTE_S)
        found[f"% at {minute} min"] = None if percent is None or percent != percent else round(percent, 1)
    for percent in MILESTONES:
        found[f"{percent} %, min"] = reached.get(percent)
    found["peak, W"] = None if levels is None else levels.peak_w
    found["sustained, W"] = None if levels is None else levels.sustained_w
    found[f"hottest, {unit}"] = degrees(summary.hottest_c)
    found[f"at 1 h, {unit}"] = degrees(hour)
    after = None if levels is None else levels.after_full_w
    found["after full, W"] = None if after is None else after.value
    return found


def headings(rows: Sequence[TableRow]) -> list[str]:
    """Headings of the table: phone, charger, runs, and every figure."""
    return ["phone", "charger", "runs", *(rows[0].figures if rows else ())]


_PLACES = {"%": 0, "min": 0, "W": 1, "°C": 1, "°F": 1}


def written(row: TableRow) -> list[str]:
    """A row as text, each figure rounded as it warrants."""
    cells = [clean(row.phone), clean(row.charger), str(row.runs)]
    for name, value in row.figures.items():
        places = (
            2
            if name.startswith("after full")
            else _PLACES.get("%" if name.startswith("% at") else name.split(", ")[-1], 1)
        )
        cells.append("" if value is None else f"{value:.{places}f}")
    return cells


def table_csv(rows: Sequence[TableRow]) -> str:
    """The table as CSV, figures as they are."""
    lines: list[list[Cell]] = [[clean(r.phone), clean(r.charger), r.runs, *r.figures.values()] for r in rows]
    return csv_text(headings(rows), lines)


def _cell(text: str) -> str:
    """A cell of a Markdown table: what would end it or mark it up is escaped."""
    text = harmless(clean(text)).replace("\\", "\\\\").replace("|", "\\|").replace("\n", " ")
    for sign in ("<", ">", "`", "[", "]", "*", "_", "#", "!"):
        text = text.replace(sign, f"\\{sign}")
    return text


def table_markdown(rows: Sequence[TableRow]) -> str:
    """The table as Markdown."""
    if not rows:
        return ""
    names = headings(rows)
    lines = [
        f"| {' | '.join(_cell(n) for n in names)} |",
        f"|{'|'.join('---' if k < 2 else '--:' for k in range(len(names)))}|",
    ]
    lines += [f"| {' | '.join(_cell(c) for c in written(r))} |" for r in rows]
    return "\n".join(lines) + "\n"


def markdown_line(words: str) -> str:
    """A sentence as Markdown: strong words bold, everything else as it stands."""
    return "".join(
        f"**{_cell(part)}**" if n % 2 else _cell(part)
        for n, part in enumerate(words.replace("[", "").replace("]", "").split("*"))
    )


def spoken(words: str) -> str:
    """A sentence without marks, as it is read out."""
    return clean(plain(words).replace("[", "").replace("]", "")).strip() + "."
