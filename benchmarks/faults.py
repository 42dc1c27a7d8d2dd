"""The bench under fire: killed, its database killed, its disk filled, at any moment under ten lanes at ten a second.

Every reading that was acknowledged must stand once in the run of its lane. `python -m benchmarks.faults --write` keeps
the figures in docs/reliability.md. Full disks need root: the state then lies on a disk of its own, in memory.
"""

import argparse
import contextlib
import datetime as dt
import os
import random
import statistics
import subprocess
import tempfile
import threading
import time
import uuid
from pathlib import Path

import httpx
import psycopg
from tests.live.processes import Served

from jaunecharge.store.database import Database
from jaunecharge.store.runs.logs import load_log
from jaunecharge.store.runs.runs import get_run

LANES, EVERY_S = 10, 0.1
PATIENCE_S = 300.0
DISK_MB = 700
FULL_FOR_S = 4.0
WATTS_A_READING = 1e-5
QUIET = 0.05
FIGURES = Path(__file__).parents[1] / "docs" / "reliability.md"
SHELF = ("phone Ostrel Max 4700mAh mpp", "puck Cairn disc mpp asks 9V2.22A", "adapter Plug 20 20W")


class Source:
    """A meter that counts: reading n says 5 W and n hundred-thousandths; it keeps each until it is acknowledged."""

    def __init__(self, address: str, lane: str, token: str) -> None:
        self.path, self.headers = f"{address}/api/lanes/{lane}/readings", {"Authorization": f"Bearer {token}"}
        self.lane, self.boot, self.began = lane, uuid.uuid4().hex, time.monotonic()
        self.number, self.kept, self.acknowledged = 0, {}, set()
        self.refused: dict[int, int] = {}
        self.over = threading.Event()
        self.thread = threading.Thread(target=self.run, daemon=True)
        self.thread.start()

    def run(self) -> None:
        """Read and send until it is stopped, and then until all is acknowledged."""
        with httpx.Client(timeout=10.0) as web:
            while not (self.over.wait(EVERY_S) and not self.kept):
                if not self.over.is_set():
                    clock = round(time.monotonic() - self.began, 4)
                    row = {"n": self.number, "clock_s": clock, "watts": 5.0 + self.number * WATTS_A_READING}
                    self.kept[self.number] = row
                    self.number += 1
                self.send(web)

    def send(self, web: httpx.Client) -> None:
        """Send what waits; what the answer says is stored waits no more."""
        batch = list(self.kept.values())[:200]
        body = {"source": "meter", "boot": self.boot, "readings": batch}
        with contextlib.suppress(httpx.HTTPError, ValueError):
            answer = web.post(self.path, json=body, headers=self.headers)
            if answer.status_code == 200 and answer.json()["committed"]:
                for row in batch:
                    self.acknowledged.add(row["n"])
                    self.kept.pop(row["n"], None)
            elif answer.status_code != 202:
                self.refused[answer.status_code] = self.refused.get(answer.status_code, 0) + 1


class Trial:
    """One session under fire."""

    def __init__(self, folder: Path, disk: bool, seed: int) -> None:
        self.chance, self.disk = random.Random(seed), disk
        self.served = Served(folder)
        if disk:
            # The cluster lies within the state, so that both are on the disk that becomes full.
            self.served.environment["JAUNECHARGE_STATE"] = str(folder / "state")
            (folder / "state" / "postgres" / "data").mkdir(parents=True)
        self.filler = folder / "state" / "filler"
        self.recoveries: dict[str, list[float]] = {"application": [], "database": [], "disk": []}
        self.taken: dict[str, list[float]] = {kind: [] for kind in self.recoveries}

    def until(self, true, what: str) -> float:
        """Time until something was so [s]."""
        began = time.monotonic()
        while True:
            with contextlib.suppress(httpx.HTTPError, psycopg.Error, ValueError, KeyError):
                if true():
                    return time.monotonic() - began
            if time.monotonic() - began > PATIENCE_S:
                raise SystemExit(f"{what}: not within {PATIENCE_S:.0f} s")
            time.sleep(0.02)

    def begin(self) -> list[Source]:
        """Start it, with its lanes and their meters."""
        self.served.start()
        self.until(self.served.answers, "it serves")
        web = httpx.Client(base_url=self.served.address, timeout=60.0)
        for line in SHELF:
            web.post("/api/kit/line", json={"line": line, "keep": True}).raise_for_status()
        factors = {"phone": "Ostrel Max", "charger": "Cairn disc", "adapter": "Plug 20"}
        sources = []
        for _ in range(LANES):
            lane = web.post("/api/lanes", json={"factors": factors, "ambient_c": 25.0}).json()["view"]["id"]
            token = web.get(f"/api/lanes/{lane}/link").json()["token"]
            web.post(f"/api/lanes/{lane}/placed").raise_for_status()
            sources.append(Source(self.served.address, lane, token))
        return sources

    def fault(self, kind: str, sources: list[Source]) -> None:
        """One fault at a random moment; how long it took until readings were acknowledged again."""
        time.sleep(self.chance.uniform(0.2, 2.0))
        began = processor_time()
        if kind == "application":
            self.served.kill()
            self.served.start()
        elif kind == "database":
            self.served.kill_database()
        else:
            self.fill()
            time.sleep(FULL_FOR_S)
            self.filler.unlink()
        before = [len(s.acknowledged) for s in sources]
        went_on = lambda: all(len(s.acknowledged) > b for s, b in zip(sources, before, strict=True))  # noqa: E731
        self.recoveries[kind].append(self.until(went_on, f"every lane goes on after a fault of the {kind}"))
        passed, taken = (a - b for a, b in zip(processor_time(), began, strict=True))
        self.taken[kind].append(taken / max(1, passed))

    def fill(self) -> None:
        """Write until nothing more can be written."""
        with contextlib.suppress(OSError), self.filler.open("wb", buffering=0) as file:
            while True:
                file.write(bytes(1 << 20))
        with contextlib.suppress(OSError), self.filler.open("ab", buffering=0) as file:
            while True:
                file.write(bytes(512))

    def judge(self, sources: list[Source]) -> tuple[int, int, int]:
        """Numbers of readings that were acknowledged, are missing, and are doubled in the runs."""
        for source in sources:
            source.over.set()
        for source in sources:
            source.thread.join(PATIENCE_S)
        acknowledged = missing = doubled = 0
        web = httpx.Client(base_url=self.served.address, timeout=300.0)
        with (
            contextlib.closing(Database(self.served.cluster.access().url())) as database,
            database.session() as session,
        ):
            for source in sources:
                ended = web.post(f"/api/lanes/{source.lane}/ended", json={"outcome": "complete"})
                watts = load_log(session, get_run(session, uuid.UUID(ended.json()["run"]))).trace.power_w
                numbers = [round((w - 5.0) / WATTS_A_READING) for w in watts.tolist()]
                acknowledged += len(source.acknowledged)
                missing += len(source.acknowledged - set(numbers))
                doubled += len(numbers) - len(set(numbers))
        return acknowledged, missing, doubled


