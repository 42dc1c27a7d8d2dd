"""The claim checker: what a claim of speed says, and under which reading the times support it."""

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from ..errors import CannotRead
from ..log.check_ins import READING_HALF_WIDTH
from ..measured import rectangle
from ..milestones import MILESTONES
from ..units import MINUTE_S
from .compare import Versus, timed
from .window import Window, span

Kind = Literal["faster", "times", "sooner", "reaches"]
Way = Literal["", "less time", "higher rate", "more time", "lower rate"]
Outcome = Literal["supported", "within the noise", "cannot be told", "not supported", "not covered"]

CHARGE_AFTER_MIN = 30.0
"""Some publish how much more charge there is after half an hour as “faster” (common practice)."""

_WORDS = {
    "half an hour": "30 min", "quarter of an hour": "15 min", "an hour and a half": "90 min",
    "one and a half hours": "90 min",
    "an hour": "60 min", "one hour": "60 min", "a hour": "60 min", "two hours": "120 min", "three hours": "180 min",
    "twice as fast": "2 times as fast", "double the speed": "2 times as fast", "half the time": "50 % less time",
    "half as fast": "0.5 times as fast", "three times as fast": "3 times as fast", "per cent": "%", "percent": "%",
}  # fmt: skip
_NUMBER = r"(\d+(?:\.\d+)?)"
_DURATION = re.compile(rf"(?:{_NUMBER}\s*(?:h|hours?|hrs?)\b)?\s*(?:and\s*)?(?:{_NUMBER}\s*(?:m|min|mins|minutes?)\b)?")
_CLOCK = re.compile(r"\b(\d{1,2}):(\d{2})\b(?:\s*(?:h|hours?))?")
_WINDOW = re.compile(rf"(?:from\s+)?{_NUMBER}\s*%?\s*(?:to|-|–|until|up to)\s*{_NUMBER}\s*%")
_TO = re.compile(rf"\b(?:to|until|at|reaches|up to)\s+{_NUMBER}\s*%")
_TIMES = re.compile(rf"{_NUMBER}\s*(?:[x×]|times\s+(?:as fast|as quick|the speed|faster|quicker|slower))")
_PERCENT = re.compile(rf"{_NUMBER}\s*%")
_FASTER = re.compile(
    r"\b(?:faster|quicker|speedier|more speed|higher rate|higher speed|less time|shorter|saves?"
    r"|slower|longer|more time)\b"
)
_SOONER = re.compile(r"\b(?:sooner|earlier|faster|quicker|less|saves?|ahead|before|shorter|later|slower|longer|more)\b")
_WATTS = re.compile(r"\d\s*w(?:atts?)?\b")
_RANGE = re.compile(
    rf"{_NUMBER}\s*%?\s*(?:to|-|–|until|up to)\s*{_NUMBER}\s*%\s+(?:more\s+)?"
    r"(?=faster|quicker|speedier|more speed|higher rate|higher speed|less time|shorter|slower|longer|more time)"
)
_ONE, _TWO = np.array([0]), np.array([1])
_FULL = re.compile(r"\b(?:full|fully|complete(?:ly)?|100\s*%)")


@dataclass(frozen=True)
class Claim:
    """A claim. value : percent, times, or minutes, of a range its lower end, and most the upper one; start, end [%] :
    its window as far as it names one."""

    text: str
    kind: Kind
    value: float
    start: float | None = None
    end: float | None = None
    slower: bool = False
    way: Way = ""
    most: float | None = None

    @property
    def said(self) -> str:
        """Understanding of the claim, in words."""
        over = "".join(
            [f" from {self.start:g}" if self.start is not None else "", f" to {self.end:g} %" if self.end else ""]
        )
        if self.kind == "reaches":
            return f"{over.strip() or 'charged'} in {self.value:g} min"
        word = "slower" if self.slower else "faster"
        if self.kind == "sooner":
            return f"{self.value:g} min {'later' if self.slower else 'sooner'}{over}"
        if self.kind == "times":
            return f"{(1.0 / self.value if self.slower else self.value):.3g} times as fast{over}"
        to = "" if self.most is None else f" to {self.most:g}"
        return f"{self.value:g}{to} % {self.way or word}{over}"


