"""The simulator's figures: a run of three hours, and the table of twelve chargers with twelve phones."""

import json
import statistics
import time
from collections.abc import Callable, Iterator
from pathlib import Path

from fastapi.testclient import TestClient

from jaunecharge.api.app import make_app
from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.core.simulator.cell import usual_cell
from jaunecharge.core.simulator.simulate import NEVER, Nodes, Scenario, simulate
from jaunecharge.store.database import Database
from jaunecharge.store.kit import add_all

THREE_HOURS_S = 10_800.0
TAKES = ("mpp", "mpp@12", "epp", "bpp", "mpp25", "own:flash=20") * 2
GIVES = ("mpp", "mpp25", "epp", "magnet-only", "bpp", "own:flash=30") * 2
SIZES = ("small", "medium", "large")


def _seconds(work: Callable[[], object]) -> float:
    began = time.perf_counter()
    work()
    return time.perf_counter() - began


def three_hour_run() -> float:
    """Median seconds that a run of three hours takes to be simulated, in steps of one second."""
    nodes = Nodes(170.0, 90.0, 0.3, 0.15, 0.25)
    scenario = Scenario(usual_cell(5000.0, 3.87), nodes, ((0.0, 8.0),), tail_s=NEVER, most_s=THREE_HOURS_S)
    assert len(simulate(scenario).power_w) == THREE_HOURS_S
    return statistics.median(_seconds(lambda: simulate(scenario)) for _ in range(15))


def whole_shelf(database: Database, folder: Path) -> tuple[float, float, int]:
    """Seconds of the table of 12 × 12 pairs the first time and when it is known, and how often progress was told."""
    lines = [f"phone Phone {i} {3000 + 150 * i}mAh {t} {SIZES[i % 3]}" for i, t in enumerate(TAKES)]
    lines += [f"charger Charger {i} {g} {('puck', 'pad', 'stand')[i % 3]}" for i, g in enumerate(GIVES)]
    lines += ["adapter Plug 20 20W", "adapter Plug 45 45W", "cable Braided 3A"]
    with database.session() as session:
        add_all(session, [kit_from_line(line) for line in lines], "")
    client = TestClient(make_app(database, folder / "uploads"), base_url="http://127.0.0.1")
    told: list[str] = []

    def ask() -> None:
        told[:] = client.post("/api/coverage", json={}).text.splitlines()
        assert len(json.loads(told[-1])["coverage"]["rows"]) == len(GIVES) + 1

    cold = _seconds(ask)
    steps = len(told)
    return cold, statistics.median(_seconds(ask) for _ in range(5)), steps


def results(database: Database, folder: Path) -> Iterator[tuple[str, str, str, str, bool]]:
    """The figures, each a line of the table."""
    run_s = three_hour_run()
    yield "a run of 3 h simulated, 1 s steps, median", f"{run_s * 1000:.1f} ms", "", "60 ms", run_s <= 0.06
    cold_s, warm_s, steps = whole_shelf(database, folder)
    times = f"progress told {steps} times"
    yield "12 × 12 table of the shelf, first time", f"{cold_s:.2f} s", times, "3 s", cold_s <= 3.0
    yield "the same table again", f"{warm_s * 1000:.0f} ms", f"first time {cold_s:.2f} s", "100 ms", warm_s <= 0.1
