"""Scales and colours of drawings: those of the pages, which take them from here."""

from itertools import pairwise

HEAT_STOPS: tuple[tuple[float, str], ...] = (
    (25.0, "#CDDBE4"), (34.0, "#D5DBCF"), (37.5, "#E8C462"), (40.0, "#E9953A"), (42.5, "#D9601A"), (46.0, "#7F1418"),
)  # fmt: skip
"""The heat scale, used for nothing else: its lightness falls steadily, so that it reads without hue."""

UNMEASURED = "#E7E2D3"
"""Fill of a ribbon where nobody measured."""

FULL_PACE = 1.5
"""Points a minute at which the band of a run without a meter is as high as it may be."""

LEAST_HALF_PX = 0.7
COLOUR_STOPS = 80
LABEL_ROOM_PX = 20.0

INK, SOFT, LINE, GROUND, YELLOW = "#1c1f26", "#555b6a", "#ddd8c8", "#faf8f1", "#ffd21f"
"""Colours of the day theme: near-black ink, soft ink, hairlines, chalk ground, the yellow of charging now."""

CURVES = ("#1c1f26", "#2a5b78", "#8a4b00", "#6b7280", "#2f6b3c")
DASHES = ("", "7 3", "2 3", "9 3 2 3", "14 4")
"""Curves laid over each other differ in colour and dash: they can be told apart in grey."""


def heat_colour(celsius: float) -> str:
    """Colour of a temperature: straight lines between the stops, in sRGB, clamped at both ends."""
    stops = HEAT_STOPS
    if celsius <= stops[0][0]:
        return stops[0][1].lower()
    for (low, first), (high, second) in pairwise(stops):
        if celsius <= high:
            share = (celsius - low) / (high - low)
            mixed = [round(a + (b - a) * share) for a, b in zip(_rgb(first), _rgb(second), strict=True)]
            return "#" + "".join(f"{v:02x}" for v in mixed)
    return stops[-1][1].lower()


def _rgb(colour: str) -> tuple[int, int, int]:
    return int(colour[1:3], 16), int(colour[3:5], 16), int(colour[5:7], 16)


def linear(domain: tuple[float, float], target: tuple[float, float], value: float) -> float:
    """A value of a domain on a target, in a straight line."""
    return target[0] + (value - domain[0]) / (domain[1] - domain[0]) * (target[1] - target[0])


STEPS = (1, 2, 5, 10, 15, 20, 30, 60, 120, 180, 240, 360)


def time_steps(minutes: float, most: int) -> int:
    """Minutes between the marks of a time axis, so that there are no more than so many."""
    return next((s for s in STEPS if minutes / s <= most), STEPS[-1])


def round_steps(most: float, count: int) -> float:
    """A round step for an axis from 0 to a value, with about so many marks."""
    step = 1.0
    for base in (0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000):
        step = base
        if most / base <= count:
            break
    return step
