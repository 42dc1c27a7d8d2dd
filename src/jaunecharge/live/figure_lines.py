"""A meter that writes lines of figures to a serial port: its columns are understood as those of a file."""

import csv
import math
import tempfile
import time
from collections import deque
from pathlib import Path

from ..core.errors import CannotRead
from ..core.kit import Serial, address_of
from ..core.units import to_base
from ..formats.read import cells
from ..formats.read.source import examine
from ..formats.read.understanding import Understanding, understand
from ..instruments.errors import Garbled, NotReached, Silent
from ..instruments.wire import Wire, open_wire
from .figures import QUANTITIES, Figures, within

HEAD_LINES, LEAST_LINES = 24, 3
LONGEST_LINE = 2000
DELIMITERS = ";\t,"
NAME_THEM = "where it writes no headings, name its columns in the address: &columns=ms,V,mA"
SILENT_S, LISTEN_S = 10.0, 0.25
MOST_UNREAD = 4000
UNASKED_S = 2.5
"""Meters that write by themselves do so at least every two seconds (common practice)."""


class FigureLines:
    """Lines of figures from one port. What they mean is told from the first of them, and kept over an outage.

    Raises (from `read`)
    --------------------
    NotReached, Silent, Garbled
    """

    def __init__(self, address: str) -> None:
        self.address = address
        self._wire: Wire | None = None
        self._rest = b""
        where = address_of(address)
        self._named = list(where.columns) if isinstance(where, Serial) else []
        """Headings that a person gave it, where it writes none."""

        self._head: list[str] = []
        self._unread: deque[tuple[float, str]] = deque(maxlen=MOST_UNREAD)
        self.understood: Understanding | None = None
        self.left_out = 0
        self._heard = time.monotonic()
        self._resumed = False

    def read(self, seconds: float = LISTEN_S) -> list[Figures]:
        """Figures of the lines that come within some seconds; none while it is not yet known what they mean."""
        self._listen(seconds)
        if self.understood is None:
            self._understand()
        if self.understood is None:
            return []
        found = []
        while self._unread:
            at_s, line = self._unread.popleft()
            figures = figures_of(line, self.understood, at_s)
            if figures is not None:
                found.append(figures)
            elif not _is_heading(line):
                self.left_out += 1
        return found

    def columns(self) -> list[str]:
        """Each column in words: `volts in V`; empty while they are not known."""
        if self.understood is None:
            return []
        return [
            f"{c.heading or f'column {c.index + 1}'}: "
            + (f"{c.quantity} in {c.unit}" if c.quantity in QUANTITIES and c.unit else f"{c.quantity or 'not used'}")
            for c in self.understood.columns
        ]

    def _listen(self, seconds: float) -> None:
        if self._wire is None:
            self._wire = open_wire(self.address, 2.0)
            self._rest, self._heard, self._resumed = b"", time.monotonic(), True
        until = time.monotonic() + seconds
        while (left := until - time.monotonic()) > 0.0:
            try:
                block = self._wire.receive(left)
            except TimeoutError:
                break
            except OSError as error:
                self.close()
                raise NotReached(f"{self.address} is gone: is it still plugged in?") from error
            self._take(block)
        if time.monotonic() - self._heard > SILENT_S:
            raise Silent(f"nothing has come from {self.address} for {time.monotonic() - self._heard:.0f} s")

    def _take(self, block: bytes) -> None:
        at_s = time.monotonic()
        self._heard = at_s
        *whole, self._rest = (self._rest + block).split(b"\n")
        if len(self._rest) > LONGEST_LINE:
            self._rest = b""
            raise Garbled(f"{self.address} writes without an end of line: is the speed (baud) right?")
        for raw in whole:
            # The first line after an opening may be the end of one.
            if self._resumed:
                self._resumed = False
                if self.understood is not None or not _whole(raw):
                    continue
            line = raw.decode("utf-8", "replace").strip()
            if line:
                self._unread.append((at_s, line))
                if self.understood is None and len(self._head) < HEAD_LINES:
                    # It may write its headings now and then: what came before them has the same columns.
                    self._head = [line] if _is_heading(line) else [*self._head, line]

    def _understand(self) -> None:
        if len(self._headed()) < LEAST_LINES:
            return
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "lines.csv"
            file.write_text("\n".join(self._headed()) + "\n")
            try:
                found = understand(examine(file, self.address))
            except CannotRead as error:
                found, why = None, str(error)
            else:
                why = "no column holds volts and amps, watts, a temperature or a percentage"
        if found is not None and {"meter", "heat", "checkins"} & set(found.gives):
            self.understood = found
        elif len(self._head) >= HEAD_LINES:
            self._head.clear()
            self._unread.clear()
            raise Garbled(f"the lines of {self.address} are not understood: {why}; {NAME_THEM}")

    def _headed(self) -> list[str]:
        """The first lines, under the headings that a person gave, if any."""
        if not self._named:
            return self._head
        mark = max(DELIMITERS, key=lambda d: sum(line.count(d) for line in self._head))
        return [mark.join(self._named), *self._head]

    def close(self) -> None:
        """Close the port; the next reading opens it again."""
        if self._wire is not None:
            self._wire.close()
        self._wire = None


def _whole(raw: bytes) -> bool:
    """Whether a first line could be a heading or a row: readable text that does not begin in the middle of a figure."""
    try:
        line = raw.decode().strip("\r")
    except UnicodeDecodeError:
        return False
    return _readable(line) and line[:1] not in {"", ",", ";", ".", "\t"}


def _readable(line: str) -> bool:
    return all(c.isprintable() or c == "\t" for c in line) and "\ufffd" not in line


def _is_heading(line: str) -> bool:
    """Whether a line names columns: several cells, each of which begins with a letter."""
    mark = max(DELIMITERS, key=line.count)
    cells_ = [c.strip(' "') for c in line.split(mark)]
    return len(cells_) > 1 and all(c[:1].isalpha() or c[:1] in "%°" for c in cells_)


def figures_of(line: str, understood: Understanding, at_s: float) -> Figures | None:
    """Figures of a line; None where one of them is none, or the line has other columns."""
    if not _readable(line):
        return None
    try:
        parts = next(csv.reader([line], delimiter=understood.layout.delimiter or ","), [])
    except csv.Error:
        return None
    if len(parts) != understood.layout.columns:
        return None
    found: dict[str, float] = {}
    for column in understood.columns:
        name = column.quantity
        if name not in QUANTITIES or name in found or column.unit is None:
            continue
        try:
            value = cells.number(parts[column.index], understood.comma)
        except ValueError:
            return None
        if math.isnan(value):
            continue  # An empty cell: this once it does not say.
        factor, offset = to_base(name, column.unit)
        if not within(name, value * factor + offset):
            return None
        found[name] = value * factor + offset
    return Figures(at_s, **found) if found else None  # type: ignore[arg-type]


def writes_lines(address: str, seconds: float = UNASKED_S) -> bool:
    """Whether what is at a port writes by itself: it is listened to for some seconds, and not asked.

    Raises
    ------
    NotReached
    """
    wire = open_wire(address, seconds)
    try:
        return bool(wire.receive(seconds))
    except TimeoutError:
        return False
    except OSError as error:
        raise NotReached(f"{address} is gone: is it still plugged in?") from error
    finally:
        wire.close()
