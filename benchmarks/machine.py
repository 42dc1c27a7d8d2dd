"""The machine: memory of a process of its own, how fast it is just now, and whether its second core is free."""

import re
import time
from multiprocessing import get_context
from pathlib import Path


def highest_resident_mb() -> float:
    """Highest resident memory [MB] of this program; getrusage would count that of the process that started it, too."""
    status = Path("/proc/self/status").read_text()
    return float(re.search(r"^VmHWM:\s+(\d+) kB$", status, re.MULTILINE)[1]) * 1024 / 1e6  # type: ignore[index]


def pace() -> float:
    """Seconds of ten million steps of a plain loop, the best of three."""
    return min(_steps_s(n) for n in range(3))


def _steps_s(_: int) -> float:
    began, total = time.perf_counter(), 0
    for i in range(10_000_000):
        total += i
    return time.perf_counter() - began


def two_at_once() -> float:
    """How much as fast as one after the other two such loops at once are, each in a process of its own; best of
    three."""
    found = []
    with get_context("spawn").Pool(2) as pool:
        pool.map(_steps_s, range(2), 1)
        for _ in range(3):
            alone_s = pool.apply(_steps_s, (0,))
            began = time.perf_counter()
            pool.map(_steps_s, range(2), 1)
            found.append(2.0 * alone_s / (time.perf_counter() - began))
    return max(found)
