"""Work that steps back behind whoever waits for a page."""

import os
import sys
import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import TypeVar

T = TypeVar("T")


def set_back(niceness: int, work: Callable[[], T]) -> T:
    """The result of work done in a thread of its own with so much niceness (0 to 19), which threads that it starts
    share. A thread that has stepped back may not step forward again, so the next work gets another."""
    with ThreadPoolExecutor(1, f"nice {niceness}", _step_back, (niceness,)) as alone:
        return alone.submit(work).result()


def _step_back(niceness: int) -> None:
    """Linux counts niceness by thread; where it does not, nothing is done."""
    if hasattr(os, "setpriority") and sys.platform == "linux":
        os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), niceness)