def read_claim(text: str) -> Claim:
    """A claim as it is typed: `35 % faster`, `full 40 minutes sooner`, `60 % in 45 minutes`.

    Raises
    ------
    CannotRead
        If it says nothing about time that runs could show.
    """
    plain = " ".join(text.casefold().replace(",", ".").replace("\u00a0", " ").split())
    for words, figure in _WORDS.items():
        plain = re.sub(rf"\b{words}\b", figure, plain)
    if not plain:
        raise CannotRead("no claim is typed", "as “35 % faster” or “60 % in 45 minutes”", file="claim")
    slower = bool(re.search(r"\b(?:slower|later|longer|more time)\b", plain))
    between = _RANGE.search(plain)
    if between and 0 < float(between[1]) < float(between[2]):
        # What is promised of a range is its lower end; how far the upper one is reached is said besides.
        lower = read_claim(_RANGE.sub(f"{between[1]} % ", plain, count=1))
        return replace(lower, text=text, most=float(between[2]))
    start, end, rest = _window(plain)
    minutes = _minutes(rest)
    if minutes is not None:
        if re.search(r"\b(?:in|within|after|takes|only)\b", rest) and not _SOONER.search(rest):
            return Claim(text, "reaches", minutes, start, 100.0 if end is None else end)
        if _SOONER.search(rest):
            return Claim(text, "sooner", minutes, start, end, slower)
    match = _TIMES.search(rest)
    if match and float(match[1]) > 0:
        # “1.5 times faster” is read as 1.5 times as fast: what most who say it mean.
        times = float(match[1])
        return Claim(text, "times", max(times, 1.0 / times), start, end, slower or times < 1.0)
    percent = _PERCENT.search(rest)
    if percent and _FASTER.search(rest):
        less = bool(re.search(r"\b(?:less time|shorter|saves?)\b", rest))
        rate = bool(re.search(r"\b(?:higher rate|more speed|higher speed)\b", rest))
        way: Way = "less time" if less else "higher rate" if rate else ""
        if slower:
            way = "more time" if re.search(r"\b(?:longer|more time)\b", rest) else ""
        if float(percent[1]) > 0:
            return Claim(text, "faster", float(percent[1]), start, end, slower, way)
    mend = "say how much faster or sooner, or which percentage in how many minutes, as “60 % in 45 minutes”"
    if _WATTS.search(plain):
        raise CannotRead("this checks speed claims. Watt claims stand on each run's page", mend, file="claim")
    raise CannotRead(f"“{text.strip()[:80]}” says nothing about time", mend, file="claim")


def _window(plain: str) -> tuple[float | None, float | None, str]:
    """The window that a claim names, and the claim without it."""
    match = _WINDOW.search(plain)
    if match and 0 <= float(match[1]) < float(match[2]) <= 100:
        return float(match[1]), float(match[2]), plain.replace(match[0], " ")
    match = _TO.search(plain)
    if match and 0 < float(match[1]) <= 100:
        return None, float(match[1]), plain.replace(match[0], " ")
    if _FULL.search(plain):
        return None, 100.0, _FULL.sub(" ", plain)
    percent = _PERCENT.search(plain)
    if percent and not _FASTER.search(plain) and 0 < float(percent[1]) <= 100:
        return None, float(percent[1]), plain.replace(percent[0], " ")
    return None, None, plain


def _minutes(text: str) -> float | None:
    clock = _CLOCK.search(text)
    if clock:
        return float(clock[1]) * 60.0 + float(clock[2])
    for match in _DURATION.finditer(text):
        if match[1] or match[2]:
            return float(match[1] or 0.0) * 60.0 + float(match[2] or 0.0)
    return None


@dataclass(frozen=True)
class Checked:
    """A claim under one reading: what was found, its interval, its unit, and whether the times support it."""

    reading: str
    found: float | None
    low: float | None
    high: float | None
    unit: str
    outcome: Outcome
    basis: str


