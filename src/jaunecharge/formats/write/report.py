"""A reading as one JSON document, and as a table for people."""

from typing import Any

from ...core.reading import Reading, throttle_verdict
from ...core.report import sentences, warnings
from ...core.units import MINUTE_S
from ...documents.numbers import measured, number


def document(reading: Reading) -> dict[str, Any]:
    """The reading as the command line and the application give it out; times in minutes after placing.

    Where no power was metered, or a shared meter credits it to nobody, phases and dips are empty, and so is the output
    (without a meter: null).
    """
    trace, cleaned = reading.log.trace, reading.log.trace.cleaned

    def minutes(at_s: float) -> float:
        return round((at_s - reading.placed_s) / MINUTE_S, 3)

    return {
        **({"simulated": True} if reading.conditions.simulated else {}),
        "placed_s": round(reading.placed_s, 3),
        "duration_min": round(reading.duration_s / MINUTE_S, 3),
        "samples": len(trace.time_s) if trace.metered else 0,
        "cleaned": {
            "duplicates": cleaned.duplicates,
            "reordered": cleaned.reordered,
            "missing_s": round(cleaned.missing_s, 3),
        },
        "coverage": round(trace.coverage, 5),
        "energy_in_wh": measured(reading.energy_in.metered) if trace.metered else None,
        "energy_bridged_wh": measured(reading.energy_in.bridged)
        if trace.metered and not reading.energy_in.complete
        else None,
        "energy_battery_wh": measured(reading.energy_battery),
        "efficiency": measured(reading.efficiency),
        "efficiency_window": (
            [reading.account.from_percent, reading.account.to_percent]
            if reading.account and reading.efficiency
            else None
        ),
        "peak_w": round(reading.peak_w, 3) if trace.metered else None,
        "best_settled_w": number(reading.best_settled.watts if reading.best_settled else None, 3),
        "sustained_w": number(reading.sustained.watts if reading.sustained else None, 3),
        "no_load_w": number(reading.no_load.watts if reading.no_load else None, 3),
        "after_full_w": number(reading.after_full.watts if reading.after_full else None, 3),
        "milestones": [
            {
                "percent": m.percent,
                "earliest": minutes(m.earliest_s),
                "estimate": minutes(m.estimate_s),
                "latest": minutes(m.latest_s),
                **({} if m.after_s is None or m.by_s is None else {"check_ins": [minutes(m.after_s), minutes(m.by_s)]}),
            }
            for m in reading.milestones
        ],
        "percent_at": [{"minute": minute, "percent": round(percent, 1)} for minute, percent in reading.percent_at],
        **_along_chain(reading),
        "pace": _pace(reading),
        "phases": _phases(reading),
        "dips": _dips(reading),
        "heat": _heat(reading),
        "output": _output(reading) if trace.metered else None,
        "output_class": _output_class(reading),
        **({"outcome": reading.judged.outcome} if reading.judged is not None and reading.judged.outcome else {}),
        "sentences": [f"{s.plain} ({s.basis})." for s in sentences(reading)],
        "warnings": warnings(reading),
    }


def _pace(reading: Reading) -> list[dict[str, Any]]:
    return [
        {
            "start_s": round(p.start_s, 1),
            "end_s": round(p.end_s, 1),
            "points_per_min": measured(p.points_per_min),
            "began_between_s": [round(s, 1) for s in p.bend_s],
        }
        for p in reading.pace
    ]


def _along_chain(reading: Reading) -> dict[str, Any]:
    """Energy along the chain, where more than the meter's and the battery's was logged."""
    found = reading.along
    if found is None or not {"socket", "phone"} & {point for point, _ in found.energies}:
        return {}
    passages = [*found.passages, *([] if found.whole is None else [found.whole])]
    return {
        "along_chain": {
            "start_s": round(found.start_s, 1),
            "end_s": round(found.end_s, 1),
            "energy_wh": {point: measured(energy) for point, energy in found.energies},
            "through": [
                {"from": p.start, "to": p.end, "share": measured(p.share), "contradicts": p.contradicts}
                for p in passages
            ],
        }
    }


def _phases(reading: Reading) -> list[dict[str, Any]]:
    phases = reading.judged.phases if reading.judged is not None else ()
    return [
        {
            "kind": p.kind,
            "start_s": round(p.start_s, 1),
            "end_s": round(p.end_s, 1),
            "mean_w": round(p.mean_w, 3),
            **({"overruled": p.overruled} if p.overruled else {}),
        }
        for p in phases
    ]


def _dips(reading: Reading) -> list[dict[str, Any]]:
    dips = reading.judged.dips if reading.judged is not None else ()
    return [
        {
            "start_s": round(d.start_s, 1),
            "end_s": round(d.end_s, 1),
            "cause": d.cause,
            "depth_w": round(d.depth_w, 3),
            "onset_c": number(d.onset_c, 2),
            "onset_percent": number(d.onset_percent, 1),
            "why": d.why,
            **({"settle": d.settle} if d.settle else {}),
            **({"overruled": d.overruled} if d.overruled else {}),
        }
        for d in dips
    ]


def _output(reading: Reading) -> list[dict[str, Any]]:
    if reading.output is None:
        return []
    return [
        {"method": e.method, "point": e.point, "watts": measured(e.watts), "assumes": e.assumes}
        for e in reading.output.estimates
    ]


def _output_class(reading: Reading) -> dict[str, Any] | None:
    group = reading.output.group if reading.output is not None else None
    if group is None:
        return None
    return {
        "watts": group.watts,
        "fits": group.fits,
        "also_possible": list(group.also_possible),
        "claim_met": group.claim_met,
        "claim_kept_up": group.claim_kept,
        **({"undecided": group.undecided} if group.undecided else {}),
    }


def _heat(reading: Reading) -> dict[str, Any] | None:
    heat, throttle, node = reading.phone_heat, reading.throttle, reading.node
    if heat is None:
        return None
    first = throttle.first if throttle is not None else None
    return {
        "max_c": round(heat.max_c, 2),
        "rise_k": number(heat.rise_k, 2),
        "minutes_over": {str(c): round(m, 2) for c, m in heat.minutes_over.items()},
        "throttle": throttle_verdict(throttle),
        "first_throttle_min": None if first is None else round((first.start_s - reading.placed_s) / MINUTE_S, 2),
        "throttled_min": None if throttle is None else round(throttle.minutes, 2),
        "cycles": None if throttle is None else throttle.cycles,
        "shortfall_wh": None if throttle is None else round(throttle.shortfall_wh, 3),
        "cost_min": None if throttle is None else measured(throttle.cost_min),
        "steady_c": None if node is None else measured(node.steady_c),
        "tau_min": None if node is None else round(node.tau_s.value / MINUTE_S, 2),
        "positions": [
            {
                "position": h.position,
                "max_c": round(h.max_c, 2),
                "rise_k": number(h.rise_k, 2),
                "minutes_over": {str(c): round(m, 2) for c, m in h.minutes_over.items()},
            }
            for h in reading.heat
        ],
    }
