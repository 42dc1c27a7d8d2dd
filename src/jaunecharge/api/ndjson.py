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
Progress = Callable[[str, float], None]


def as_lines(work: Callable[[Progress], dict[str, Any]], left: Callable[[], None] = lambda: None) -> Iterator[str]:
    """Progress of some work, the step and the fraction that is done, as lines; the last carries what came of it.

    `left` is called once nobody listens any more.
    """
    lines: queue.Queue[dict[str, Any] | None] = queue.Queue()

    def told(step: str, fraction: float) -> None:
        lines.put({"step": step, "fraction": round(fraction, 3)})

    def run() -> None:
        try:
            lines.put({"step": "done", "fraction": 1.0, **work(told)})
        except Exception as error:
            try:
                problem = json.loads(bytes(answer_to(error).body))
            except Exception:
                log.exception("some work could not be done")
                problem = UNFORESEEN.model_dump()
            lines.put({"step": "refused", "fraction": 0.0, "problem": problem})
        finally:
            lines.put(None)

    # What is known of who asks goes with the work.
    worker = threading.Thread(target=contextvars.copy_context().run, args=(run,), daemon=True)
    worker.start()
    try:
        while (line := lines.get()) is not None:
            yield json.dumps(line) + "\n"
    finally:
        left()
    worker.join()
