"""The work of a stand-in in a thread of its own, until it is stopped."""

import threading
from abc import ABC, abstractmethod
from typing import Self


class Background(ABC):
    """Works in the background; `_run` is the work, and looks at `_over`."""

    def __init__(self, name: str) -> None:
        self._over = threading.Event()
        self._thread = threading.Thread(target=self._run, name=name, daemon=True)

    @abstractmethod
    def _run(self) -> None: ...

    def start(self) -> Self:
        """Begin."""
        self._thread.start()
        return self

    def stop(self, wait_s: float = 30.0) -> None:
        """End, after what is left was sent once more."""
        self._over.set()
        self._thread.join(wait_s)
