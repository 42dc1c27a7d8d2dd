"""Columns of percentages, told from columns of anything else."""

from collections.abc import Sequence

import numpy as np

from ...core.errors import CannotRead
from .cells import is_empty, is_full, percentage
from .headings import other_quantity, words_of

MOSTLY = 0.6
LEAST_GAIN_POINTS, RISES = 2.0, 0.8


def as_fractions(texts: Sequence[str]) -> bool:
    """Whether a table writes its percentages as fractions of 1."""
    values = []
    for text in texts:
        if "%" in text or is_empty(text) or is_full(text):
            continue
        try:
            values.append(percentage(text))
        except CannotRead:
            continue
    return bool(values) and max(values) <= 1.0 and any(0.0 < v < 1.0 for v in values)


def are_percentages(texts: Sequence[str]) -> bool:
    """Whether most of the filled cells of a column are percentages."""
    filled = [t for t in texts if not is_empty(t)]
    good = 0
    for text in filled:
        try:
            percentage(text)
            good += 1
        except CannotRead:
            continue
    return len(filled) >= 1 and good >= MOSTLY * len(filled)


def gives_levels(heading: str, texts: Sequence[str]) -> bool:
    """Whether a column holds a run's percentages, by its heading or by how they rise."""
    if not are_percentages(texts):
        return False
    # A single letter may be a unit, A or C, and is as often a run's name.
    if other_quantity(heading) is not None and (len(heading.strip()) > 1 or not _charges(texts)):
        return False
    return "%" in heading or "percent" in words_of(heading) or _charges(texts)


def _charges(texts: Sequence[str]) -> bool:
    """Whether a column without a sign rises as a charge does, and is no measure of something else."""
    values = []
    for text in texts:
        if is_empty(text):
            continue
        try:
            values.append(percentage(text))
        except CannotRead:
            continue
    steps = np.diff(values)
    gain = values[-1] - values[0] if values else 0.0
    least = LEAST_GAIN_POINTS if max(values, default=0.0) > 1.0 else LEAST_GAIN_POINTS / 100.0
    return bool(gain >= least and np.count_nonzero(steps >= 0) >= RISES * len(steps))
