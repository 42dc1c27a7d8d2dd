"""Pictures of a finding that stand on ribbons and bars: who is ahead and who ran hot, a race, minutes to milestones."""

from collections.abc import Sequence

from ...core.milestones import MILESTONES
from ...core.units import MINUTE_S
from ...core.wording import counted, duration
from . import letters
from .band import Frame, ribbon
from .canvas import Canvas, Form, canvas, clock, time_axis
from .scale import CURVES, HEAT_STOPS, INK, LINE, SOFT
from .subject import DrawnPhone, DrawnRow, Subject
from .svg import Drawing

RACE_AT = (15, 30, 45, 60)
MOST_ROWS = {"wide": 11, "square": 16}
LABEL, PLACE = 190.0, 96.0


def _fitting(phones: Sequence[DrawnPhone], most: int) -> tuple[list[DrawnPhone], int]:
    """The phones of which all rows fit, and how many phones do not."""
    shown: list[DrawnPhone] = []
    rows = 0
    for phone in phones:
        if shown and rows + len(phone.rows) + 1 > most:
            break
        shown.append(phone)
        rows += len(phone.rows) + 1
    return shown, len(phones) - len(shown)


def row_said(row: DrawnRow, window: tuple[float, float]) -> str:
    """A row in words, for a text alternative."""
    hot = "" if row.hottest is None else f", hottest {row.hottest:.1f} °C"
    return (
        f"{row.label}, place {row.place}, {duration(row.minutes * MINUTE_S)} from {window[0]:g} to {window[1]:g} %{hot}"
    )


def phones_said(phones: Sequence[DrawnPhone]) -> str:
    """Phones and their rows in words."""
    return ". ".join(f"{p.head}: {'; '.join(row_said(r, p.window) for r in p.rows)}" for p in phones)


def ribbons(subject: Subject, form: Form, ground: bool = True, until: float | None = None) -> str:
    """The ribbons of all phones on one scale; with `until` [min] as far as they had come by then."""
    phones, more = _fitting(subject.phones, MOST_ROWS[form])
    rows = max(1, sum(len(p.rows) for p in phones))
    under = "Height: watts at the meter. Colour: the phone's temperature. A tick every 10 % of battery."
    if until is not None:
        under = f"After {duration(until * MINUTE_S)} on the charger. {under}"
    head = subject.question
    board = canvas(form, head, under, subject.foot, phones_said(phones), ground)
    heads = len(phones)
    each = min(72.0 if form == "wide" else 92.0, (board.high - 30.0 * heads - 50.0) / rows)
    y, left, right = board.top + 6.0, board.left + LABEL, board.right - PLACE
    axis_top = y
    minutes = subject.minutes
    placed: list[tuple[DrawnRow, float]] = []
    for phone in phones:
        board.drawing.text(board.left, y + 20.0, phone.head, 17.0, bold=True, most=board.wide)
        board.drawing.soft(right, y + 20.0, _shown(phone), 14.0, "end", most=board.wide * 0.5)
        y += 30.0
        for row in phone.rows:
            placed.append((row, y + each / 2.0))
            y += each
    time_axis(board.drawing, left, right, axis_top, y, minutes)
    for row, middle in placed:
        frame = Frame(
            left, right - left, minutes, middle + 5.0, min(20.0, each / 2.0 - 12.0), subject.full_watts,
            float("inf") if until is None else until,
        )  # fmt: skip
        board.drawing.text(board.left, middle + 9.0, row.label, 16.0, most=LABEL - 10.0)
        ribbon(board.drawing, row.ribbon, frame)
        side = row.place if until is None else _level(row, until)
        board.drawing.text(board.right, middle + 9.0, side, 16.0, bold=True, anchor="end", most=PLACE)
    _legend(board, subject)
    if more:
        board.drawing.soft(board.left, board.bottom + 4.0, f"and {counted(more, 'more phone')}, in the finding", 14.0)
    return board.drawing.written()


def _shown(phone: DrawnPhone) -> str:
    return f"{phone.window[0]:g} to {phone.window[1]:g} %, {phone.where}" if phone.where else ""


def _level(row: DrawnRow, minute: float) -> str:
    """The battery's level at a minute, by the last check-in before it."""
    seen = [percent for at, percent in row.checkins if at <= minute]
    return f"{seen[-1]:.0f} %" if seen and row.checkins[-1][0] >= minute else ("done" if seen else "")


def _legend(board: Canvas, subject: Subject) -> None:
    """The heat scale in the foot."""
    drawing, wide = board.drawing, 150.0
    low, high = HEAT_STOPS[0][0], HEAT_STOPS[-1][0]
    x, y = board.right - wide - 60.0, board.bottom + 26.0
    defs = drawing.put("defs")
    gradient = drawing.put("linearGradient", defs, id="scale")
    for celsius, colour in HEAT_STOPS:
        drawing.put("stop", gradient, offset=f"{(celsius - low) / (high - low):.4f}", stop_color=colour.lower())
    drawing.put("rect", x=x, y=y, width=wide, height=10.0, fill="url(#scale)", stroke=INK, stroke_width=0.8)
    unit = "°F" if subject.fahrenheit else "°C"
    texts = [c * 1.8 + 32.0 if subject.fahrenheit else c for c in (low, high)]
    drawing.soft(x - 8.0, y + 10.0, f"{texts[0]:.0f}", 14.0, "end")
    drawing.soft(x + wide + 8.0, y + 10.0, f"{texts[1]:.0f} {unit}", 14.0)


