"""The ribbon of a run as SVG: the same geometry as on the pages, which a test holds."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from ...core.milestones import MILESTONES
from ...core.reading import CAUSES
from ...documents.ribbon import RibbonDocument
from .letters import TEXT
from .scale import COLOUR_STOPS, FULL_PACE, INK, LABEL_ROOM_PX, LEAST_HALF_PX, UNMEASURED, heat_colour
from .svg import Drawing, number

Point = tuple[float, float]


@dataclass(frozen=True)
class Frame:
    """Place of a ribbon: the pixel at its left edge, its width, the minutes of that width, its middle line, and its
    greatest half height at `full_watts`; until : minute after which nothing is drawn yet, in a race."""

    left: float
    wide: float
    minutes: float
    middle: float
    half: float
    full_watts: float
    until: float = math.inf

    def x(self, minute: float) -> float:
        """Pixel of a minute."""
        return self.left + minute / self.minutes * self.wide

    def half_of(self, watts: float) -> float:
        """Half the height of the band for so many watts [px]."""
        return max(LEAST_HALF_PX, watts / self.full_watts * self.half)

    @property
    def last(self) -> float:
        """The last minute that is drawn."""
        return min(self.minutes, self.until)


def monotone(points: Sequence[Point]) -> str:
    """A path through points that never overshoots between them.

    References
    ----------
    Steffen, M. (1990), A simple method for monotonic interpolation in one dimension, Astron. Astrophys. 239, 443–450
    (as the pages' drawing library has it; from memory).
    """
    n = len(points)
    if n < 3:
        return "L".join(f"{number(x)} {number(y)}" for x, y in points)
    steps = [(b[0] - a[0], (b[1] - a[1]) / ((b[0] - a[0]) or 1e-12)) for a, b in pairwise(points)]
    tangents = [0.0] * n
    for i in range(1, n - 1):
        (h0, s0), (h1, s1) = steps[i - 1], steps[i]
        p = (s0 * h1 + s1 * h0) / (h0 + h1)
        sign = math.copysign(1.0, s0) + math.copysign(1.0, s1)
        tangents[i] = sign * min(abs(s0), abs(s1), 0.5 * abs(p)) or 0.0
    tangents[0] = (3.0 * steps[0][1] - tangents[1]) / 2.0
    tangents[-1] = (3.0 * steps[-1][1] - tangents[-2]) / 2.0
    parts = [f"{number(points[0][0])} {number(points[0][1])}"]
    for i, (h, _) in enumerate(steps):
        (x0, y0), (x1, y1) = points[i], points[i + 1]
        third = h / 3.0
        parts.append(
            f"C{number(x0 + third)} {number(y0 + third * tangents[i])} {number(x1 - third)}"
            f" {number(y1 - third * tangents[i + 1])} {number(x1)} {number(y1)}"
        )
    return "".join(parts)


def outline(data: RibbonDocument, frame: Frame) -> str:
    """The outline of the band; a hole in the log and a lost contact leave a gap."""
    if data.pace:
        return _paced(data, frame)
    breaks = [m for m in data.marks if _off_coil(m.what)]
    runs: list[list[tuple[float, float]]] = [[]]
    for i, watts in enumerate(data.watts):
        broken = any(m.start < (i + 1) * data.step_min and m.end > i * data.step_min for m in breaks)
        if watts is None or broken or i * data.step_min > frame.last:
            runs.append([])
        else:
            runs[-1].append((frame.x((i + 0.5) * data.step_min), frame.half_of(watts)))
    bands = []
    for own in (r for r in runs if r):
        upper = monotone([(x, frame.middle - half) for x, half in own])
        lower = monotone([(x, frame.middle + half) for x, half in reversed(own)])
        bands.append(f"M{upper}L{lower}Z")
    return "".join(bands)


def _paced(data: RibbonDocument, frame: Frame) -> str:
    """The outline of a run without a meter: a step for each straight piece of its percentages."""
    steps = [
        (frame.x(p.start), frame.x(min(frame.last, p.end)), _half_of_pace(p.points_per_min, frame))
        for p in data.pace
        if p.start < frame.last
    ]
    if not steps:
        return ""
    upper = [f"{number(x)} {number(frame.middle - h)}" for a, b, h in steps for x in (a, b)]
    lower = [f"{number(x)} {number(frame.middle + h)}" for a, b, h in reversed(steps) for x in (b, a)]
    return f"M{'L'.join([*upper, *lower])}Z"


def _half_of_pace(pace: float, frame: Frame) -> float:
    return max(LEAST_HALF_PX, min(1.0, abs(pace) / FULL_PACE) * frame.half)


def _off_coil(what: str) -> bool:
    return what in CAUSES and CAUSES[what].off_coil


def _by_heat(what: str) -> bool:
    return what in CAUSES and CAUSES[what].by_heat


def _stops(data: RibbonDocument) -> list[tuple[float, str]]:
    """Stops of the band's colour, as shares of its own length."""
    celsius = data.celsius
    if not celsius:
        return [(0.0, UNMEASURED)]
    every = max(1, len(celsius) // COLOUR_STOPS)
    return [
        ((i + 0.5) / len(celsius), UNMEASURED if c is None else heat_colour(c))
        for i, c in enumerate(celsius)
        if i % every == 0
    ]


def ribbon(drawing: Drawing, data: RibbonDocument, frame: Frame, label_size: float = 13.0) -> None:
    """Draw the ribbon of a run: height is input power, colour the phone's temperature, a tick every 10 %."""
    name, band = drawing.name("heat"), outline(data, frame)
    defs = drawing.put("defs")
    gradient = drawing.put(
        "linearGradient", defs, id=name, gradientUnits="userSpaceOnUse", x1=frame.x(0.0), x2=frame.x(data.minutes),
        y1="0", y2="0",
    )  # fmt: skip
    for offset, colour in _stops(data):
        drawing.put("stop", gradient, offset=f"{offset:.4f}", stop_color=colour)
    hot = [(m.start, min(m.end, frame.last)) for m in data.marks if _by_heat(m.what) and m.start < frame.last]
    paced = bool(data.pace)
    drawing.put(
        "path", d=band, fill=f"url(#{name})", fill_opacity="0.55" if paced else "", stroke=INK,
        stroke_width=1.5 if paced else 0.9, stroke_dasharray="0.1 3" if paced else "",
        stroke_linecap="round" if paced else "",
    )  # fmt: skip
    for start, end in hot:
        _hatch(drawing, data, frame, start, end)
    _ticks(drawing, data, frame, label_size)
    if data.minutes > frame.minutes * 1.001 and frame.until > frame.minutes:
        x, y = frame.x(frame.last), frame.middle
        for lead in (7.0, 2.0):
            drawing.put("path", d=f"M{number(x - lead)} {number(y + 9)}l6 -18", stroke=INK, stroke_width=1.6)


def _hatch(drawing: Drawing, data: RibbonDocument, frame: Frame, start: float, end: float) -> None:
    """Heat dips are hatched: slanting lines across the band, which read in grey."""
    step = 5.0
    x = frame.x(start)
    while x < frame.x(end):
        minute = (x - frame.left) / frame.wide * frame.minutes
        i = min(len(data.watts) - 1, max(0, int(minute / data.step_min)))
        half = frame.half_of(data.watts[i] or 0.0)
        drawing.line(x - 2.0, frame.middle + half, x + 2.0, frame.middle - half, wide=1.1)
        x += step


def _ticks(drawing: Drawing, data: RibbonDocument, frame: Frame, label_size: float) -> None:
    reach, last_label = frame.half + 3.0, -math.inf
    for tick in data.ticks:
        if tick.minute > frame.last:
            continue
        x = frame.x(tick.minute)
        labelled = tick.percent in MILESTONES and x - last_label >= LABEL_ROOM_PX
        if labelled:
            last_label = x
            drawing.text(x, frame.middle - reach - 5.0, str(tick.percent), label_size, anchor="middle", family=TEXT)
        high = reach + 2.0 if labelled else reach - 4.0
        drawing.line(
            x, frame.middle - high, x, frame.middle + reach - (0.0 if labelled else 4.0), wide=1.6 if labelled else 0.8
        )
