"""Work that steps back behind whoever waits for a page."""

import os
import sys
import threading

NICENESS = 15
"""Niceness of a search behind whoever waits for a page (0 to 19)."""


def step_back() -> None:
    """Let the rest of the machine go first, from now on, in this thread and in those that it starts.

    Linux counts niceness by thread; where it does not, nothing is done.
    """
    if hasattr(os, "setpriority") and sys.platform == "linux":
        os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), NICENESS)
