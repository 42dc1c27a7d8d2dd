"""`jaunecharge pack`: what a battery pack promises and gives, from figures, or from the log of a load test."""

import json
import math
from pathlib import Path
from typing import Annotated, Any

import typer

from ..core.errors import CannotRead
from ..core.log import power_trace
from ..core.packs import (
    PackCharge,
    PackSentence,
    Rating,
    cabin_class,
    cabin_said,
    charges_said,
    check_charge,
    check_delivered,
    delivered_said,
    efficiency_said,
    full_charges,
    hours_at_load,
    hours_said,
    load_sentences,
    load_warnings,
    mah_at_usb,
    not_believed,
    percent_level,
    rated_said,
    rating,
    read_load,
    share_of_rated_mah,
    transfer_efficiency,
)
from ..core.units import battery_wh
from ..core.wording import plain
from ..formats.json_files import read_pack_case
from ..formats.read.apart import limited
from ..formats.read.files import Asked, load_log
from ..formats.write.pack_report import load_document
from .app import command

MOST_PHONE_MAH, MOST_PHONE_V = 100_000.0, 30.0


@command("pack")
def pack(
    rated_mah: Annotated[float | None, typer.Option(help="capacity that is printed, mAh")] = None,
    cell_volts: Annotated[float | None, typer.Option(help="voltage of its cells, V")] = None,
    delivered_wh: Annotated[float | None, typer.Option(help="energy that it delivered, Wh")] = None,
    load_watts: Annotated[float | None, typer.Option(help="a load to feed, W")] = None,
    yield_: Annotated[float | None, typer.Option("--yield", help="share of the rated energy it gives, 0 to 1")] = None,
    pack_from: Annotated[float | None, typer.Option(help="level of the pack before a charge, %")] = None,
    pack_to: Annotated[float | None, typer.Option(help="level of the pack after it, %")] = None,
    phone_from: Annotated[float | None, typer.Option(help="level of the phone before it, %")] = None,
    phone_to: Annotated[float | None, typer.Option(help="level of the phone after it, %")] = None,
    phone_mah: Annotated[float | None, typer.Option(help="capacity of the phone's battery, mAh")] = None,
    phone_volts: Annotated[float | None, typer.Option(help="its voltage, V")] = None,
    by_cord: Annotated[bool, typer.Option("--by-cord", help="charged by cord, not by coil")] = False,
    log: Annotated[Path | None, typer.Option(help="log of a load test: times, volts and amps")] = None,
    case: Annotated[Path | None, typer.Option(help="the pack of that log: rated_mah, cell_volts; JSON")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="one JSON document and nothing else")] = False,
) -> None:
    if log is not None:
        found = _from_log(log, case, rated_mah, cell_volts)
    else:
        charge = _charge((pack_from, pack_to, phone_from, phone_to), phone_mah, phone_volts, by_cord)
        found = _from_figures(rating(rated_mah, cell_volts), delivered_wh, load_watts, yield_, charge)
    if as_json:
        typer.echo(json.dumps(found, ensure_ascii=False, allow_nan=False))
        return
    lines = [plain(s) for s in found["sentences"]]
    if found["warnings"]:
        lines += ["", "Be careful:", *(f"  - {w}" for w in found["warnings"])]
    typer.echo("\n".join(lines))


def _from_log(log: Path, case: Path | None, rated_mah: float | None, cell_volts: float | None) -> dict[str, Any]:
    stated = read_pack_case(case) if case is not None else None
    rated = stated.rating() if stated is not None else rating(rated_mah, cell_volts)
    with limited(log.name):
        rows = load_log(Asked(log, log.name))
    trace = power_trace(rows.clock.seconds, rows.watts, rows.volts, rows.amps)
    try:
        test = read_load(trace, rated) if stated is None else read_load(trace, rated, stated.meter.spec())
    except CannotRead as error:
        raise error.within(log.name) from None
    found = load_document(test, rated)
    found["sentences"] = [s.text for s in (rated_said(rated), *load_sentences(rated, test), cabin_said(rated))]
    found["warnings"] = [*rows.remarks, *load_warnings(rated, test)]
    return found


def _charge(
    levels: tuple[float | None, ...], phone_mah: float | None, phone_volts: float | None, by_cord: bool
) -> PackCharge | None:
    """The charge that options state; None where they state none."""
    if all(level is None for level in levels):
        return None
    named = ("--pack-from", "--pack-to", "--phone-from", "--phone-to")
    missing = [name for name, level in zip(named, levels, strict=True) if level is None]
    if missing:
        raise CannotRead(f"{', '.join(missing)} is missing", "a charge is four levels", file="pack")
    if (phone_mah is None) != (phone_volts is None):
        raise CannotRead(
            "the phone's mAh say nothing without its volts", "give --phone-mah and --phone-volts", file="pack"
        )
    wh = None
    if phone_mah is not None and phone_volts is not None:
        if not (0 < phone_mah <= MOST_PHONE_MAH and 0 < phone_volts <= MOST_PHONE_V):
            raise CannotRead("that is no phone's battery", "write mAh and volts above 0", file="pack")
        wh = battery_wh(phone_mah, phone_volts)
    before, after, phone_before, phone_after = (percent_level(x) for x in levels if x is not None)
    return check_charge(PackCharge(before, after, phone_before, phone_after, wh, by_cord))


def _from_figures(
    rated: Rating, delivered_wh: float | None, load_w: float | None, stated: float | None, charge: PackCharge | None
) -> dict[str, Any]:
    found: dict[str, Any] = {"rated_wh": _short(rated.wh), "cabin_class": cabin_class(rated.wh)}
    told, doubts = [rated_said(rated)], []
    measured = None
    if delivered_wh is not None:
        measured = check_delivered(delivered_wh) / rated.wh
        found |= {
            "yield": _short(measured),
            "mah_at_5v": _short(mah_at_usb(delivered_wh)),
            "mah_at_5v_of_rated": _short(share_of_rated_mah(delivered_wh, rated)),
        }
        told.append(delivered_said(rated, delivered_wh))
    if measured is not None and measured > 1.0:
        doubts.append("It delivered more than is printed on it: look at both figures again.")
    if load_w is not None:
        hours = hours_at_load(rated, load_w, stated, measured)
        found["hours_at_load"] = _short(hours.hours)
        told.append(hours_said(load_w, hours))
    if charge is not None:
        said, odd = _of_charge(found, charge, rated)
        told += said
        doubts += odd
    told.append(cabin_said(rated))
    return {**found, "sentences": [s.text for s in told], "warnings": doubts}


def _of_charge(found: dict[str, Any], charge: PackCharge, rated: Rating) -> tuple[list[PackSentence], list[str]]:
    charges, efficiency = full_charges(charge), transfer_efficiency(charge, rated)
    if charges is None:
        return [], ["The pack's gauge did not move: charge on until it does."]
    told = [charges_said(charges)]
    found["full_charges"] = _short(charges.value)
    found["full_charges_range"] = [_short(charges.low), _short(charges.high) if math.isfinite(charges.high) else None]
    if efficiency is not None:
        found["transfer_efficiency"] = _short(efficiency.value)
        told.append(efficiency_said(efficiency))
    doubt = not_believed(charge, rated)
    return told, [doubt] if doubt else []


def _short(value: float) -> float:
    return round(float(value), 4)
