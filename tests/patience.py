"""Waiting in tests: until something is so, however slow the machine."""

import time
from collections.abc import Callable
from typing import Any


def until(true: Callable[[], Any], seconds: float = 60.0) -> Any:
    """Ask again and again; what was answered once it holds."""
    end = time.monotonic() + seconds
    while not (answer := true()):
        if time.monotonic() > end:
            raise AssertionError("it did not come true")
        time.sleep(0.02)
    return answer
