"""Memory of a process of its own."""

import re
from pathlib import Path


def highest_resident_mb() -> float:
    """Highest resident memory [MB] of this program; getrusage would count that of the process that started it, too."""
    status = Path("/proc/self/status").read_text()
    return float(re.search(r"^VmHWM:\s+(\d+) kB$", status, re.MULTILINE)[1]) * 1024 / 1e6  # type: ignore[index]
