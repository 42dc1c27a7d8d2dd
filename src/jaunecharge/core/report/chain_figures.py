"""Figures of the energy along a run's chain: at the socket, at the meter, as the phone says, in the battery."""

from collections.abc import Callable

from ..reading.along_chain import LEAST_COVERED, AlongChain, Passage, Point, level_within
from ..reading.read_run import Reading
from ..wording import plus_minus, share
from .figure import Figure

Clock = Callable[[float], str]

SIDES: dict[Point, str] = {"socket": "socket", "meter": "meter side", "phone": "phone side", "battery": "battery side"}
THROUGH: dict[tuple[Point, Point], str] = {
    ("socket", "meter"): "from the socket to the meter",
    ("meter", "phone"): "from meter to phone, by its own word",
    ("socket", "phone"): "from socket to phone, by its own word",
    ("phone", "battery"): "from the phone's own figure to the battery",
    ("socket", "battery"): "from the socket into the battery",
}
ENERGIES: dict[Point, str] = {"socket": "energy from the socket", "phone": "energy as the phone says"}
_SAME_WINDOW = (
    "both over one window; a point that was logged over less than"
    f" {share(LEAST_COVERED)} of it, or not from its one end to the other, does not count"
)


def chain_figures(reading: Reading, clock: Clock) -> list[Figure]:
    """Energy at socket and phone, and what came through between the points that were logged."""
    found = reading.along
    if found is None:
        return _at_rest(reading, clock)
    rows = [_energy(found, point, said, clock) for point, said in ENERGIES.items() if found.energy(point) is not None]
    rows += [_passage(found, p, clock) for p in found.passages if (p.start, p.end) in THROUGH]
    if found.whole is not None:
        rows.append(_passage(found, found.whole, clock))
    return [*rows, *_at_rest(reading, clock)]


def _energy(found: AlongChain, point: Point, said: str, clock: Clock) -> Figure:
    energy = found.energy(point)
    assert energy is not None
    return Figure(
        key=f"energy_{point}",
        label=said,
        unit="Wh",
        value=energy.value,
        expanded=energy.stated,
        point=SIDES[point],
        formula="E = Σ ½ (power + next power) × step, holes bridged",
        numbers=f"{clock(found.start_s)} to {clock(found.end_s)}",
        source="trapezoid rule; JCGM 100:2008, 5.1.2"
        + ("; nobody knows how good the phone's own figure is" if point == "phone" else ""),
        budget=energy.parts,
        start_s=found.start_s,
        end_s=found.end_s,
    )


def _passage(found: AlongChain, passage: Passage, clock: Clock) -> Figure:
    start, end = found.energy(passage.start), found.energy(passage.end)
    assert start is not None and end is not None
    percent = passage.share.scaled(100.0)
    return Figure(
        key=f"{passage.start}_to_{passage.end}",
        label=THROUGH[passage.start, passage.end],
        unit="%",
        value=percent.value,
        expanded=percent.stated,
        point=f"{SIDES[passage.start]} to {SIDES[passage.end]}",
        formula="η = energy at the later point ÷ energy at the earlier one, " + _SAME_WINDOW,
        numbers=f"{clock(found.start_s)} to {clock(found.end_s)}: {plus_minus(end, 'Wh')} ÷ {plus_minus(start, 'Wh')}"
        + ("" if percent.parts else "; the accuracy of one of the two is not known, so no ± is given")
        + ("; it cannot be more than 100 %: one of the two is wrong" if passage.contradicts else ""),
        source="common practice; JCGM 100:2008, 5.1.2",
        budget=percent.parts,
        start_s=found.start_s,
        end_s=found.end_s,
    )


def _at_rest(reading: Reading, clock: Clock) -> list[Figure]:
    """Draws at the socket with no phone and after full: what is paid for, the adapter's own losses included."""
    socket = reading.log.socket
    if socket is None or reading.conditions.shared_with or reading.conditions.socket_shared:
        return []
    rows = []
    for key, label, stretch in (
        ("socket_no_load", "no-load, at the socket", reading.no_load),
        ("socket_after_full", "after full, at the socket", reading.after_full),
    ):
        watts = None if stretch is None else level_within(socket, stretch.start_s, stretch.end_s)
        if stretch is None or watts is None:
            continue
        rows.append(
            Figure(
                key=key,
                label=label,
                unit="W",
                value=watts,
                expanded=None,
                point=SIDES["socket"],
                formula="mean of the readings at the socket in the stretch in which the inline meter was at rest",
                numbers=f"{clock(stretch.start_s)} to {clock(stretch.end_s)}",
                source="common practice; at so small a draw many plugs are coarse, so no ± is given",
                start_s=stretch.start_s,
                end_s=stretch.end_s,
            )
        )
    return rows
