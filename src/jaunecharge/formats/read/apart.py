"""Files are read in a process of their own, with limits on its memory and time: none can take the application with it.

A server of such processes starts with the first file, with all readers loaded; each file is then read in a fork of it.
"""

import contextlib
import logging
import multiprocessing
import pickle
import resource
import signal
import sys
import threading
import time
from collections.abc import Callable, Iterator
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from typing import Any, TypeVar

from ...core.errors import CannotRead
from .columns import Progress
from .limits import MOST_MEMORY, MOST_S, broken_off, too_much_memory, too_slow

log = logging.getLogger(__name__)
AT_ONCE = 2
SLOT_WITHIN_S = 60.0
ENDS_WITHIN_S = 5.0
READERS = ("openpyxl", "pyarrow.csv")
"""Modules of the readers that are loaded once, before the first fork."""

T = TypeVar("T")

_processes = multiprocessing.get_context("forkserver")
_processes.set_forkserver_preload(["jaunecharge.formats.read.files", "jaunecharge.formats.read.apart", *READERS])
_slots = threading.BoundedSemaphore(AT_ONCE)
_starting = threading.Lock()


def make_ready() -> None:
    """Start the server of processes, so that the first file need not wait for it."""
    if _slots.acquire(blocking=False):
        try:
            process = _processes.Process(target=_nothing, daemon=True)
            _start(process)
            process.join()
        finally:
            _slots.release()


def _start(process: BaseProcess) -> None:
    """Start a process that knows nothing of the main program: else each would load all of it anew."""
    main = sys.modules["__main__"]
    with _starting:
        saved = main.__spec__, getattr(main, "__file__", None)
        main.__spec__, main.__file__ = None, None
        try:
            process.start()
        finally:
            main.__spec__, main.__file__ = saved


def _nothing() -> None:
    """Idle loop of a process that is only to be there."""


class Busy(Exception):
    """Too many files are being read; the message says so."""


def apart(
    work: Callable[..., T],
    *arguments: Any,
    name: str = "",
    progress: Progress | None = None,
    memory: int = MOST_MEMORY,
    seconds: float = MOST_S,
) -> T:
    """Result of `work(*arguments)`, done in a process of its own.

    Parameters
    ----------
    work : callable
        Of a module; with `progress` it is given a `progress` that tells here.
    memory : int [bytes], seconds : float [s]
        What it may take beyond what its modules take.

    Raises
    ------
    CannotRead
        As `work` does; or if it takes too much of either, or does not know what to do with the file.
    Busy
    """
    if not _slots.acquire(timeout=SLOT_WITHIN_S):
        raise Busy("too many files are being read just now")
    here, there = _processes.Pipe(duplex=False)
    process = _processes.Process(
        target=_in_its_own, args=(there, work, arguments, progress is not None, memory, seconds), daemon=True
    )
    try:
        _start(process)
        there.close()
        return _told(here, time.monotonic() + seconds, name, progress)
    except (EOFError, ConnectionResetError):
        process.join(ENDS_WITHIN_S)
        log.error("a process that read a file ended with %s", process.exitcode)
        # The kernel ends with SIGKILL what takes too much memory, with SIGXCPU what takes too much time.
        if process.exitcode == -signal.SIGXCPU:
            raise too_slow(name) from None
        raise (too_much_memory(name) if process.exitcode == -signal.SIGKILL else broken_off(name)) from None
    finally:
        here.close()
        process.kill()
        process.join()
        process.close()
        _slots.release()


def _told(here: Connection, until: float, name: str, progress: Progress | None) -> Any:
    while True:
        try:
            if not here.poll(max(0.0, until - time.monotonic())):
                raise too_slow(name)
            kind, value = here.recv()
            if kind == "done":
                buffers = [_received(here, size) for size in value]
                return pickle.loads(here.recv_bytes(), buffers=buffers)
        except MemoryError:
            raise too_much_memory(name) from None
        if kind == "refused":
            raise CannotRead(*value).within(name)
        if kind == "memory":
            raise too_much_memory(name)
        if kind == "unknown":
            log.error("a file could not be read: %s", value)
            raise CannotRead("it cannot be read", "save it as CSV (UTF-8) and read that", file=name)
        if progress is not None:
            progress(value)


def _received(here: Connection, size: int) -> bytearray:
    block = bytearray(size)
    here.recv_bytes_into(block)
    return block


def _in_its_own(
    there: Connection, work: Callable[..., Any], arguments: tuple[Any, ...], tells: bool, memory: int, seconds: float
) -> None:
    """Main of the process: its work, within its limits; what comes of it is sent without being copied."""
    _limit(memory, seconds)
    more = {"progress": lambda fraction: there.send(("progress", fraction))} if tells else {}
    try:
        value = work(*arguments, **more)
        buffers: list[pickle.PickleBuffer] = []
        head = pickle.dumps(value, 5, buffer_callback=buffers.append)
        blocks = [b.raw() for b in buffers]
        there.send(("done", [b.nbytes for b in blocks]))
        for block in blocks:
            there.send_bytes(block)
        there.send_bytes(head)
    except CannotRead as error:
        there.send(("refused", (error.what, error.mend, error.file, error.row)))
    except MemoryError:
        there.send(("memory", None))
    except (BrokenPipeError, ConnectionResetError):
        pass  # Nobody waits for it any more.
    except Exception as error:
        log.exception("a file could not be read")
        there.send(("unknown", f"{type(error).__name__}: {error}"[:500]))


def _limit(memory: int, seconds: float) -> None:
    most = _data() + memory
    resource.setrlimit(resource.RLIMIT_DATA, (most, most))
    cpu = int(seconds) + 1
    resource.setrlimit(resource.RLIMIT_CPU, (cpu, cpu + 1))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def _data() -> int:
    """The memory that this process may write to just now [bytes]."""
    with open("/proc/self/status") as file:
        return next(int(line.split()[1]) * 1024 for line in file if line.startswith("VmData:"))


@contextlib.contextmanager
def limited(name: str) -> Iterator[None]:
    """The same limits for this process, while it reads files and does nothing else.

    Raises
    ------
    CannotRead
    """

    def over(*_: object) -> None:
        raise too_slow(name)

    soft, hard = resource.getrlimit(resource.RLIMIT_DATA)
    before = signal.signal(signal.SIGALRM, over)
    signal.setitimer(signal.ITIMER_REAL, MOST_S)
    resource.setrlimit(resource.RLIMIT_DATA, (_data() + MOST_MEMORY, hard))
    try:
        yield
    except MemoryError:
        raise too_much_memory(name) from None
    finally:
        resource.setrlimit(resource.RLIMIT_DATA, (soft, hard))
        signal.setitimer(signal.ITIMER_REAL, 0.0)
        signal.signal(signal.SIGALRM, before)
