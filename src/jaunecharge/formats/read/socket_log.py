"""The log of a meter at the socket, laid beside that of the run."""

from dataclasses import replace
from zoneinfo import ZoneInfo

from ...core.errors import CannotRead
from ...core.log import ClockKind, Timeline, one_clock, power_trace
from ...core.reading import RunLog
from .logs import meter_log
from .source import Source
from .understanding import Understanding

SOCKET = "socket"


def with_socket(
    log: RunLog, clock: Timeline | None, source: Source, understood: Understanding, zone: ZoneInfo | None = None
) -> tuple[RunLog, list[str]]:
    """A run's log with what the socket gave, and remarks.

    Parameters
    ----------
    log : RunLog
    clock : Timeline or None
        Times of the meter's log, or of the check-ins where there is none, as their file has them.

    Raises
    ------
    CannotRead
        If it cannot be read, or nothing is there on whose clock it could be put.
    """
    plug = meter_log(source, understood, zone)
    if clock is None or clock.kind is ClockKind.AFTER_PLACING:
        raise CannotRead(
            "the socket's log has nothing beside it whose clock it could be on",
            "give the inline meter's log as well, or check-ins with times of their own", file=source.name,
        )  # fmt: skip
    times, [own] = one_clock(clock, [plug.clock])
    begins = log.trace.start_s if log.trace.metered or log.readings is None else float(log.readings.time_s.min())
    trace = power_trace(own + (begins - float(times.min())), plug.watts, plug.volts, plug.amps)
    remarks = list(plug.remarks)
    if plug.clock.kind is ClockKind.ELAPSED:
        remarks.append(f"Times of {source.name} are taken to begin with the log beside it, which nobody said.")
    return replace(log, socket=trace), remarks
