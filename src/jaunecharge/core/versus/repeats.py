"""Repeats, folded into cells; and what the runs of a comparison have in common."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from .contender import Contender
from .pairing import METHOD_FACTORS, differences


@dataclass(frozen=True)
class Repeats:
    """Runs that differ in nothing, folded: its key, its label, and the runs."""

    key: str
    label: str
    runs: tuple[Contender, ...]

    @property
    def first(self) -> Contender:
        """The run that stands for what is the same in all."""
        return self.runs[0]


def fold(runs: Sequence[Contender]) -> list[Repeats]:
    """Cells of runs: those of a group are repeats; a run without one stands for itself, and so do repeats alone."""
    members: dict[str, list[Contender]] = {}
    for n, run in enumerate(runs):
        members.setdefault(f"group {run.group}" if run.group else f"run {n} {run.key}", []).append(run)
    if len(members) == 1:
        # Repeats alone are held against each other: how far apart they lie is what they are made for.
        return [Repeats(run.key, run.label, (run,)) for run in runs]
    return [
        Repeats(own[0].key, own[0].label if len({r.label for r in own}) == 1 else own[0].group, tuple(own))
        for own in members.values()
    ]


def grouped(runs: Sequence[Contender]) -> list[Contender]:
    """The same runs with those of one phone and charger that differ in nothing put into groups.

    Only runs that state their phone and charger can be known to be repeats.
    """
    heads: dict[tuple[tuple[str, str], ...], list[Contender]] = {}
    groups = []
    for run in runs:
        if not (run.levels.get("phone") and run.levels.get("charger")):
            groups.append(run)
            continue
        key = tuple(sorted((k, v) for k, v in run.levels.items() if k != "ambient" and k not in METHOD_FACTORS))
        alike = heads.setdefault(key, [])
        head = next((h for h in alike if (d := differences(h, run)).repeats and not d.method), None)
        if head is None:
            alike.append(run)
            head = run
        # Rooms within 2 K are equal, though one of them may have been worth a word in the name.
        groups.append(replace(run, group=head.key, label=head.label))
    return groups


def shared_by_all(cells: Sequence[Repeats]) -> dict[str, str]:
    """Factors that every run states alike, as the first one wrote them."""
    runs = [r for c in cells for r in c.runs]
    first = runs[0]
    return {
        name: text
        for name, text in first.factors.items()
        if name in first.levels and all(r.levels.get(name) == first.levels[name] for r in runs)
    }
