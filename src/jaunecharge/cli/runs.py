"""`jaunecharge runs`: what a file holds."""

import json
from pathlib import Path
from typing import Annotated

import typer

from ..core.units import MINUTE_S
from ..core.wording import duration
from ..formats.many.contents import Contents, RunInFile, contents
from ..formats.read.apart import limited
from ..formats.read.source import examine
from .app import command


@command("runs")
def runs(
    file: Annotated[Path, typer.Argument(help="a CSV or XLSX: a table of runs, or a meter's log")],
    as_json: Annotated[bool, typer.Option("--json", help="one JSON document and nothing else")] = False,
) -> None:
    with limited(file.name):
        inside = contents(examine(file))
    typer.echo(json.dumps(document(inside), ensure_ascii=False) if as_json else _table(inside))


def document(inside: Contents) -> dict[str, object]:
    """The contents of a file as one JSON document; minutes on the file's own clock."""
    return {
        "runs": [
            {
                "n": run.n,
                "label": run.label,
                "kind": run.kind,
                "start_s": round(run.start_s, 3),
                "end_s": round(run.end_s, 3),
                "placed_s": None if run.placed_s is None else round(run.placed_s, 3),
                "checkins": [[round(minute, 4), percent] for minute, percent in run.checkins],
                **({"factors": run.factors} if run.factors else {}),
                **({} if run.sure else {"perhaps_the_same": True}),
            }
            for run in inside.runs
        ],
        "left_out": list(inside.left_out),
    }


def _table(inside: Contents) -> str:
    width = max(len(run.label) for run in inside.runs)
    lines = [f"{'n':>3}  {'run':{width}}  {'from, min':>9}  {'lasts':>8}  what it holds", "-" * (width + 50)]
    lines += [
        f"{run.n:>3}  {run.label:{width}}  {run.start_s / MINUTE_S:>9.1f}  {duration(run.end_s - run.start_s):>8}"
        f"  {_holds(run)}"
        for run in inside.runs
    ]
    lines += ["", *(f"left out: {text}" for text in inside.left_out)] if inside.left_out else []
    return "\n".join([*lines, "", "read one: jaunecharge read --battery FILE --run N, of a log --meter FILE --run N"])


def _holds(run: RunInFile) -> str:
    levels = [percent for _, percent in run.checkins]
    span = f"{levels[0]:g} to {levels[-1]:g} % in {len(levels)} readings" if levels else ""
    if run.kind == "table":
        return span
    placed = "" if run.placed_s is None else f"placed at {run.placed_s / MINUTE_S:.1f} min"
    perhaps = "" if run.sure else "perhaps the same phone after a stop"
    return "; ".join(text for text in ("a meter log", placed, span, perhaps) if text)
