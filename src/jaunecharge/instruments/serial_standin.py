"""A stand-in of a meter on a serial port: a pseudo-terminal whose far end writes lines of figures, or answers SCPI."""

import contextlib
import os
import select
import threading
import tty
from typing import Literal

from .playback import Playback
from .standins import StandIn

Speaks = Literal["csv", "scpi"]
HEADING_EVERY = 20
HEADING = "time (ms);voltage (V);current (mA);temperature (°C)"


class SerialStandIn:
    """A port of this machine with a simulated charge behind it.

    Parameters
    ----------
    playback : Playback
    speaks : {"csv", "scpi"}
    every_s : float [s]
        Between two lines, by the clock on the wall.
    """

    def __init__(self, playback: Playback, speaks: Speaks = "csv", every_s: float = 0.2) -> None:
        self.playback, self.speaks, self._every_s = playback, speaks, every_s
        self._over, self.quiet = threading.Event(), threading.Event()
        """`quiet`, set: plugged in still, and it writes no more."""

        self.written: list[tuple[float, float]] = []
        """Volts and amps of each line that was written."""

        self._answers = StandIn(playback)
        self._far, self._near = -1, -1
        self._open()
        self._thread = threading.Thread(target=self._run, name="a meter on a serial port", daemon=True)

    def _open(self) -> None:
        # The near end stays open here as well, so that the port is there before and after somebody listens.
        self._far, self._near = os.openpty()
        tty.setraw(self._near)
        os.set_blocking(self._far, False)

    @property
    def address(self) -> str:
        """Address to give an instrument on the shelf."""
        return f"serial:{os.ttyname(self._near)}?baud=115200"

    def start(self) -> "SerialStandIn":
        """Begin to write, or to answer."""
        self._thread.start()
        return self

    def stop(self) -> None:
        """Pull the plug."""
        self._over.set()
        self._thread.join(10)
        for end in (self._far, self._near):
            with contextlib.suppress(OSError):
                os.close(end)
        self._answers.close()

    def _run(self) -> None:
        received = b""
        while not self._over.wait(self._every_s if self.speaks == "csv" else 0.0):
            if self.speaks == "csv":
                if not self.quiet.is_set():
                    self._line()
                continue
            if not select.select([self._far], [], [], 0.1)[0]:
                continue
            with contextlib.suppress(OSError):
                received += os.read(self._far, 4096)
            *lines, received = received.split(b"\n")
            for line in lines:
                answer = self._answers.answer(line.decode("ascii", "replace").strip())
                if answer is not None:
                    self._write(answer.encode("ascii") + b"\n")

    def _line(self) -> None:
        if len(self.written) % HEADING_EVERY == 0:
            self._write(f"{HEADING}\r\n".encode())
        shown = self.playback.read()
        volts, milliamps = round(shown.volts, 4), round(shown.amps * 1000.0, 1)
        line = f"{self.playback.seconds * 1000.0:.0f};{volts:.4f};{milliamps:.1f};{shown.back_c:.2f}\r\n"
        if self._write(line.encode()):
            self.written.append((volts, milliamps / 1000.0))

    def _write(self, block: bytes) -> bool:
        """Write a block; whether there was room for it: a port that nobody reads is full at some time."""
        try:
            return os.write(self._far, block) == len(block)
        except OSError:
            return False
