"""Power at the socket, before a usual adapter that feeds the inline meter."""

import numpy as np

from ..arrays import Array
from ..log.trace import PowerTrace, power_trace

ADAPTER_YIELD, STANDBY_W = 0.87, 0.08
"""Yield of the adapter, and its draw without a load [W] (our own)."""


def socket_watts(meter_w: Array) -> Array:
    """Power at the socket for power at the meter, both (n,) [W]."""
    return meter_w / ADAPTER_YIELD + STANDBY_W


def socket_trace(trace: PowerTrace, every_s: float = 10.0) -> PowerTrace:
    """Power at the socket as a plug tells it: the mean of each of its steps, to a tenth of a watt."""
    edges = np.arange(trace.start_s, trace.end_s, every_s)
    energy, _ = trace.running
    means = np.diff(np.interp(edges, trace.time_s, energy)) * 3600.0 / every_s
    return power_trace(edges[1:], np.round(socket_watts(means), 1))
