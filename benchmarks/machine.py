"""The machine: memory of a process of its own, and how fast it is just now."""

import re
import time
from pathlib import Path


def highest_resident_mb() -> float:
    """Highest resident memory [MB] of this program; getrusage would count that of the process that started it, too."""
    status = Path("/proc/self/status").read_text()
    return float(re.search(r"^VmHWM:\s+(\d+) kB$", status, re.MULTILINE)[1]) * 1024 / 1e6  # type: ignore[index]


def pace() -> float:
    """Seconds of ten million steps of a plain loop, the best of three."""
    took = []
    for _ in range(3):
        began, total = time.perf_counter(), 0
        for i in range(10_000_000):
            total += i
        took.append(time.perf_counter() - began)
    return min(took)
