"""Stand-ins for devices: a meter and a probe that speak SCPI over real TCP, driven by a simulated charge.

Beside what any meter answers they take `SIM:` commands, which a real one does not know: `SIM:PLACE` puts the phone on
the charger, `SIM:PLACED?` says whether it lies there, `SIM:OVER?` whether all was played, `SIM:SPEED?` how fast its
time runs, and `SIM:FAULT silence+60` orders a fault. A stand-in that plays a pack on an electronic
load takes `SIM:LOAD 2A` (or 10W, 5OHM, OFF) and `SIM:PACK BUTTON` (or LETGO, HOT, EMPTY) as well.
"""

import contextlib
import random
import socket
import socketserver
import threading
import time
from collections.abc import Callable, Iterator
from typing import Literal

from ..core.errors import CannotRead
from .faults import LAG_S, Fault, Faults, fault
from .pack_playback import PackPlayback, load_of
from .playback import Playback

Role = Literal["meter", "probe", "both"]
HOST = "127.0.0.1"
MAKER = "Jaunecharge"
UNKNOWN_HEADER = '-113,"Undefined header"'
"""SCPI-1999, volume 2, 21.8.9 (from memory): what a command that is not known leaves in the error queue."""

ILLEGAL = '-224,"Illegal parameter value"'
GARBAGE = (b"\xff\xfe\x00\n", b"9.0.2\n", b"-1.2E\n", b"ERR\n", b"nan\n", b"")


class StandIn:
    """One instrument on a free port of this machine."""

    def __init__(
        self,
        playback: Playback | PackPlayback,
        role: Role = "both",
        port: int = 0,
        faults: tuple[Fault, ...] = (),
        seed: int = 1,
    ) -> None:
        self.playback, self.role = playback, role
        self.faults = Faults(faults)
        self._random = random.Random(seed)
        self._errors: list[str] = []
        self._open: set[socket.socket] = set()
        self._lock = threading.Lock()
        standin = self

        class Handler(socketserver.StreamRequestHandler):
            disable_nagle_algorithm = True

            def setup(self) -> None:
                super().setup()
                with standin._lock:
                    standin._open.add(self.connection)

            def finish(self) -> None:
                with standin._lock:
                    standin._open.discard(self.connection)
                with contextlib.suppress(OSError):
                    super().finish()

            def handle(self) -> None:
                with contextlib.suppress(OSError):
                    for line in self.rfile:
                        if not standin._serve(line, self.wfile.write):
                            return

        class Server(socketserver.ThreadingTCPServer):
            allow_reuse_address = True
            daemon_threads = True

        self._server = Server((HOST, port), Handler)
        self._thread = threading.Thread(target=self._server.serve_forever, args=(0.05,), daemon=True)

    @property
    def address(self) -> str:
        """Host and port."""
        return f"{HOST}:{self._server.server_address[1]}"

    def start(self) -> "StandIn":
        """Begin to answer."""
        self._thread.start()
        return self

    def stop(self) -> None:
        """Answer no more; who is connected is cut off."""
        self._server.shutdown()
        self._server.server_close()
        with self._lock:
            for connection in list(self._open):
                with contextlib.suppress(OSError):
                    connection.shutdown(socket.SHUT_RDWR)
        self._thread.join(10)

    def close(self) -> None:
        """Let the port go, where it never began to answer."""
        self._server.server_close()

    def _serve(self, line: bytes, write: Callable[[bytes], object]) -> bool:
        """Answer one line; whether the connection stays."""
        now = self.playback.seconds
        if self.faults.once("drop", now):
            return False
        if self.faults.on("silence", now):
            return True
        for part in line.decode("ascii", "replace").strip().split(";"):
            answer = self.answer(part.strip())
            if answer is None:
                continue
            if self.faults.on("lag", now):
                time.sleep(LAG_S)
            if self.faults.on("garbage", now):
                write(self._random.choice(GARBAGE))
                continue
            write(answer.encode("ascii") + b"\n")
        return True

    def answer(self, command: str) -> str | None:
        """The answer to a command; None where it has none."""
        header, _, rest = command.partition(" ")
        header = header.upper()
        if not header.startswith("*"):
            header = header.lstrip(":")
        shown = self.playback.read
        match _short(header):
            case "*IDN?":
                return f"{MAKER},stand-in {self.role},SIM-1,1.0"
            case "*RST" | "*CLS":
                self._errors.clear()
                return None
            case "*OPC?":
                return "1"
            case "SYST:ERR?":
                return self._errors.pop(0) if self._errors else '0,"No error"'
            case "MEAS:VOLT?" if self.role != "probe":
                return f"{shown().volts:+.5E}"
            case "MEAS:CURR?" if self.role != "probe":
                return f"{shown().amps:+.5E}"
            case "MEAS:POW?" if self.role != "probe":
                now = shown()
                return f"{now.volts * now.amps:+.5E}"
            case "MEAS:TEMP?" if self.role != "meter":
                return f"{shown().back_c:+.4E}"
            case "SIM:PLACE":
                self.playback.place()
            case "SIM:PLACED?":
                return "1" if self.playback.placed else "0"
            case "SIM:OVER?":
                return "1" if self.playback.over else "0"
            case "SIM:SPEED?":
                return f"{self.playback.speed:g}"
            case "SIM:FAULT":
                self._order(rest)
            case "SIM:LOAD" if isinstance(self.playback, PackPlayback):
                self._set_load(self.playback, rest)
            case "SIM:PACK" if isinstance(self.playback, PackPlayback):
                if not self.playback.order(rest):
                    self._errors.append(ILLEGAL)
            case _:
                self._errors.append(UNKNOWN_HEADER)
        return None

    def _order(self, order: str) -> None:
        try:
            self.faults.order(fault(order, self.playback.seconds))
        except CannotRead:
            self._errors.append(ILLEGAL)

    def _set_load(self, playback: PackPlayback, order: str) -> None:
        try:
            playback.set_load(load_of(order))
        except CannotRead:
            self._errors.append(ILLEGAL)


_LONG = {"MEASURE": "MEAS", "VOLTAGE": "VOLT", "CURRENT": "CURR", "POWER": "POW", "TEMPERATURE": "TEMP",
         "SYSTEM": "SYST", "ERROR": "ERR"}  # fmt: skip


def _short(header: str) -> str:
    """A header in its short form; the default node of direct voltage and current may be written out."""
    asks = header.endswith("?")
    nodes = [_LONG.get(node, node) for node in header.removesuffix("?").split(":")]
    if len(nodes) == 3 and nodes[0] == "MEAS" and nodes[2] == "DC":
        nodes.pop()
    if len(nodes) == 3 and nodes[:2] == ["MEAS", "SCAL"]:
        nodes.pop(1)
    return ":".join(nodes) + ("?" if asks else "")


@contextlib.contextmanager
def standing_in(playback: Playback | PackPlayback, role: Role = "both", **more: object) -> Iterator[StandIn]:
    """A stand-in while something else goes on."""
    stand_in = StandIn(playback, role, **more).start()  # type: ignore[arg-type]
    try:
        yield stand_in
    finally:
        stand_in.stop()
