"""`jaunecharge versus`: runs against each other, each difference against its noise."""

import json
from pathlib import Path
from typing import Annotated

import typer

from ..core.errors import CannotRead
from ..core.versus import (
    Align,
    Checked,
    Versus,
    check_cell,
    check_pair,
    gap_said,
    mean_lap,
    place_said,
    read_claim,
    spread_said,
    summary_said,
    versus,
    warnings_said,
    window_said,
)
from ..core.wording import decimals, plain
from ..formats.run_document import read_contender
from ..formats.versus import pair_said, versus_document
from .app import command


@command("versus")
def compare(
    runs: Annotated[list[Path], typer.Argument(help="the runs, JSON: check-ins, or the files they stand in")],
    start: Annotated[float | None, typer.Option("--from", help="the window begins at this percentage")] = None,
    end: Annotated[float | None, typer.Option("--to", help="the window ends at this percentage")] = None,
    common: Annotated[
        bool, typer.Option("--align-percent", help="line curves up where the window begins, not at placing")
    ] = False,
    claim: Annotated[
        str, typer.Option(help="check a claim about the first run, against the second where it names a difference")
    ] = "",
    as_json: Annotated[bool, typer.Option("--json", help="one JSON document and nothing else")] = False,
) -> None:
    contenders = [read_contender(path, str(n)) for n, path in enumerate(runs)]
    align: Align = "common percent" if common else "placement"
    comparison = versus(contenders, start, end, align)
    checked = _checked(comparison, claim) if claim else []
    if as_json:
        document = versus_document(comparison)
        if claim:
            document["claim"] = [
                {"reading": c.reading, "found": c.found, "low": c.low, "high": c.high, "unit": c.unit,
                 "outcome": c.outcome, "basis": c.basis}
                for c in checked
            ]  # fmt: skip
        typer.echo(json.dumps(document, ensure_ascii=False))
    else:
        typer.echo(_table(comparison, claim, checked))


def _checked(comparison: Versus, text: str) -> list[Checked]:
    claim = read_claim(text)
    if claim.kind == "reaches":
        return check_cell(claim, comparison, 0)
    if len(comparison.cells) < 2:
        raise CannotRead("all runs are repeats of one another", "a claim of a difference needs two chains", "claim")
    return check_pair(claim, comparison, 0, 1)


def _table(comparison: Versus, claim: str, checked: list[Checked]) -> str:
    width = max(12, *(len(c.label) for c in comparison.cells))
    heading = window_said(comparison.window)
    lines = [
        f"{heading[0].upper()}{heading[1:]}, {spread_said(comparison.timed)}",
        "",
    ]
    places = [place_said(a, b, comparison.ranked) for a, b in zip(comparison.rank, comparison.last_rank, strict=True)]
    wide = max(5, *map(len, places))
    lines += [f"{'place':>{wide}}  {'run':{width}}  {'runs':>4}  {'minutes':>8}  {'between':>16}  {'% at 30 min':>11}"]
    lines += ["-" * len(lines[-1])]
    order = sorted(
        range(len(comparison.cells)), key=lambda n: (comparison.rank[n] or 9999, comparison.timed.sides.minutes[n])
    )
    for n in order:
        minutes, at = mean_lap(comparison.timed.laps[n]), dict(comparison.percent_at(n))
        times = f"{'':>8}  {'not covered':>16}" if minutes is None else _times(*minutes)
        percent = f"{at[30.0]:.0f}" if 30.0 in at else ""
        lines.append(
            f"{places[n]:>{wide}}  {comparison.cells[n].label:{width}}  {len(comparison.cells[n].runs):>4}  {times}"
            f"  {percent:>11}"
        )
    lines += ["", *(plain(s) + "." for s in summary_said(comparison)), ""]
    for pair in comparison.pairs:
        lines.append(pair_said(comparison, pair))
        if pair.gap is not None and abs(pair.gap.points) >= 1.0:
            lines.append(f"    {gap_said(comparison, pair, pair.gap)}")
        welch = comparison.timed.welch(pair.a, pair.b) if pair.difference is not None else None
        if welch is not None:
            lines.append(f"    Welch's interval of the repeats alone: {welch[0]:.0f} to {welch[1]:.0f} min")
    if claim:
        lines += ["", f"“{claim}”:", *(f"  {claim_said(c)}" for c in checked)]
    careful = warnings_said(comparison)
    return "\n".join([*lines, *(["", "Be careful:", *(f"  - {w}" for w in careful)] if careful else [])])


def _times(earliest: float, estimate: float, latest: float) -> str:
    return f"{estimate:>8.1f}  {f'{earliest:.1f} and {latest:.1f}':>16}"


def claim_said(checked: Checked) -> str:
    """One reading of a claim in a line."""
    if checked.found is None:
        return f"{checked.outcome}: {checked.reading} ({checked.basis})"
    half = (checked.high or 0.0) - checked.found
    places = decimals(half)
    return (
        f"{checked.outcome}: {checked.reading} {checked.found:.{places}f} ± {half:.{places}f} {checked.unit} "
        f"({checked.basis})"
    )
