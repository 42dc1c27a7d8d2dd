"""A load test as a document."""

from typing import Any

from ...core.measured import Measured
from ...core.packs import LoadTest, Rating


def load_document(test: LoadTest, rated: Rating) -> dict[str, Any]:
    """The figures of a load test, as the command line and the exports give them; times [s] on the log's own clock."""
    line = test.line
    return {
        "rated_wh": round(rated.wh, 4),
        "delivered_wh": _measured(test.delivered_wh, 3),
        "delivered_ah": _measured(test.delivered_ah, 4),
        "at_least": test.at_least,
        "start_s": test.start_s,
        "cut_off_s": test.cut_off_s,
        "yield": _measured(test.yield_, 4),
        "no_load_v": _measured(test.no_load_v, 4),
        "resistance_ohm": None if line is None else _measured(line.resistance_ohm, 5),
        "trip_a": None
        if test.trip is None
        else {
            "held": round(test.trip.held_a, 3),
            "tripped_at": None if test.trip.tripped_at_a is None else round(test.trip.tripped_at_a, 3),
        },
        "profile_changes": [
            {"at_s": c.at_s, "from_v": round(c.from_v, 3), "to_v": round(c.to_v, 3)} for c in test.profile_changes
        ],
        "steps": [
            {"start_s": s.start_s, "end_s": s.end_s, "amps": round(s.amps, 4), "volts": round(s.volts, 4)}
            for s in test.steps
        ],
        "sleeps": [
            {"at_s": s.at_s, "amps": round(s.amps, 4), "after_s": s.after_s, "back_s": s.back_s} for s in test.sleeps
        ],
        "folded": [{"at_s": f.at_s, "from_w": round(f.from_w, 3), "to_w": round(f.to_w, 3)} for f in test.folded],
    }


def _measured(measured: Measured | None, digits: int) -> dict[str, float | None] | None:
    if measured is None:
        return None
    expanded = measured.stated
    return {"value": round(measured.value, digits), "expanded": None if expanded is None else round(expanded, digits)}
