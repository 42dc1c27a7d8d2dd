"""The wire to an instrument, whatever it is made of: bytes go out and come in."""

import errno
import socket
import time
from typing import Any, Protocol

import serial

from ..core.kit import Mqtt, Serial, Tcp, address_of
from .errors import NotReached

BLOCK = 4096
LISTEN_EVERY_S = 0.02


class Wire(Protocol):
    """An open connection.

    `receive` waits up to `seconds` for bytes; it raises TimeoutError where none come, and OSError once it is gone.
    """

    def send(self, data: bytes) -> None: ...
    def receive(self, seconds: float) -> bytes: ...
    def close(self) -> None: ...


class TcpWire:
    """A connection over TCP."""

    def __init__(self, address: Tcp, timeout_s: float) -> None:
        self._socket = socket.create_connection((address.host, address.port), timeout=timeout_s)
        self._socket.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        self._timeout_s = timeout_s

    def send(self, data: bytes) -> None:
        """Send all of it."""
        self._socket.settimeout(self._timeout_s)
        self._socket.sendall(data)

    def receive(self, seconds: float) -> bytes:
        """Bytes that come within `seconds`."""
        self._socket.settimeout(max(seconds, 1e-3))
        block = self._socket.recv(BLOCK)
        if not block:
            raise ConnectionResetError
        return block

    def close(self) -> None:
        """Close it."""
        self._socket.close()


class SerialWire:
    """A serial port, held by this process alone."""

    def __init__(self, address: Serial, timeout_s: float) -> None:
        self._port: Any = serial.Serial(
            address.device, address.baud, timeout=0, write_timeout=timeout_s, exclusive=True
        )

    def send(self, data: bytes) -> None:
        """Send all of it."""
        try:
            self._port.write(data)
        except serial.SerialTimeoutException as error:
            raise TimeoutError from error

    def receive(self, seconds: float) -> bytes:
        """Bytes that come within `seconds`."""
        until = time.monotonic() + seconds
        while True:
            block: bytes = self._port.read(BLOCK)
            if block:
                return block
            if (left := until - time.monotonic()) <= 0.0:
                raise TimeoutError
            time.sleep(min(left, LISTEN_EVERY_S))

    def close(self) -> None:
        """Close it."""
        self._port.close()


def open_wire(address: str, timeout_s: float) -> Wire:
    """A wire to an address.

    Raises
    ------
    NotReached
        If nobody is there, or somebody else holds it; the message says which.
    CannotRead
        If it is no address.
    """
    where = address_of(address)
    if isinstance(where, Mqtt):
        raise NotReached(f"{where.said} is a topic: it is listened to, not asked")
    try:
        return TcpWire(where, timeout_s) if isinstance(where, Tcp) else SerialWire(where, timeout_s)
    except (OSError, ValueError) as error:
        raise NotReached(_why(where, error)) from error


def _why(where: Tcp | Serial, error: Exception) -> str:
    if isinstance(where, Tcp):
        return f"nobody answers at {where.said}"
    number, words = getattr(error, "errno", None), str(error).lower()
    if number in {errno.EAGAIN, errno.EBUSY} or "exclusively lock" in words:
        return f"serial port {where.device} is in use: by a lane of this bench, or by another program"
    if number == errno.EACCES or "permission" in words:
        return f"serial port {where.device} may not be opened: let this user into the group that owns it (dialout)"
    if number in {errno.ENOENT, errno.ENODEV, errno.ENXIO} or "no such file" in words:
        return f"there is no serial port {where.device}: is it plugged in?"
    return f"serial port {where.device} cannot be opened; is it a serial port?"
