"""Start-up times: processor time of commands, each a process of its own, beside Python that
does nothing; the time until a server that was killed answers again; and what compiling the simulator's loop gains.

Run alone: `python -m benchmarks.startup`.
"""

import gzip
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator, Sequence
from pathlib import Path

from tests.cases import DATA
from tests.live.processes import COMMAND, Served

from benchmarks.table import line
from jaunecharge.core.simulator import engine
from jaunecharge.core.simulator.cell import usual_cell
from jaunecharge.core.simulator.simulate import NEVER, Nodes, Scenario, simulate

TIMES = 5
CHAIN = ("chain", "--adapter", "20W", "--charger", "Qi2", "--phone", "Qi2")
LOG = DATA / "logs" / "heat-cycles"


def processor_s(*command: str | Path) -> float:
    """Processor time of a command, the median of several calls [s]."""
    spent = []
    for _ in range(TIMES):
        before = resource.getrusage(resource.RUSAGE_CHILDREN)
        subprocess.run(command, check=True, stdout=subprocess.DEVNULL)
        after = resource.getrusage(resource.RUSAGE_CHILDREN)
        spent.append(after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime)
    return statistics.median(spent)


def read_three_hours(folder: Path) -> Sequence[str | Path]:
    """The command that reads a log of 3.5 h at 1 Hz with check-ins and temperatures."""
    for name in ("meter.csv", "heat.csv"):
        (folder / name).write_bytes(gzip.decompress((LOG / f"{name}.gz").read_bytes()))
    return ["read", "--meter", folder / "meter.csv", "--heat", folder / "heat.csv", "--battery", LOG / "battery.csv"]


def server_again() -> float:
    """Until a server that was killed answers again, the median [s]."""
    took = []
    with tempfile.TemporaryDirectory(prefix="jaunecharge-startup-") as name:
        folder = Path(name)
        folder.chmod(0o755)
        served = Served(folder)
        try:
            for turn in range(TIMES + 1):
                if turn:
                    served.kill()
                began = time.monotonic()
                served.start()
                while not served.answers():
                    time.sleep(0.02)
                took.append(time.monotonic() - began)
        finally:
            served.stop()
    return statistics.median(took[1:])


def charge_s(compiled: bool) -> float:
    """Processor time of one simulated charge of three hours, compiled or as plain Python, in a new process [s]."""
    how = "compiled" if compiled else "plain"
    done = subprocess.run(
        [sys.executable, "-m", "benchmarks.startup", how], capture_output=True, text=True, check=True
    )  # fmt: skip
    return float(done.stdout)


def one_charge(compiled: bool) -> float:
    """The same in this process, which has compiled nothing yet [s]."""
    if not compiled:
        engine._compiled.clear()
    scenario = Scenario(
        usual_cell(5000.0, 3.87), Nodes(170.0, 90.0, 0.3, 0.15, 0.25), ((0.0, 8.0),), tail_s=NEVER, most_s=10_800.0
    )
    simulate(scenario)
    began = time.process_time()
    simulate(scenario)
    return time.process_time() - began


def results() -> Iterator[tuple[str, str, str, str, bool]]:
    """The figures, each a line of the table."""
    nothing_s = processor_s(sys.executable, "-c", "pass")
    beside = f"python -c pass {nothing_s:.2f} s"
    with tempfile.TemporaryDirectory() as name:
        for what, arguments, most_s in (
            ("jaunecharge --help", ["--help"], 0.35),
            ("jaunecharge chain", CHAIN, 0.8),
            ("jaunecharge read, a log of 3.5 h", read_three_hours(Path(name)), 1.2),
        ):
            found_s = processor_s(COMMAND, *arguments)
            yield f"{what}: processor time", f"{found_s:.2f} s", beside, f"{most_s:g} s", found_s <= most_s
    again_s = server_again()
    yield "a server that was killed answers after", f"{again_s:.2f} s", "wall clock, no demo", "2.5 s", again_s <= 2.5
    plain_s, compiled_s = charge_s(compiled=False), charge_s(compiled=True)
    yield (
        "one simulated charge, compiled", f"{compiled_s * 1000:.1f} ms",
        f"plain Python {plain_s * 1000:.0f} ms: {plain_s / compiled_s:.0f} ×", "", plain_s > compiled_s,
    )  # fmt: skip


def main() -> int:
    found = list(results())
    for row in found:
        line(*row)
    return 0 if all(row[-1] for row in found) else 1


if __name__ == "__main__":
    if sys.argv[1:]:
        print(one_charge(sys.argv[1] == "compiled"))
    else:
        sys.exit(main())
