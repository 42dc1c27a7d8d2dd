"""Runs whose truth is known, copied into `tests/data/logs`, and builders of small logs."""

import json
import shutil
import tempfile
import unittest
from pathlib import Path
from typing import Any

import numpy as np

from jaunecharge.core.log.check_ins import Battery, CheckIns, make_check_ins
from jaunecharge.core.log.trace import PowerTrace, power_trace
from jaunecharge.core.reading.read_run import Conditions, Reading, RunLog, read_run

DATA = Path(__file__).parent / "data"
LOGS = sorted((DATA / "logs").iterdir())


def truth(name: str) -> dict[str, Any]:
    """What really happened in a run of `tests/data/logs`."""
    return json.loads((DATA / "logs" / name / "truth.json").read_text())


def practice() -> dict[str, Any]:
    """Check values measured by people who do this work: common practice, no published source."""
    return json.loads((DATA / "practice.json").read_text())


def checkins(*pairs: tuple[float, float]) -> CheckIns:
    """Check-ins from (minute, percent)."""
    table = np.array(pairs, dtype=float)
    return make_check_ins(table[:, 0] * 60.0, table[:, 1])


def steps(*levels: tuple[float, float], step_s: float = 1.0, volts: float = 9.0) -> PowerTrace:
    """A noiseless trace of (seconds, watts) levels, one after another from 0 s."""
    power = np.concatenate([np.full(round(seconds / step_s), watts) for seconds, watts in levels])
    time_s = np.arange(len(power)) * step_s
    return power_trace(time_s, power, np.full(len(power), volts), power / volts)


def reading(trace: PowerTrace, readings: CheckIns | None = None, **conditions: Any) -> Reading:
    """A run read with a battery of 4400 mAh at 3.87 V."""
    conditions.setdefault("battery", Battery(4400.0, 3.87))
    return read_run(RunLog(trace, readings), Conditions(**conditions))


class FolderTest(unittest.TestCase):
    """A test with a folder of its own, gone afterwards."""

    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp(prefix="jaunecharge-test-"))
        self.addCleanup(shutil.rmtree, self.folder)

    def file(self, name: str, content: str | bytes) -> Path:
        """A file of the test's folder."""
        path = self.folder / name
        path.write_bytes(content.encode() if isinstance(content, str) else content)
        return path
