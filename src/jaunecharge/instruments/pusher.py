"""A stand-in that pushes: a phone that reports its percentage, or a meter that sends batches, over HTTP.

It numbers its readings, keeps each until it is acknowledged, and sends again what was not.
"""

import uuid
from collections.abc import Callable
from pathlib import Path
from typing import Any, Literal

from .background import Background
from .faults import CLOCK_LEAP_S, LAG_S, Fault, Faults
from .playback import Playback, Reading
from .posting import Poster

What = Literal["percent", "meter", "probe"]
MOST_KEPT = 20_000
MOST_SENT = 200


class Pusher(Background):
    """Pushes readings of a playback to a lane until it is stopped, or the lane has ended."""

    def __init__(
        self, playback: Playback, address: str, lane: str, token: str, what: What = "percent", every_s: float = 0.5,
        faults: tuple[Fault, ...] = (), name: str = "", trusts: Path | None = None,
    ) -> None:  # fmt: skip
        super().__init__("a stand-in that pushes")
        self.playback, self.what = playback, what
        self.faults = Faults(faults)
        self.name = name or f"stand-in {what}"
        self._poster = Poster(address, trusts)
        self._path, self._token, self._every_s = f"/api/lanes/{lane}/readings", token, every_s
        self._number, self._leap, self._boot = 0, 0.0, uuid.uuid4().hex
        self._kept: dict[int, dict[str, Any]] = {}
        self.acknowledged: dict[int, float] = {}
        self.restarts = 0

    def _run(self) -> None:
        while not self._over.wait(self._every_s):
            now = self.playback.seconds
            if self.faults.once("restart", now):
                # It counts from 0 again, and forgets what it had not yet handed over.
                self._number, self._kept, self._boot = 0, {}, uuid.uuid4().hex
                self.restarts += 1
            if self.faults.once("clock", now):
                self._leap += CLOCK_LEAP_S
            if self.faults.on("silence", now):
                continue
            self._keep(now)
            if self.faults.on("lag", now):
                self._over.wait(LAG_S)
            if self.send() == 410:
                return
        self.send()

    def _keep(self, now: float) -> None:
        shown = self.playback.read()
        row = {"n": self._number, "clock_s": round(now + self._leap, 3)} | SAYS[self.what](shown)
        if self.what == "percent" and not self.playback.placed:
            return
        self._kept[self._number] = row
        self._number += 1
        while len(self._kept) > MOST_KEPT:
            self._kept.pop(next(iter(self._kept)))

    def send(self) -> int:
        """Send what is not yet acknowledged; the answer's status, 0 where there was none."""
        batch = list(self._kept.values())[:MOST_SENT]
        if not batch:
            return 200
        body = {"source": self.name, "boot": self._boot, "readings": batch}
        status, answered = self._poster.post(self._path, body, {"Authorization": f"Bearer {self._token}"})
        if status == 200 and answered.get("committed"):
            for row in batch:
                self.acknowledged[row["n"]] = row["clock_s"]
                self._kept.pop(row["n"], None)
        return status


SAYS: dict[What, Callable[[Reading], dict[str, float | str]]] = {
    "percent": lambda r: {"percent": r.percent},
    "meter": lambda r: {"volts": round(r.volts, 5), "amps": round(r.amps, 5)},
    "probe": lambda r: {"celsius": round(r.back_c, 3), "position": "back"},
}
