"""`jaunecharge rehearse`: a simulated run, written as the files that a real one would leave."""

import json
from pathlib import Path
from typing import Annotated, TypeVar

import typer

from ..core.chain import Chain, as_fed
from ..core.errors import CannotRead
from ..core.kit import Adapter, Cable, Case, Kit, Meter, Phone
from ..formats.kit import read_shelf
from .app import command
from .parts import (
    USUAL_PHONE_MAH,
    USUAL_PHONE_V,
    charger_from_shelf,
    from_shelf,
    printed_adapter,
    printed_cable,
    printed_case,
    printed_charger,
    printed_phone,
)

Choice = TypeVar("Choice", bound=str)


@command("rehearse")
def rehearse(
    output: Annotated[Path, typer.Option("--output", "-o", help="the folder to write into; made if missing")],
    adapter: Annotated[str, typer.Option(help='what it offers: "5V3A,9V2.22A" or "20W"; or its label')] = "20W",
    charger: Annotated[str, typer.Option(help="profiles that it gives, or its label on the shelf")] = "mpp",
    phone: Annotated[str, typer.Option(help="profiles that it takes, or its label on the shelf")] = "mpp",
    cable_amps: Annotated[float, typer.Option(help="amps that the cable carries")] = 3.0,
    charger_needs: Annotated[str, typer.Option(help="what it asks for, best first; of its class if not given")] = "",
    charger_claims_w: Annotated[float | None, typer.Option(help="what its maker claims, W")] = None,
    phone_limit_w: Annotated[float | None, typer.Option(help="the most that the phone takes, W")] = None,
    wired: Annotated[bool, typer.Option("--wired", help="no charger: the cable goes into the phone")] = False,
    case: Annotated[str, typer.Option(help='its thickness, mm, as "2" or "1.2 magnets"; or its label')] = "",
    capacity_mah: Annotated[float, typer.Option(help="the phone's battery, mAh")] = USUAL_PHONE_MAH,
    nominal_v: Annotated[float, typer.Option(help="its voltage, V")] = USUAL_PHONE_V,
    start_percent: Annotated[float, typer.Option(help="battery level at placing")] = 10.0,
    ambient_c: Annotated[float, typer.Option(help="the room, °C")] = 25.0,
    airflow: Annotated[str, typer.Option(help="still air; fan on the phone; charger's own fan")] = "still air",
    phone_state: Annotated[str, typer.Option(help="off, idle or in use")] = "idle",
    offset_mm: Annotated[float, typer.Option(help="how far off the centre it lies, mm")] = 0.0,
    hold_percent: Annotated[float | None, typer.Option(help="a charge limit that was left on, %")] = None,
    interval_min: Annotated[float, typer.Option(help="minutes between check-ins")] = 10.0,
    slips: Annotated[int, typer.Option(help="how often the phone slips off the coil", min=0, max=50)] = 0,
    seed: Annotated[int, typer.Option(help="of noise and slips; the same gives the same run", min=0)] = 1,
    shelf: Annotated[Path | None, typer.Option(help="your kit, JSON or CSV, for labels in the other options")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="the truth as one JSON document and nothing else")] = False,
) -> None:
    # The compiled simulator takes a moment to load: no other command should wait for it.
    from ..core.chain import advice
    from ..core.simulator import AIRFLOWS, IDLE_W, Circumstances, prepare, random_slips
    from ..core.simulator import rehearse as simulate_run
    from ..formats.rehearsal import case_document, truth_document, write_rehearsal

    own: tuple[Kit, ...] = read_shelf(shelf) if shelf else ()
    chain = as_fed(
        Chain(
            from_shelf(own, Adapter, adapter) or printed_adapter(adapter),
            from_shelf(own, Cable, "") or printed_cable(cable_amps),
            None
            if wired
            else charger_from_shelf(own, charger) or printed_charger(charger, charger_needs, charger_claims_w),
            from_shelf(own, Phone, phone) or printed_phone(phone, phone_limit_w, wired, capacity_mah, nominal_v),
            case=from_shelf(own, Case, case) or printed_case(case),
        )
    )
    if not 0.5 <= interval_min <= 240:
        raise CannotRead(f"{interval_min:g} min cannot be", "0.5 to 240 minutes between check-ins", "--interval-min")
    around = Circumstances(
        start_percent=_inside(start_percent, 0, 99, "%", "--start-percent"),
        ambient_c=_inside(ambient_c, -10, 50, "°C", "--ambient-c"),
        airflow=_one_of(airflow, AIRFLOWS, "--airflow"),
        phone_state=_one_of(phone_state, tuple(IDLE_W), "--phone-state"),
        offset_mm=_inside(offset_mm, 0, 30, "mm", "--offset-mm"),
        hold_percent=None if hold_percent is None else _inside(hold_percent, 1, 100, "%", "--hold-percent"),
        interval_min=interval_min,
        events=random_slips(slips, seed),
    )
    prepared = prepare(chain, around)
    meter = next((m for m in own if isinstance(m, Meter)), Meter(label="meter"))
    run = simulate_run(prepared.scenario, seed, meter, interval_min)
    typed = case_document(chain.phone, chain.charger, meter, interval_min)
    try:
        names = write_rehearsal(output, run, typed)
    except OSError as error:
        raise CannotRead(f"it cannot be written: {error.strerror}", "name another folder", str(output)) from error
    if as_json:
        typer.echo(json.dumps(truth_document(run.truth), ensure_ascii=False))
        return
    reached = ", ".join(f"{p} % after {m:.0f} min" for p, m in run.truth.crossings_min.items())
    lines = [
        f"simulated: {run.charge.power_w.max():.1f} W at the meter at most, {run.truth.energy_in_wh:.2f} Wh drawn; "
        f"{reached or 'it hardly charges'}; hottest {run.truth.max_c:.1f} °C",
        *(f"  {g.what}: {g.value} ({g.origin})" for g in prepared.origins),
        *(f"  - {s}" for s in advice(chain, prepared.checked, own)),
        f"{output}: {', '.join(names)}",
    ]
    typer.echo("\n".join(lines))


def _inside(value: float, low: float, high: float, unit: str, option: str) -> float:
    if not low <= value <= high:
        raise CannotRead(f"{value:g} {unit} cannot be", f"{low:g} to {high:g} {unit}", file=option)
    return value


def _one_of(text: str, known: tuple[Choice, ...], option: str) -> Choice:
    choice = next((k for k in known if k == text.strip().lower()), None)
    if choice is None:
        raise CannotRead(f"“{text}” is not known", f"one of: {'; '.join(known)}", file=option)
    return choice