def race(subject: Subject, form: Form, minute: int, ground: bool = True) -> str:
    """A frame of a race of ribbons: how far each had come after so many minutes."""
    return ribbons(subject, form, ground, float(minute))


def bars(subject: Subject, form: Form, ground: bool = True) -> str:
    """Minutes to 50, 80 and 100 %, each with the interval in which it is known to lie."""
    phones, more = _fitting(subject.phones, MOST_ROWS[form] - 2)
    about = ". ".join(
        f"{p.head}: " + "; ".join(f"{r.label} {_milestones_said(r)}" for r in p.rows) for p in phones
    )  # fmt: skip
    board = canvas(
        form,
        subject.question,
        "Minutes after placing to 50, 80 and 100 %; the thin ends show how far apart check-ins were.",
        subject.foot,
        about,
        ground,
    )
    drawing, left, right = board.drawing, board.left + LABEL, board.right - 70.0
    times = [m[2] for p in phones for r in p.rows for m in r.milestones.values()]
    most = max([30.0, *times])
    rows = max(1, sum(len(p.rows) for p in phones))
    each = min(64.0, (board.high - 30.0 * len(phones) - 50.0) / rows)
    y = board.top + 6.0
    axis_top, spots = y, []
    for phone in phones:
        drawing.text(board.left, y + 20.0, phone.head, 17.0, bold=True, most=board.wide)
        y += 30.0
        for row in phone.rows:
            spots.append((row, y))
            y += each
    time_axis(drawing, left, right, axis_top, y, most)
    for row, top in spots:
        drawing.text(board.left, top + each * 0.62, row.label, 16.0, most=LABEL - 10.0)
        _bar(drawing, row, left, right, top, each, most)
    if more:
        drawing.soft(board.left, board.bottom + 4.0, f"and {counted(more, 'more phone')}, in the finding", 14.0)
    return drawing.written()


def _bar(drawing: Drawing, row: DrawnRow, left: float, right: float, top: float, each: float, most: float) -> None:
    def x(minute: float) -> float:
        return left + minute / most * (right - left)

    thick = min(12.0, each / 4.0)
    for n, percent in enumerate(MILESTONES):
        if percent not in row.milestones:
            continue
        earliest, estimate, latest = row.milestones[percent]
        y = top + each / 2.0 + (n - 1) * (thick + 3.0)
        colour = (CURVES[3], CURVES[1], INK)[n]
        drawing.put(
            "rect", x=left, y=y - thick / 2.0, width=x(estimate) - left, height=thick, fill=colour, opacity=0.85
        )
        drawing.line(x(earliest), y, x(latest), y, INK, 1.4)
        for end in (earliest, latest):
            drawing.line(x(end), y - 4.0, x(end), y + 4.0, INK, 1.4)
        words = f"{percent} % {clock(estimate)}"
        room = right + 60.0 - x(latest) - 8.0
        if letters.width(words, 12.0) <= room:
            drawing.text(x(latest) + 8.0, y + 4.0, words, 12.0, colour=SOFT)


def _milestones_said(row: DrawnRow) -> str:
    if not row.milestones:
        return "came to none of them"
    return ", ".join(
        f"{percent} % after {m[1]:.0f} min, between {m[0]:.0f} and {m[2]:.0f}" for percent, m in row.milestones.items()
    )


def table(subject: Subject, form: Form, ground: bool = True) -> str:
    """Phones across, chargers down: minutes over the window, and the place in small."""
    phones = list(subject.phones)[: 6 if form == "wide" else 4]
    chargers = sorted({r.label for p in phones for r in p.rows}, key=str.casefold)[: MOST_ROWS[form]]
    board = canvas(
        form,
        subject.question,
        "Minutes over the window of each phone; the place under it.",
        subject.foot,
        phones_said(phones),
        ground,
    )
    drawing = board.drawing
    column = (board.wide - LABEL - 20.0) / max(1, len(phones))
    line = min(64.0, (board.high - 64.0) / max(1, len(chargers)))
    for k, phone in enumerate(phones):
        x = board.left + LABEL + 20.0 + (k + 1) * column - 8.0
        drawing.text(x, board.top + 20.0, phone.phone, 16.0, bold=True, anchor="end", most=column - 12.0)
        window = f"{phone.window[0]:g} to {phone.window[1]:g} %"
        drawing.soft(
            x, board.top + 40.0, f"{phone.tier}, {window}" if phone.tier else window, 13.0, "end", column - 12.0
        )
    for n, charger in enumerate(chargers):
        y = board.top + 56.0 + n * line
        drawing.line(board.left, y, board.right, y, LINE)
        drawing.text(board.left, y + line * 0.6, charger, 16.0, most=LABEL)
        for k, phone in enumerate(phones):
            row = next((r for r in phone.rows if r.label == charger), None)
            x = board.left + LABEL + 20.0 + (k + 1) * column - 8.0
            if row is None:
                drawing.soft(x, y + line * 0.6, "not run", 14.0, "end")
                continue
            best = row.place.startswith("1")
            drawing.text(x, y + line * 0.46, duration(row.minutes * MINUTE_S), 18.0, bold=best, anchor="end",
                         family=letters.READINGS)  # fmt: skip
            drawing.soft(x, y + line * 0.46 + 17.0, row.place, 13.0, "end", column - 12.0)
    return drawing.written()
