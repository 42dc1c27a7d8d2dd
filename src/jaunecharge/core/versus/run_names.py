"""Names of the runs of a comparison: by what tells them apart, and no more."""

import statistics
from collections.abc import Mapping, Sequence
from dataclasses import replace

from ..factors import NAMES, NO_ADAPTER, SAME_AMBIENT_K, SHORT, START_SLACK, WIRED, said_of
from .contender import Contender

_BESIDE_NAME = frozenset({"phone", "charger", "place", "method", "start", "software", "ambient"})


def told_apart(runs: Sequence[Contender]) -> list[Contender]:
    """The same runs, each labelled by its charger, by its phone where several are compared, and by what sets it apart.

    What most of the runs state goes without saying. Runs that state no charger keep their own label.
    """
    several_phones = len({phone for r in runs if (phone := r.levels.get("phone"))}) > 1
    bases = [_base(r, several_phones) for r in runs]
    usual = {name: _most(runs, name) for name in NAMES if name not in _BESIDE_NAME}
    starts = [s for r in runs if (s := r.start_percent) is not None]
    rooms = [c for r in runs if (c := r.ambient_c) is not None]
    names = []
    for run, base in zip(runs, bases, strict=True):
        extra = [
            _level(name, run.factors.get(name, ""))
            for name, level in usual.items()
            if run.levels.get(name, "") != level and not (name in {"adapter", "cable"} and _is_pack(run))
        ]
        if not run.levels.get("charger"):
            names.append(run)
            continue
        if (room := run.ambient_c) is not None and _unlike(room, rooms, SAME_AMBIENT_K):
            extra.append(f"{room:.0f} °C")
        if run.start_percent is not None and _unlike(run.start_percent, starts, START_SLACK):
            extra.append(f"from {run.start_percent:g} %")
        names.append(replace(run, label=", ".join([base, *extra])))
    return names


def _is_pack(run: Contender) -> bool:
    """Whether the charger brings its own supply."""
    return run.levels.get("adapter") == NO_ADAPTER


def _most(runs: Sequence[Contender], name: str) -> str:
    """The level that most of the runs state."""
    levels = [r.levels.get(name, "") for r in runs]
    return max(dict.fromkeys(levels), key=levels.count)


def _unlike(value: float, values: Sequence[float], within: float) -> bool:
    return abs(value - statistics.median_low(values)) > within


def charger_name(run: Contender) -> str:
    """The charger that a run states, at its place; empty where it states none."""
    charger, place = run.factors.get("charger", ""), run.factors.get("place", "")
    named = WIRED if charger.casefold() == WIRED else charger
    return f"{named}, {place}" if named and place and not named.casefold().endswith(f", {place.casefold()}") else named


def is_wired(run: Contender) -> bool:
    """Whether a run is the usual baseline, without a charger."""
    return charger_name(run) == WIRED


def _base(run: Contender, with_phone: bool) -> str:
    named, phone = charger_name(run), run.factors.get("phone", "")
    if not named:
        return run.label
    return f"{phone} × {named}" if with_phone and phone else named


def _level(name: str, text: str) -> str:
    if not text:
        return f"{name.replace('_', ' ')} not stated"
    if name == "adapter":
        return text if text == NO_ADAPTER else f"on {text}"
    return SHORT.get(text, text)


_AROUND = ("phone", "charger", "place", "adapter", "cable", "case", "airflow", "phone_state", "ambient")


def shared_said(shared: Mapping[str, str]) -> str:
    """Common ground of all runs of a comparison, in one line."""
    return ", ".join(_common(name, shared[name]) for name in _AROUND if name in shared)


def around_said(run: Contender, shared: Mapping[str, str]) -> str:
    """Other factors of a run: neither common to all, nor in its name."""
    named = run.label.casefold()
    return ", ".join(
        value
        for name in _AROUND[3:]
        if name in run.levels
        and name not in shared
        and (value := _common(name, run.factors[name])).casefold() not in named
        and run.factors[name].casefold() not in named
    )


def _common(name: str, text: str) -> str:
    if name == "adapter" and text != NO_ADAPTER:
        return f"{text} adapter"
    return SHORT.get(text, text) if name == "case" else text


def effect_said(factor: str) -> str:
    """Words for the factor of an effect."""
    return "by wire or not" if factor == WIRED else said_of(factor)
