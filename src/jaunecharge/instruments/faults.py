"""Faults to order for stand-ins: silence, garbage, lag, a dropped connection, a restart, a clock that jumps."""

import re
import threading
from dataclasses import dataclass
from typing import Literal, get_args

from ..core.errors import CannotRead

FaultKind = Literal["silence", "garbage", "lag", "drop", "restart", "clock"]
KINDS: tuple[FaultKind, ...] = get_args(FaultKind)
_ORDER = re.compile(r"^(?P<kind>[a-z]+)(?:@(?P<at>\d+(?:\.\d+)?))?(?:\+(?P<lasts>\d+(?:\.\d+)?))?$")
USUAL_S = 60.0
LAG_S = 0.7
"""Delay of a lagging stand-in's answer [s of real time]."""

CLOCK_LEAP_S = 3600.0


@dataclass(frozen=True)
class Fault:
    """One fault: its kind, when it begins and how long it lasts [s of the bench]."""

    kind: FaultKind
    at_s: float = 0.0
    lasts_s: float = USUAL_S


def fault(order: str, now_s: float = 0.0) -> Fault:
    """A fault as ordered: `silence@600+120` is silence for 120 s from 600 s on; without @ it begins now.

    Raises
    ------
    CannotRead
    """
    match = _ORDER.match(order.strip().lower())
    kind = next((k for k in KINDS if match and match["kind"] == k), None)
    if match is None or kind is None:
        raise CannotRead(
            f"“{order}” is no fault", f"one of {', '.join(KINDS)}, with its moment and length: lag@600+120"
        )
    at = float(match["at"]) if match["at"] else now_s
    return Fault(kind, at, float(match["lasts"] or USUAL_S))


class Faults:
    """The faults of one stand-in; some last, and some happen once."""

    def __init__(self, ordered: tuple[Fault, ...] = ()) -> None:
        self._ordered = list(ordered)
        self._lock = threading.Lock()

    def order(self, new: Fault) -> None:
        """One more."""
        with self._lock:
            self._ordered.append(new)

    def on(self, kind: FaultKind, now_s: float) -> bool:
        """Whether a fault that lasts is on."""
        with self._lock:
            return any(f.kind == kind and f.at_s <= now_s < f.at_s + f.lasts_s for f in self._ordered)

    def once(self, kind: FaultKind, now_s: float) -> bool:
        """Whether a fault that happens once is due; it is then over."""
        with self._lock:
            due = next((f for f in self._ordered if f.kind == kind and f.at_s <= now_s), None)
            if due is not None:
                self._ordered.remove(due)
            return due is not None
