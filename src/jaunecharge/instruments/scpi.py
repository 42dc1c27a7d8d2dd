"""Meters and probes that speak SCPI, over TCP or a serial port: one line a question and one line an answer (IEEE 488.2
style)."""

import math
import re
import time
from dataclasses import dataclass

from ..core.kit import address_of
from .errors import Garbled, InstrumentError, NotReached, OverRange, Silent
from .wire import Wire, open_wire

TERMINATOR = b"\n"
LONGEST_ANSWER = 4096
TIMEOUT_S = 2.0

_DECIMAL = re.compile(r"^[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?$")
"""Decimal numeric response data: NR1, NR2 or NR3 (IEEE 488.2, 8.7.2 to 8.7.4, from memory)."""

NOT_A_NUMBER = 9.91e37
INFINITE = 9.9e37
"""SCPI's answer where there is no number, or too much of one (SCPI-1999, volume 1, 7.2.1.4 and 7.2.1.5, from
memory)."""


@dataclass(frozen=True)
class Identity:
    """Identity of an instrument (IEEE 488.2, 10.14): four fields of `*IDN?`, from memory."""

    maker: str
    model: str
    serial: str
    firmware: str


def identity(answer: str) -> Identity:
    """The identity in an answer to `*IDN?`.

    Raises
    ------
    Garbled
    """
    fields = [f.strip() for f in answer.split(",")]
    if len(fields) != 4 or not all(f.isprintable() for f in fields):
        raise Garbled(f"{_shown(answer)} is no answer to *IDN?: it has four fields")
    return Identity(*fields)


def decimal(answer: str) -> float:
    """The number in an answer; the first where several are separated by commas.

    Raises
    ------
    Garbled, OverRange
    """
    first = answer.split(",")[0].strip()
    if not _DECIMAL.match(first):
        raise Garbled(f"{_shown(answer)} is not a number")
    value = float(first)
    if math.isclose(abs(value), NOT_A_NUMBER, rel_tol=1e-9):
        raise OverRange("it has no reading")
    if abs(value) >= INFINITE * (1.0 - 1e-9):
        raise OverRange("it is over its range, or its input is open")
    return value


def _shown(text: str) -> str:
    return f"“{text[:40].encode('unicode_escape').decode()}”"


class Scpi:
    """A connection to one instrument.

    After an answer that does not come, or cannot be one, the connection is closed: an answer that comes late must not
    be taken for that of the next question. The next question connects anew.
    """

    def __init__(self, address: str, timeout_s: float = TIMEOUT_S) -> None:
        self.address = address
        address_of(address)
        self._timeout_s = timeout_s
        self._wire: Wire | None = None
        self._rest = b""

    def ask(self, question: str) -> str:
        """The answer to a question, without its terminator.

        Raises
        ------
        NotReached, Silent, Garbled
        """
        wire = self._connected()
        try:
            wire.send(question.encode("ascii") + TERMINATOR)
            return self._line(wire)
        except TimeoutError as error:
            self.close()
            raise Silent(f"{self.address} does not answer {question} within {self._timeout_s:g} s") from error
        except OSError as error:
            self.close()
            raise NotReached(f"{self.address} dropped the connection") from error
        except InstrumentError:
            self.close()
            raise

    def tell(self, command: str) -> None:
        """Send a command that has no answer.

        Raises
        ------
        NotReached
        """
        try:
            self._connected().send(command.encode("ascii") + TERMINATOR)
        except OSError as error:
            self.close()
            raise NotReached(f"{self.address} dropped the connection") from error

    def number(self, question: str) -> float:
        """The number that answers a question.

        Raises
        ------
        NotReached, Silent, Garbled, OverRange
        """
        answer = self.ask(question)
        try:
            return decimal(answer)
        except Garbled:
            self.close()
            raise

    def identify(self) -> Identity:
        """Identity of the instrument.

        Raises
        ------
        NotReached, Silent, Garbled
        """
        return identity(self.ask("*IDN?"))

    def volts(self) -> float:
        """Volts just now [V]."""
        return self.number("MEAS:VOLT?")

    def amps(self) -> float:
        """Amps just now [A]."""
        return self.number("MEAS:CURR?")

    def celsius(self) -> float:
        """Temperature just now [°C]."""
        return self.number("MEAS:TEMP?")

    def _connected(self) -> Wire:
        if self._wire is None:
            self._wire = open_wire(self.address, self._timeout_s)
            self._rest = b""
        return self._wire

    def _line(self, wire: Wire) -> str:
        received = self._rest
        # The time is for the whole answer: one that trickles in letter by letter is none.
        until = time.monotonic() + self._timeout_s
        while TERMINATOR not in received:
            if (left := until - time.monotonic()) <= 0.0:
                raise TimeoutError
            block = wire.receive(left)
            received += block
            if len(received) > LONGEST_ANSWER:
                raise Garbled(f"{self.address} answers without an end")
        line, self._rest = received.split(TERMINATOR, 1)
        if self._rest:
            raise Garbled(f"{self.address} answers more than it was asked")
        try:
            return line.decode("ascii").strip("\r ")
        except UnicodeDecodeError as error:
            raise Garbled(f"{self.address} answers {_shown(line.decode('latin-1'))}") from error

    def close(self) -> None:
        """Close the connection; the next question opens another."""
        if self._wire is not None:
            self._wire.close()
        self._wire, self._rest = None, b""