def processor_time() -> tuple[int, int]:
    """Ticks of all processors so far, and those of them that the host of a virtual machine gave to others
    (/proc/stat: `steal`, the eighth)."""
    ticks = [int(t) for t in Path("/proc/stat").read_text().split("\n", 1)[0].split()[1:9]]
    return sum(ticks), ticks[7]


@contextlib.contextmanager
def disk_of_its_own(wanted: bool):
    """A folder, on a small disk in memory where one is wanted."""
    with tempfile.TemporaryDirectory(prefix="jaunecharge-faults-") as name:
        folder = Path(name)
        folder.chmod(0o755)
        if wanted:
            subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={DISK_MB}m,mode=755", "tmpfs", name], check=True)
        try:
            yield folder
        finally:
            if wanted:
                subprocess.run(["umount", "-l", name], check=False)


def main() -> int:
    """Run the faults that are asked for, and print what came of them."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--kills", type=int, default=200)
    parser.add_argument("--databases", type=int, default=30)
    parser.add_argument("--disks", type=int, default=10)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--write", action="store_true")
    asked = parser.parse_args()
    disk = asked.disks > 0 and os.geteuid() == 0
    kinds = ["application"] * asked.kills + ["database"] * asked.databases + ["disk"] * (asked.disks if disk else 0)
    with disk_of_its_own(disk) as folder:
        trial = Trial(folder, disk, asked.seed)
        trial.chance.shuffle(kinds)
        began = time.monotonic()
        try:
            sources = trial.begin()
            for n, kind in enumerate(kinds, start=1):
                trial.fault(kind, sources)
                lasts_s, taken = trial.recoveries[kind][-1], trial.taken[kind][-1]
                print(f"{n} of {len(kinds)}: {kind}, {lasts_s:.1f} s, {taken:.0%} taken by the host", flush=True)
            acknowledged, missing, doubled = trial.judge(sources)
        finally:
            trial.served.stop()
        lasted = time.monotonic() - began
    lines = told(trial, kinds, acknowledged, missing, doubled, lasted)
    print("\n".join(lines))
    if asked.write:
        FIGURES.write_text("\n".join(lines) + "\n")
    return 1 if missing or doubled else 0


def told(trial: Trial, kinds: list[str], acknowledged: int, missing: int, doubled: int, lasted: float) -> list[str]:
    """The figures, as they stand in docs/reliability.md."""
    lines = [
        "# What the bench loses under fire", "",
        f"Made by `make faults` on {dt.date.today():%d %B %Y}, in {lasted / 60:.0f} minutes: {LANES} lanes that push"
        f" {1 / EVERY_S:.0f} readings a second each, and a fault at a random moment, once every lane goes on.", "",
        "| fault | times | readings acknowledged again after, median [s] | longest [s] |"
        f" longest while the host of this virtual machine took under {QUIET:.0%} of its processors [s] |",
        "| --- | --- | --- | --- | --- |",
    ]  # fmt: skip
    for kind, seconds in trial.recoveries.items():
        if seconds:
            what = {"application": "the application is killed and started", "database": "the database is killed",
                    "disk": f"the disk is full for {FULL_FOR_S:.0f} s"}[kind]  # fmt: skip
            quiet = [s for s, taken in zip(seconds, trial.taken[kind], strict=True) if taken < QUIET]
            alone = f"{max(quiet):.1f} ({len(quiet)} of them)" if quiet else "none was so"
            lines.append(
                f"| {what} | {len(seconds)} | {statistics.median(seconds):.1f} | {max(seconds):.1f} | {alone} |"
            )
    lines += [
        "", f"Readings acknowledged: {acknowledged:,}. Missing from the runs that the lanes closed into: {missing}."
        f" Stored twice: {doubled}. Faults: {len(kinds)}.",
    ]  # fmt: skip
    return lines


if __name__ == "__main__":
    raise SystemExit(main())
