"""Pace of a charge in words, where no meter was: how fast, where it slowed, where it stood still. Never why."""

from itertools import pairwise

from ..log.pace import Pace, slows
from ..milestones import SLOWS_FROM, at_limit
from ..reading.read_run import Reading
from ..wording import duration, plus_minus
from .pace_figures import into_battery_w
from .sentence import Sentence

NOT_WHY = "why cannot be told without a meter"
NEARLY_FULL = 99.0
"""A phone that stands still from here on is full."""


def pace_words(reading: Reading) -> list[Sentence]:
    """Sentences on the pace of a run without a meter, in the order of time."""
    if reading.log.trace.metered or not reading.pace:
        return []
    first, lines = reading.pace[0], []
    if first.stands_still:
        lines.append(_still(reading, 0))
    else:
        watts = into_battery_w(reading, first)
        basis = f"± {first.points_per_min.expanded:.2f}"
        if watts is not None:
            basis += f"; {plus_minus(watts, 'W')} into the battery"
        text = f"Charges at *{_rate(first)}*" + (f" up to {first.end_percent:.0f} %" if len(reading.pace) > 1 else "")
        lines.append(Sentence("pace_0", text, basis, first.start_s, first.end_s, "pace_0"))
    for n, (before, after) in enumerate(pairwise(reading.pace), 1):
        if after.stands_still:
            if after.start_percent < NEARLY_FULL:
                lines.append(_still(reading, n))
        elif slows(before, after):
            lines.append(_bend(reading, n, "Slows"))
        elif slows(after, before):
            lines.append(_bend(reading, n, "Goes on"))
    return lines


def paced_words(reading: Reading) -> str:
    """The pace in a list: where it stood still or first slowed, else how fast it was."""
    pieces = reading.pace
    if not pieces:
        return "*temperatures only*" if reading.log.readings is None else "*one percentage only*"
    still = next((p for p in pieces if p.stands_still and p.start_percent < NEARLY_FULL), None)
    if still is not None:
        return f"stands still at *{still.end_percent:.0f} %*"
    slower = next((b for a, b in pairwise(pieces) if slows(a, b) and b.start_percent < SLOWS_FROM), None)
    if slower is not None:
        return f"slows at *{slower.start_percent:.0f} %*"
    return f"*{pieces[0].points_per_min.value:.2f} points/min*"


def _rate(piece: Pace) -> str:
    return f"{piece.points_per_min.value:.2f} points a minute"


def _bend(reading: Reading, n: int, verb: str) -> Sentence:
    piece = reading.pace[n]
    at = duration(piece.start_s - reading.placed_s)
    text = f"{verb} {'to' if verb == 'Slows' else 'at'} *{_rate(piece)}* at {piece.start_percent:.0f} %, after *{at}*"
    why = NOT_WHY if verb == "Slows" else f"± {piece.points_per_min.expanded:.2f}"
    return Sentence(f"pace_{n}", text, f"{_when(reading, piece)}; {why}", piece.start_s, piece.end_s, f"pace_{n}")


def _still(reading: Reading, n: int) -> Sentence:
    piece = reading.pace[n]
    level = (piece.start_percent + piece.end_percent) / 2.0
    limit = at_limit(level)
    why = NOT_WHY if limit is None else f"phones can be told to stop at {limit:g} %"
    text = f"Stands still at *{level:.0f} %* for *{duration(piece.end_s - piece.start_s)}*"
    return Sentence(f"pace_{n}", text, f"{_when(reading, piece)}; {why}", piece.start_s, piece.end_s, f"pace_{n}")


def _when(reading: Reading, piece: Pace) -> str:
    low, high = (duration(s - reading.placed_s) for s in piece.bend_s)
    return f"since {low}" if low == high else f"since some time between {low} and {high}"
