"""Which runs are one recording, read twice: a copy is no repeat, and says nothing about the spread of a run."""

from collections.abc import Iterable, Sequence

from .contender import Contender

SAME_PLACING_MIN = 10.0
"""Two runs may be cut from one long log: those whose phones were placed further apart in it are two (own choice)."""


def same_recording(a: Contender, b: Contender) -> bool:
    """Whether two runs are one recording."""
    mine, other = a.recording, b.recording
    if mine is None or other is None:
        return False
    if mine.meter and other.meter:
        if mine.meter != other.meter or abs(mine.placed_min - other.placed_min) > SAME_PLACING_MIN:
            return False
        # One meter may feed two phones: then the phones differ, and so do their check-ins.
        two = a.levels.get("phone", "") != b.levels.get("phone", "")
        return not (two and mine.levels and other.levels and mine.levels != other.levels)
    return bool(mine.levels) and mine.levels == other.levels


def copies(runs: Iterable[Contender]) -> dict[str, Contender]:
    """The copies among runs, by key, each with the run that it is a copy of: the one that was made first."""
    originals: dict[str, Contender] = {}
    seen: dict[str, list[Contender]] = {}
    for run in sorted(runs, key=lambda r: (r.made, r.key)):
        if run.recording is None or not run.recording.telling:
            continue
        marks = [mark for mark in (run.recording.meter, run.recording.levels) if mark]
        first = next((r for mark in marks for r in seen.get(mark, ()) if same_recording(r, run)), None)
        if first is not None:
            originals[run.key] = first
            continue
        for mark in marks:
            seen.setdefault(mark, []).append(run)
    return originals


def copy_said(copy: Contender, of: Contender) -> str:
    """Sentence that says that a run is a copy."""
    return (
        f"{copy.label} is a copy"
        + ("" if copy.label == of.label else f" of {of.label}")
        + ": the same file, read twice"
    )


def without_copies(runs: Sequence[Contender]) -> tuple[list[Contender], list[tuple[Contender, Contender]]]:
    """Runs without the copies among them, and the copies, each with the run that it is a copy of."""
    copied = copies(runs)
    return [r for r in runs if r.key not in copied], [(r, copied[r.key]) for r in runs if r.key in copied]