def check_pair(claim: Claim, comparison: Versus, a: int, b: int) -> list[Checked]:
    """Whether the times of two cells support that a is faster (or slower) than b as claimed, under every reading.

    Parameters
    ----------
    claim : Claim
        Of kind faster, times or sooner.
    comparison : Versus
    a, b : int
        Places of the cell that the claim praises, and of the other.
    """
    checked = []
    for window in _windows(claim, comparison, a, b):
        over = f"from {window[0]:g} to {window[1]:g} %"
        this = timed([comparison.cells[a], comparison.cells[b]], window)
        if not this.known.all():
            checked.append(Checked(f"{over}", None, None, None, "", "not covered", "not both runs cover this window"))
            continue
        difference = this.differences(_ONE, _TWO)[0]
        assert difference is not None
        noise = difference.verdict.noise
        mine, other = float(this.sides.minutes[0]), float(this.sides.minutes[1])
        basis = f"{mine:.0f} against {other:.0f} min"
        if claim.kind == "sooner":
            sign = -1.0 if claim.slower else 1.0
            saved = sign * difference.verdict.minutes_saved
            checked.append(_judged(f"minutes {over}", saved, noise.minutes, "min", claim.value, 0.5, basis))
            continue
        # First order of the ratio of the times (JCGM 100:2008, 5.1.6), with the factor of the difference.
        relative = noise.factor * this.relative(0, 1)
        fast, slow = (other, mine) if claim.slower else (mine, other)
        ratio = slow / fast
        if claim.kind == "times":
            times = "times as slow" if claim.slower else "times as fast"
            checked.append(_judged(f"{times} {over}", ratio, ratio * relative, "×", claim.value, 0.05, basis, 1.0))
            continue
        part, more = 100.0 * (1.0 - 1.0 / ratio), 100.0 * (ratio - 1.0)
        readings: list[tuple[Way, float, float]] = [
            ("lower rate" if claim.slower else "less time", part, 100.0 / ratio * relative),
            ("more time" if claim.slower else "higher rate", more, 100.0 * ratio * relative),
        ]
        checked += [
            _judged(f"{way} {over}", value, half, "%", claim.value, 0.5, basis + _most_said(claim, value, half))
            for way, value, half in readings
            if claim.way in ("", way)
        ]
    if claim.kind == "faster" and not claim.way and not claim.slower and claim.end is None:
        checked += _more_charge(claim, comparison, a, b)
    return checked


def _most_said(claim: Claim, value: float, half: float) -> str:
    """Verdict on the upper end of a claimed range, in words."""
    if claim.most is None:
        return ""
    if value >= claim.most - 0.5:
        return f"; {claim.most:g} % is reached"
    return f"; {claim.most:g} % is {'not shown' if value + half >= claim.most - 0.5 else 'not reached'}"


def _windows(claim: Claim, comparison: Versus, a: int, b: int) -> list[Window]:
    """The windows that a claim is held against: its own, else every milestone that both sides reach, and the whole."""
    start = comparison.window[0] if claim.start is None else claim.start
    if claim.end is not None:
        return [(start, claim.end)]
    ends = [s[1] for k in (a, b) for run in comparison.cells[k].runs if (s := span(run.course.readings)) is not None]
    tops = [m for m in map(float, MILESTONES) if start < m <= min(ends, default=0.0)]
    return [(start, end) for end in dict.fromkeys([*tops, comparison.window[1]]) if end > start]


def verdict_said(checked: Sequence[Checked]) -> str:
    """Verdict of the times on a claim under all its readings, in one sentence."""
    outcomes = [c.outcome for c in checked if c.outcome != "not covered"]
    supported = outcomes.count("supported")
    if not outcomes:
        return "The runs do not cover what is claimed."
    if supported == len(outcomes):
        return "The times support it." if len(outcomes) == 1 else "The times support it under every reading."
    if supported:
        return f"The times support it under {supported} of {len(outcomes)} readings."
    if outcomes.count("not supported") == len(outcomes):
        return (
            "The times do not support it." if len(outcomes) == 1 else "The times do not support it under any reading."
        )
    return "The times do not show it."


