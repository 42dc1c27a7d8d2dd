"""Pictures of a finding that stand on axes: curves over one another, minutes against heat and price."""

from collections.abc import Callable, Sequence
from typing import Literal

from .canvas import Form, canvas, time_axis
from .pictures import phones_said
from .scale import CURVES, DASHES, GROUND, LINE, SOFT, linear, round_steps
from .subject import DrawnPhone, DrawnRow, Subject
from .svg import Drawing, number

Measure = Literal["battery", "power", "temperature"]
LEGEND = 230.0
MOST_CURVES = 12


def _chosen(subject: Subject, phone: int) -> DrawnPhone | None:
    return subject.phones[phone] if 0 <= phone < len(subject.phones) else None


def curves(subject: Subject, form: Form, measure: Measure, phone: int = 0, ground: bool = True) -> str:
    """Battery, power or temperature of the chargers of one phone over one another; each has a colour, a dash and a
    number of its own."""
    chosen = _chosen(subject, phone)
    rows = () if chosen is None else chosen.rows[:MOST_CURVES]
    unit = {"battery": "battery, %", "power": "power at the meter, W", "temperature": "phone, °C"}[measure]
    if measure == "temperature" and subject.fahrenheit:
        unit = "phone, °F"
    lines = [(row, _points(row, measure, subject.fahrenheit)) for row in rows]
    about = "" if chosen is None else f"{unit} over time. {phones_said([chosen])}"
    board = canvas(
        form, subject.question, "" if chosen is None else f"{chosen.head}: {unit}", subject.foot, about, ground
    )
    drawing = board.drawing
    left, right, top, bottom = board.left + 46.0, board.right - LEGEND, board.top + 10.0, board.bottom - 24.0
    known = [(x, y) for _, own in lines for x, y in own]
    if not known:
        drawing.text(board.left, board.top + 40.0, f"No {measure} was logged", 20.0)
        return drawing.written()
    minutes = max(30.0, *(x for x, _ in known))
    low, high = _range(measure, [y for _, y in known])
    time_axis(drawing, left, right, top, bottom, minutes)
    step = round_steps(high - low, 7)
    mark = low
    while mark <= high + 1e-9:
        y = bottom - (mark - low) / (high - low) * (bottom - top)
        drawing.line(left, y, right, y, LINE)
        drawing.text(left - 8.0, y + 5.0, f"{mark:g}", 14.0, colour=SOFT, anchor="end")
        mark += step
    for n, (row, own) in enumerate(lines):
        colour, dash = CURVES[n % len(CURVES)], DASHES[(n + n // len(CURVES)) % len(DASHES)]
        path = "M" + "L".join(
            f"{number(left + x / minutes * (right - left))} {number(linear((low, high), (bottom, top), y))}"
            for x, y in own
        )
        if own:
            drawing.put("path", d=path, fill="none", stroke=colour, stroke_width=2.4, stroke_dasharray=dash)
        y = top + 14.0 + n * 26.0
        drawing.line(right + 22.0, y - 5.0, right + 58.0, y - 5.0, colour, 2.4, dash)
        drawing.text(right + 66.0, y, row.label if own else f"{row.label}: not logged", 15.0, most=LEGEND - 68.0)
    return drawing.written()


def _points(row: DrawnRow, measure: Measure, fahrenheit: bool) -> list[tuple[float, float]]:
    if measure == "battery":
        return list(row.checkins)
    values = row.ribbon.watts if measure == "power" else row.ribbon.celsius or []
    turn: Callable[[float], float] = (lambda v: v * 1.8 + 32.0) if measure == "temperature" and fahrenheit else float
    return [((i + 0.5) * row.ribbon.step_min, turn(v)) for i, v in enumerate(values) if v is not None]


def _range(measure: Measure, values: Sequence[float]) -> tuple[float, float]:
    if measure == "battery":
        return 0.0, 100.0
    if measure == "power":
        return 0.0, max(5.0, max(values) * 1.08)
    low, high = 5.0 * (min(values) // 5.0), 5.0 * (max(values) // 5.0 + 1.0)
    return low, max(high, low + 5.0)


def scatter(subject: Subject, form: Form, against: Literal["heat", "price"], ground: bool = True) -> str:
    """Minutes over the window against the hottest reading, or against the price: to the left and below is better."""
    spots: list[tuple[float, float, DrawnRow, int]] = []
    currency = ""
    for k, phone in enumerate(subject.phones):
        for row in phone.rows:
            if against == "heat" and row.hottest is not None:
                spots.append((row.hottest * 1.8 + 32.0 if subject.fahrenheit else row.hottest, row.minutes, row, k))
            elif against == "price" and row.price is not None and currency in ("", row.price[1]):
                currency = row.price[1]
                spots.append((row.price[0], row.minutes, row, k))
    what = (
        ("hottest reading, °F" if subject.fahrenheit else "hottest reading, °C")
        if against == "heat"
        else f"price, {currency}"
    )
    board = canvas(
        form,
        subject.question,
        f"Minutes over the window against {what}: further left and lower is better.",
        subject.foot,
        phones_said(subject.phones),
        ground,
    )
    drawing = board.drawing
    if not spots:
        words = "No temperature was logged" if against == "heat" else "No price is known"
        drawing.text(board.left, board.top + 40.0, words, 20.0)
        return drawing.written()
    left, right, top, bottom = board.left + 60.0, board.right - LEGEND, board.top + 10.0, board.bottom - 30.0
    high = max(s[1] + s[2].noise for s in spots) * 1.05
    low_x = 0.0 if against == "price" else 5.0 * (min(s[0] for s in spots) // 5.0)
    high_x = max(s[0] for s in spots) * 1.08 + (0.0 if against == "price" else 1.0)
    _axes(drawing, (left, right, top, bottom), (low_x, high_x), high, what)
    named: list[tuple[float, float]] = []
    for x_value, minutes, row, k in sorted(spots, key=lambda s: (s[0], s[1])):
        x = left + (x_value - low_x) / (high_x - low_x) * (right - left)
        y = bottom - minutes / high * (bottom - top)
        half = row.noise / high * (bottom - top)
        drawing.line(x, y - half, x, y + half, SOFT, 1.2)
        _sign(drawing, x, y, k)
        at = y + 5.0
        while any(abs(at - other) < 15.0 and abs(x - ox) < 150.0 for ox, other in named):
            at += 15.0
        named.append((x, at))
        drawing.text(x + 11.0, at, row.label, 13.0, most=190.0)
    for k, phone in enumerate(subject.phones[:8]):
        y = top + 14.0 + k * 26.0
        _sign(drawing, right + 30.0, y - 5.0, k)
        drawing.text(right + 46.0, y, phone.head, 15.0, most=LEGEND - 48.0)
    return drawing.written()


def _axes(
    drawing: Drawing, box: tuple[float, float, float, float], across: tuple[float, float], high: float, what: str
) -> None:
    left, right, top, bottom = box
    step = round_steps(high, 7)
    for n in range(int(high // step) + 1):
        y = bottom - n * step / high * (bottom - top)
        drawing.line(left, y, right, y, LINE)
        drawing.text(left - 8.0, y + 5.0, f"{n * step:g}", 14.0, colour=SOFT, anchor="end")
    step = round_steps(across[1] - across[0], 8)
    mark = across[0]
    while mark <= across[1] + 1e-9:
        x = left + (mark - across[0]) / (across[1] - across[0]) * (right - left)
        drawing.line(x, top, x, bottom, LINE)
        drawing.text(x, bottom + 18.0, f"{mark:g}", 14.0, colour=SOFT, anchor="middle")
        mark += step
    drawing.soft(left, top - 2.0, "min", 14.0)
    drawing.soft(right, bottom + 36.0, what, 14.0, "end")


def _sign(drawing: Drawing, x: float, y: float, k: int) -> None:
    """A mark of a phone: shapes differ, so that they are told apart in grey."""
    colour, size = CURVES[k % len(CURVES)], 6.5
    shape = k % 4
    if shape == 0:
        drawing.put("circle", cx=x, cy=y, r=size, fill=colour)
    elif shape == 1:
        drawing.put(
            "rect",
            x=x - size,
            y=y - size,
            width=2 * size,
            height=2 * size,
            fill=GROUND,
            stroke=colour,
            stroke_width=2.4,
        )
    elif shape == 2:
        points = f"{number(x)},{number(y - 8)} {number(x + 8)},{number(y + 6)} {number(x - 8)},{number(y + 6)}"
        drawing.put("polygon", points=points, fill=colour)
    else:
        drawing.put("circle", cx=x, cy=y, r=size, fill=GROUND, stroke=colour, stroke_width=2.4)
