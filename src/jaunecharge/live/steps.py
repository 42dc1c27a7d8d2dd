"""Means over steps of equal length, as the bench shows them while a lane runs."""

import threading

import numpy as np

from ..core.arrays import Array

FIRST_SIZE = 64


class Steps:
    """Means over steps of equal length, each with the count of the change that touched it last.

    What one value more costs does not grow with the number of steps: a lane may run for days.

    Parameters
    ----------
    step_s : float [s]
    kept_s : float [s]
        How far back steps are kept; without end by default.
    """

    def __init__(self, step_s: float, kept_s: float = np.inf) -> None:
        self.step_s, self._kept = step_s, kept_s / step_s
        # Index of the first step, and its sums and counts: replaced together, as others read them meanwhile.
        self._held: tuple[int, Array] = (0, np.zeros((2, 0)))
        self._lock = threading.Lock()
        self._touched: dict[int, int] = {}
        self._tick = -1
        self._changes = 0
        self._arrays: tuple[int, tuple[Array, Array]] | None = None
        """What was asked for last, and of which change it is: another thread may add while it is made."""

    def __len__(self) -> int:
        return len(self._touched)

    def add(self, t_s: float, value: float, tick: int) -> None:
        """One value more."""
        index = int(t_s // self.step_s)
        with self._lock:
            first, table = self._room_for(index)
            table[:, index - first] += (value, 1.0)
            self._changes += 1
        # In the order of the changes: what is older than the latest counts as told with it.
        self._tick = max(self._tick, tick)
        self._touched.pop(index, None)
        self._touched[index] = self._tick

    def _room_for(self, index: int) -> tuple[int, Array]:
        first, table = self._held
        size = table.shape[1]
        if size == 0:
            self._held = index, np.zeros((2, FIRST_SIZE))
        elif index < first:
            more = max(first - index, size // 2)
            self._held = first - more, np.pad(table, ((0, 0), (more, 0)))
        elif index >= first + size:
            more = max(index - first - size + 1, size)
            self._held = first, np.pad(table, ((0, 0), (0, more)))
        return self._held

    def forget_before(self, t_s: float) -> None:
        """Let old steps go, a good many at a time."""
        if len(self._touched) <= 1.2 * self._kept:
            return
        least = int(t_s // self.step_s)
        first, table = self._held
        if least > first:
            with self._lock:
                self._held = least, table[:, least - first :].copy()
                self._changes += 1
            self._touched = {i: tick for i, tick in self._touched.items() if i >= least}

    def arrays(self) -> tuple[Array, Array]:
        """Middle [s] and mean of each step, in order."""
        known = self._arrays
        if known is None or known[0] != self._changes:
            with self._lock:
                changes, (first, table) = self._changes, self._held
                table = table.copy()
            there = np.flatnonzero(table[1])
            middles = np.asarray((first + there + 0.5) * self.step_s, dtype=float)
            known = self._arrays = changes, (middles, table[0, there] / table[1, there])
        return known[1]

    def since(self, tick: int) -> list[tuple[int, float]]:
        """Index and mean of every step that was touched after a change, in order."""
        first, table = self._held
        indices = []
        for index in reversed(self._touched):
            if self._touched[index] <= tick:
                break
            indices.append(index)
        return [(i, float(table[0, i - first] / table[1, i - first])) for i in sorted(indices)]
