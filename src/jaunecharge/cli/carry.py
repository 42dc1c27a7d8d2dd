"""`jaunecharge carry`: a measured curve, carried over to a phone of another capacity."""

import json
from pathlib import Path
from typing import Annotated

import typer

from ..core.errors import CannotRead
from ..core.versus import CARRY_UNCERTAINTY, carry_over
from ..formats.run_document import read_curve
from .app import command


@command("carry")
def carry(
    measured: Annotated[Path, typer.Option(help="the measured run, JSON: check-ins, or the files they stand in")],
    from_mah: Annotated[float, typer.Option(help="capacity of the measured phone, mAh")],
    to_mah: Annotated[float, typer.Option(help="capacity of the other phone, mAh")],
    as_json: Annotated[bool, typer.Option("--json", help="one JSON document and nothing else")] = False,
) -> None:
    curve = read_curve(measured)
    try:
        carried = carry_over(curve.minutes, curve.percent, from_mah, to_mah)
    except CannotRead as error:
        raise error.within("--from-mah, --to-mah" if "capacity" in error.what else measured.name) from None
    note = (
        f"An estimate for another phone of the same acceptance tier, ±{CARRY_UNCERTAINTY * 100:.0f} % in time: minutes "
        f"scaled by {carried.ratio:.3f} at equal percentages. It is not a measurement."
    )
    rows = list(zip(carried.minutes, carried.percent, carried.low_min, carried.high_min, strict=True))
    if as_json:
        document = {
            "checkins": [[round(float(m), 3), float(p)] for m, p, _, _ in rows],
            "estimate": True,
            "range_min": [[round(float(low), 3), round(float(high), 3)] for _, _, low, high in rows],
            "range_percent": CARRY_UNCERTAINTY * 100.0,
            "warnings": [note],
        }
        typer.echo(json.dumps(document, ensure_ascii=False))
        return
    lines = [f"{'%':>5}  {'minutes':>8}   {'between':>15}", "-" * 34]
    lines += [f"{p:>5.0f}  {m:>8.1f}   {low:>6.1f} and {high:.1f}" for m, p, low, high in rows]
    typer.echo("\n".join([*lines, "", note]))
