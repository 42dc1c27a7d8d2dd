"""`jaunecharge chain`: what a chain will do before any test, from what is printed on its parts."""

import json
from pathlib import Path
from typing import Annotated, Any

import typer

from ..core.chain import Chain, ChainCheck, advice, check
from ..core.kit import Kit
from ..formats.kit import read_shelf
from .app import command
from .parts import (
    USUAL_PHONE_MAH,
    USUAL_PHONE_V,
    printed_adapter,
    printed_cable,
    printed_charger,
    printed_phone,
    unstated,
)


@command("chain")
def chain(
    adapter: Annotated[str, typer.Option(help='what it offers: "5V3A,9V2.22A", with PPS ranges, or its rating "20W"')],
    charger: Annotated[
        str,
        typer.Option(help="standards it gives: Qi2, Qi=15W, Qi, magnet-only, own:NAME=WATTS (or bpp, epp, mpp, mpp25)"),
    ] = "",
    phone: Annotated[
        str,
        typer.Option(help="standards it takes: Qi2, Qi2=12W, Qi, own:NAME=WATTS (or bpp, epp, mpp, mpp25, mpp@12)"),
    ] = "",
    cable_amps: Annotated[float, typer.Option(help="amps that the cable carries")] = 3.0,
    charger_needs: Annotated[str, typer.Option(help="what it asks for, best first; of its class if not given")] = "",
    charger_claims_w: Annotated[float | None, typer.Option(help="what its maker claims, W")] = None,
    phone_limit_w: Annotated[float | None, typer.Option(help="the most that the phone takes, W")] = None,
    wired: Annotated[bool, typer.Option("--wired", help="no charger: the cable goes into the phone")] = False,
    capacity_mah: Annotated[float, typer.Option(help="the phone's battery, mAh")] = USUAL_PHONE_MAH,
    nominal_v: Annotated[float, typer.Option(help="its voltage, V")] = USUAL_PHONE_V,
    phones_on_charger: Annotated[int, typer.Option(help="phones that charge on it at once", min=1, max=10)] = 1,
    chargers_on_adapter: Annotated[int, typer.Option(help="what draws from the adapter at once", min=1, max=10)] = 1,
    shelf: Annotated[Path | None, typer.Option(help="your kit, JSON or CSV: advice comes from it first")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="one JSON document and nothing else")] = False,
) -> None:
    typed_chain = Chain(
        printed_adapter(adapter),
        printed_cable(cable_amps),
        None if wired else printed_charger(charger, charger_needs, charger_claims_w),
        printed_phone(phone, phone_limit_w, wired, capacity_mah, nominal_v),
        phones_on_charger=phones_on_charger,
        chargers_on_adapter=chargers_on_adapter,
    )
    own: tuple[Kit, ...] = read_shelf(shelf) if shelf else ()
    result = check(typed_chain)
    lines = [*([] if wired else unstated(charger, phone)), *advice(typed_chain, result, own)]
    typer.echo(json.dumps(document(result, lines), ensure_ascii=False) if as_json else _table(result, lines))


def document(result: ChainCheck, lines: list[str]) -> dict[str, Any]:
    """The result as JSON; watts of links as seen at the meter, `flows_w` at the link's own point."""
    return {
        "links": [
            {
                "link": link.link,
                "watts": round(link.watts, 2),
                "passes_w": round(link.passes_w, 2),
                "flows_w": round(link.flows_w, 2),
                "why": link.why,
            }
            for link in result.links
        ],
        "narrowest": result.narrowest,
        "negotiated": result.deal.negotiated,
        "inferred": result.deal.inferred,
        "transfer": result.agreement.profile if result.agreement else None,
        "meter_w": {"low": round(result.meter_w.low, 2), "high": round(result.meter_w.high, 2)},
        "delivered_w": {"low": round(result.delivered_w.low, 2), "high": round(result.delivered_w.high, 2)},
        "charges": result.charges,
        "claim_met": result.reaches_claim,
        "advice": lines,
    }


def _table(result: ChainCheck, advice_lines: list[str]) -> str:
    lines = [f"{'link':10} {'could pass':>11}   {'flows':>7}   why", "-" * 78]
    for link in result.links:
        mark = "  <- narrowest" if link.link == result.narrowest else ""
        lines.append(f"{link.link:10} {link.watts:>9.1f} W   {link.flows_w:>5.1f} W   {link.why}{mark}")
    lines += [
        "",
        f"negotiated {result.deal.negotiated}{' (inferred)' if result.deal.inferred else ''}; at the meter "
        f"{result.meter_w.low:.1f} to {result.meter_w.high:.1f} W; delivered {result.delivered_w.low:.1f} to "
        f"{result.delivered_w.high:.1f} W",
        "",
        *(f"  - {s}" for s in advice_lines),
        "",
        "What a link could pass is referred to the meter side; from the coupling on, what flows is what is delivered.",
    ]
    return "\n".join(lines)