def _judged(
    reading: str,
    value: float,
    half: float,
    unit: str,
    claimed: float,
    rounding: float,
    basis: str,
    nothing: float = 0.0,
) -> Checked:
    """A figure that should be at least as large as claimed; `nothing` is what it is where there is no difference."""
    low, high = value - half, value + half
    if high < claimed - rounding:
        outcome: Outcome = "not supported"
    elif low <= nothing:
        outcome = "cannot be told"
    elif value >= claimed - rounding:
        outcome = "supported"
    else:
        outcome = "within the noise"
    return Checked(reading, value, low, high, unit, outcome, basis)


def _more_charge(claim: Claim, comparison: Versus, a: int, b: int) -> list[Checked]:
    """The same claim read as more charge after the same time, with the half point of each reading."""
    mine, other = (_gained(comparison, k) for k in (a, b))
    if mine is None or other is None or other <= 0.0:
        return []
    value = 100.0 * (mine / other - 1.0)
    difference = comparison.timed.differences(np.array([a]), np.array([b]))[0]
    if difference is None:
        return []
    # Points gained by a moment go with the rate, so that they vary as times do; each point is read to half of one.
    relative = difference.verdict.noise.factor * comparison.timed.relative(a, b)
    readings = 2.0 * rectangle(READING_HALF_WIDTH) * 2.0**0.5 / other
    half = 100.0 * (mine / other) * (relative**2 + readings**2) ** 0.5
    basis = f"{mine:.0f} against {other:.0f} points gained"
    return [_judged(f"more charge after {CHARGE_AFTER_MIN:g} min", value, half, "%", claim.value, 0.5, basis)]


def _gained(comparison: Versus, cell: int) -> float | None:
    """Points gained half an hour after placing, the mean of the repeats."""
    rows = []
    for run in comparison.cells[cell].runs:
        readings = run.course.readings
        if readings is not None and readings.level is not None:
            rows.append(float(readings.level(CHARGE_AFTER_MIN * MINUTE_S)) - float(readings.percent[0]))
    value = float(np.mean(rows)) if rows else float("nan")
    return value if np.isfinite(value) else None


def check_cell(claim: Claim, comparison: Versus, cell: int) -> list[Checked]:
    """Whether the runs of a cell support that a percentage is reached in the claimed minutes, under every reading."""
    assert claim.end is not None
    runs = comparison.cells[cell].runs
    start = min((s for r in runs if (s := r.start_percent) is not None), default=0.0)
    if claim.start is not None:
        return [_in_time(claim, comparison, cell, (claim.start, claim.end), f"from {claim.start:g} to {claim.end:g} %")]
    end = claim.end
    checked = [
        _in_time(claim, comparison, cell, (start, end), f"{end:g} % shown, from the {start:g} % that it began with")
    ]
    if start > 0 and start + end <= 100.0:
        checked.append(
            _in_time(claim, comparison, cell, (start, start + end), f"{end:g} points gained, from {start:g} %")
        )
    elif start > 0:
        checked.append(
            Checked(f"{end:g} points gained", None, None, None, "", "not covered", f"it began at {start:g} %")
        )
    return checked


def _in_time(claim: Claim, comparison: Versus, cell: int, window: Window, reading: str) -> Checked:
    this = timed([comparison.cells[cell]], window)
    if not this.known.all():
        return Checked(reading, None, None, None, "", "not covered", "the runs do not cover this window")
    minutes, half = float(this.sides.minutes[0]), this.own_noise(0)
    low, high = minutes - half, minutes + half
    outcome: Outcome = (
        "supported" if minutes <= claim.value + 0.5 else "within the noise" if low <= claim.value else "not supported"
    )
    return Checked(reading, minutes, low, high, "min", outcome, f"{minutes:.0f} min, between {low:.0f} and {high:.0f}")
