"""A rehearsal as files: the three logs of a run, what was typed in, and the truth."""

import json
from pathlib import Path
from typing import Any

from ..core.kit import Charger, Meter, Phone
from ..core.simulator import Rehearsal, Truth
from .write.csv_xlsx import csv_text

METER, CHECKINS, HEAT, CASE, TRUTH = "meter.csv", "battery.csv", "heat.csv", "case.json", "truth.json"


def meter_text(run: Rehearsal) -> str:
    """The meter's log."""
    rows = zip(run.time_s.tolist(), run.volts.round(5).tolist(), run.amps.round(6).tolist(), strict=True)
    return csv_text(("time_s", "volts", "amps"), rows)


def checkins_text(run: Rehearsal) -> str:
    """The check-ins."""
    return csv_text(("time_s", "percent"), zip(run.checkin_s.tolist(), run.percent.tolist(), strict=True))


def heat_text(run: Rehearsal) -> str:
    """Temperatures at the phone's back and in the room."""
    rows = [(t, "back", c) for t, c in zip(run.heat_s.tolist(), run.back_c.tolist(), strict=True)]
    rows += [(t, "room", c) for t, c in zip(run.heat_s.tolist(), run.room_c.tolist(), strict=True)]
    return csv_text(("time_s", "position", "celsius"), rows)


def truth_document(truth: Truth) -> dict[str, Any]:
    """Truth of a rehearsal; seconds on the log's clock, crossings in minutes after placing."""
    return {
        "simulated": True,
        "seed": truth.seed,
        "placed_s": truth.placed_s,
        "energy_in_wh": round(truth.energy_in_wh, 6),
        "energy_battery_wh": round(truth.energy_battery_wh, 6),
        "crossings_min_after_placing": {str(p): round(m, 4) for p, m in truth.crossings_min.items()},
        "no_load_w": truth.no_load_w,
        "after_full_w": truth.after_full_w,
        "max_c": round(truth.max_c, 3),
        "minutes_over": {str(c): round(m, 3) for c, m in truth.minutes_over.items()},
        "dips": [
            {
                "start_s": d.start_s,
                "end_s": d.end_s,
                "cause": d.cause,
                "onset_c": round(d.onset_c, 2),
                "onset_percent": d.onset_percent,
            }
            for d in truth.dips
        ],
    }


def case_document(phone: Phone, charger: Charger | None, meter: Meter, interval_min: float) -> dict[str, Any]:
    """Conditions as a tester would have typed them, marked as simulated."""
    truth = {
        "simulated": True,
        "capacity_mah": phone.capacity_mah,
        "nominal_v": phone.nominal_v,
        "battery_health": phone.battery_health,
        "claimed_w": charger.claimed_w if charger else None,
        "interval_min": interval_min,
        "meter": {"gain_percent": meter.gain_percent, "counts_v": meter.counts_v, "counts_a": meter.counts_a},
    }
    return {name: value for name, value in truth.items() if value is not None}


def write_rehearsal(folder: Path, run: Rehearsal, case: dict[str, Any]) -> list[str]:
    """Write a rehearsal's files into a folder; their names."""
    folder.mkdir(parents=True, exist_ok=True)
    texts = {
        METER: meter_text(run),
        CHECKINS: checkins_text(run),
        HEAT: heat_text(run),
        CASE: json.dumps(case, indent=1),
        TRUTH: json.dumps(truth_document(run.truth), indent=1),
    }
    for name, text in texts.items():
        (folder / name).write_text(text, encoding="utf-8")
    return list(texts)
