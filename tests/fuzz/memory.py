"""How much memory the largest process takes, seen from outside: this one, and all that it started."""

import contextlib
import os
import re
import threading
from pathlib import Path

EVERY_S = 0.05
PARENT, PEAK = re.compile(r"^PPid:\s+(\d+)", re.MULTILINE), re.compile(r"^VmHWM:\s+(\d+) kB", re.MULTILINE)


class Memory:
    """Looks at every process while it is open; `own` and `others` are the most that was seen [bytes]."""

    def __init__(self):
        self.own = self.others = 0
        self._over = threading.Event()
        self._thread = threading.Thread(target=self._watch, daemon=True)

    def __enter__(self):
        self._thread.start()
        return self

    def __exit__(self, *_):
        self._over.set()
        self._thread.join()
        self._look()

    def _watch(self):
        while not self._over.wait(EVERY_S):
            self._look()

    def _look(self):
        parents, peaks = {}, {}
        for folder in Path("/proc").iterdir():
            if folder.name.isdigit():
                with contextlib.suppress(OSError):
                    status = (folder / "status").read_text()
                    parents[int(folder.name)] = int(PARENT.search(status)[1])
                    peaks[int(folder.name)] = int(found[1]) * 1024 if (found := PEAK.search(status)) else 0
        self.own = max(self.own, peaks[os.getpid()])
        for process in peaks:
            above = parents[process]
            while above in parents and above != os.getpid():
                above = parents[above]
            if above == os.getpid():
                self.others = max(self.others, peaks[process])
