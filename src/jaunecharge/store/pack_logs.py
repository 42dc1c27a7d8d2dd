"""Logs of pack tests as bytes: times, volts and amps of each meter, compressed."""

import io
from collections.abc import Sequence

import numpy as np

from ..core.arrays import Array
from ..core.errors import CannotRead
from ..core.log import PowerTrace, power_trace

MOST_SAMPLES = 2_000_000


def packed(traces: Sequence[PowerTrace]) -> bytes:
    """Logs as bytes.

    Raises
    ------
    CannotRead
        If one has too many samples.
    """
    columns: dict[str, Array] = {}
    for n, trace in enumerate(traces):
        if len(trace.time_s) > MOST_SAMPLES:
            raise CannotRead(f"it has {len(trace.time_s)} samples", f"log at most {MOST_SAMPLES}, one a second say")
        columns |= {_name(n, "time_s"): trace.time_s, _name(n, "power_w"): trace.power_w}
        if trace.volts is not None and trace.amps is not None:
            columns |= {_name(n, "volts"): trace.volts, _name(n, "amps"): trace.amps}
    file = io.BytesIO()
    np.savez_compressed(file, **columns)  # type: ignore[arg-type]
    return file.getvalue()


def unpacked(log: bytes) -> list[PowerTrace]:
    """Logs from bytes, in the order in which they were packed."""
    found: list[PowerTrace] = []
    with np.load(io.BytesIO(log), allow_pickle=False) as columns:
        while _name(len(found), "time_s") in columns:

            def column(name: str, n: int = len(found)) -> Array | None:
                key = _name(n, name)
                return np.asarray(columns[key], dtype=float) if key in columns else None

            time_s, power_w, volts, amps = (column(name) for name in ("time_s", "power_w", "volts", "amps"))
            assert time_s is not None
            if power_w is None:
                # The first logs were kept without their watts.
                assert volts is not None and amps is not None
                power_w = volts * amps
            found.append(power_trace(time_s, power_w, volts, amps))
    return found


def _name(n: int, column: str) -> str:
    return column if n == 0 else f"{n}_{column}"
