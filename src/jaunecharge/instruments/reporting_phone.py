"""A stand-in of a phone that reports its own level: each change at once, and now and then that it still stands.

It keeps each report until it is acknowledged, under an id, and sends again what was not.
"""

import datetime as dt
import uuid
from collections import deque
from typing import Any

from .background import Background
from .faults import Fault, Faults
from .playback import Playback
from .posting import Poster

STILL_EVERY_S = 60.0
"""Seconds of the playback after which an unchanged level is reported again."""

OVER = 401
MOST_KEPT = 20_000


class ReportingPhone(Background):
    """Sends the level of a playback to a lane, by the token in its code, until it is stopped or the token is over."""

    def __init__(
        self, playback: Playback, poster: Poster, token: str, every_s: float = 0.1, faults: tuple[Fault, ...] = ()
    ) -> None:
        super().__init__("a phone that reports")
        self.playback, self._poster, self._every_s = playback, poster, every_s
        self._path = f"/api/hand/{token}/level"
        self.faults = Faults(faults)
        self._kept: deque[dict[str, Any]] = deque(maxlen=MOST_KEPT)
        self._percent, self._told_s = -1.0, 0.0
        self.sent: list[tuple[dt.datetime, float]] = []
        """Reports that were acknowledged: (when they were read, %)."""

    def _run(self) -> None:
        while not self._over.wait(self._every_s):
            self._look()
            if not self.faults.on("silence", self.playback.seconds) and self._send() == OVER:
                return
        self._send()

    def _look(self) -> None:
        shown, now_s = self.playback.read(), self.playback.seconds
        if shown.percent == self._percent and now_s - self._told_s < STILL_EVERY_S:
            return
        self._percent, self._told_s = shown.percent, now_s
        placed = self.playback.placed
        self._kept.append(
            {
                "id": uuid.uuid4().hex, "at": dt.datetime.now(dt.UTC).isoformat(), "percent": shown.percent,
                "charging": placed, "celsius": round(shown.back_c, 1),
            }
        )  # fmt: skip

    def _send(self) -> int:
        """Send what is not yet acknowledged, in order; the last answer's status, 0 where there was none."""
        status = 200
        while self._kept:
            report = self._kept[0]
            status, answer = self._poster.post(self._path, report | {"sent": dt.datetime.now(dt.UTC).isoformat()})
            if status != 200 or not answer.get("committed"):
                return status
            self.sent.append((dt.datetime.fromisoformat(report["at"]), report["percent"]))
            self._kept.popleft()
        return status
