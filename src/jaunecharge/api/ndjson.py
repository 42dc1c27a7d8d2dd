"""Long work, told line by line as JSON while it goes on."""

import contextvars
import json
import logging
import queue
import threading
from collections.abc import Callable, Iterator
from typing import Any

from .problems import UNFORESEEN, answer_to

log = logging.getLogger(__name__)

NDJSON = "application/x-ndjson"
UNBUFFERED = {"X-Accel-Buffering": "no"}
"""Has a proxy pass each line on at once."""

Progress = Callable[[str, float], None]


def refused(error: Exception) -> dict[str, Any]:
    """The problem document of an error, where it is told as a line."""
    try:
        problem: dict[str, Any] = json.loads(bytes(answer_to(error).body))
        return problem
    except Exception:
        log.exception("some work could not be done")
        return UNFORESEEN.model_dump()


def as_lines(work: Callable[[Progress], dict[str, Any]]) -> Iterator[str]:
    """Progress of some work, the step and the fraction that is done, as lines; the last carries what came of it."""
    lines: queue.Queue[dict[str, Any] | None] = queue.Queue()

    def told(step: str, fraction: float) -> None:
        lines.put({"step": step, "fraction": round(fraction, 3)})

    def run() -> None:
        try:
            lines.put({"step": "done", "fraction": 1.0, **work(told)})
        except Exception as error:
            lines.put({"step": "refused", "fraction": 0.0, "problem": refused(error)})
        finally:
            lines.put(None)

    # What is known of who asks goes with the work.
    worker = threading.Thread(target=contextvars.copy_context().run, args=(run,), daemon=True)
    worker.start()
    while (line := lines.get()) is not None:
        yield json.dumps(line) + "\n"
    worker.join()
