"""Invented logs of a meter, as long as is asked for."""

from pathlib import Path

import numpy as np


def samples(count: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Times [s], volts and amps of an invented log, placed at 60 s."""
    rng = np.random.default_rng(5)
    time_s = np.arange(count, dtype=float)
    volts = np.round(9.0 + rng.normal(0, 0.005, count), 4)
    amps = np.round(np.where(time_s < 60, 0.05, 1.5) + rng.normal(0, 0.003, count), 4)
    return time_s, volts, amps


def write_csv(path: Path, count: int) -> None:
    time_s, volts, amps = samples(count)
    np.savetxt(path, np.column_stack((time_s, volts, amps)), "%.0f,%.4f,%.4f", header="time_s,volts,amps", comments="")
