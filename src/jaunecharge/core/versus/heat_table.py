"""Heat across runs: which of them were made under conditions that others were not."""

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence

from ..factors import NO_ADAPTER, SAME_AMBIENT_K, said_of

CONDITIONS = ("airflow", "case", "phone_state", "start", "adapter")


def usual_conditions(
    runs: Sequence[Mapping[str, str]], rooms: Sequence[float | None]
) -> tuple[dict[str, str], float | None]:
    """Usual level of each condition, and the room of most of them [°C] (their middle one).

    Parameters
    ----------
    runs : sequence of mappings of factor name to what was stated
    rooms : sequence of float or None [°C], as long as `runs`
    """
    known = sorted(c for c in rooms if c is not None)
    return usual_levels((run, 1) for run in runs), usual_room(known[len(known) // 2]) if known else None


def usual_room(middle_c: float) -> float:
    """Usual room, from the middle one [°C], to half a degree: one run more does not move it."""
    return round(2.0 * middle_c) / 2.0


def usual_levels(counted: Iterable[tuple[Mapping[str, str], int]]) -> dict[str, str]:
    """Usual level of each condition, from what runs state and how many state it so."""
    stated: dict[str, Counter[str]] = {name: Counter() for name in CONDITIONS}
    for run, count in counted:
        for name in CONDITIONS:
            stated[name][run.get(name, "")] += count
    return {
        name: max(levels, key=lambda text: (levels[text], text != "", text)) if levels else ""
        for name, levels in stated.items()
    }


def unlike(
    run: Mapping[str, str], room_c: float | None, usual: Mapping[str, str], usual_room_c: float | None
) -> list[str]:
    """In what a run differs from the usual conditions, each said; empty where it is like the others.

    What it does not state while others do is unknown, which is not equal.
    """
    lines = []
    for name in CONDITIONS:
        here, there = run.get(name, ""), usual.get(name, "")
        if NO_ADAPTER in (here, there):
            continue  # A pack brings its own supply: that is a part of it, and no odd condition.
        if here != there:
            lines.append(f"{said_of(name)}: {here or 'not stated'}, where most have {there or 'nothing stated'}")
    if usual_room_c is not None:
        if room_c is None:
            lines.append(f"room: not known, where most have about {usual_room_c:.0f} °C")
        elif abs(room_c - usual_room_c) > SAME_AMBIENT_K:
            lines.append(f"room: {room_c:.0f} °C, where most have about {usual_room_c:.0f} °C")
    return lines
