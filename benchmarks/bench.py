"""The bench under load: fifty lanes at ten readings a second each, a lane that runs for a day, stand-ins whose run is
over, and a lane's page open for three simulated hours.

The application runs in a process of its own; readings are pushed over HTTP on kept connections, one request a reading,
and what a browser would hear is read from the stream of events.
"""

import asyncio
import contextlib
import datetime as dt
import json
import os
import statistics
import tempfile
import time
from dataclasses import dataclass
from pathlib import Path

import httpx
import psycopg
from tests.browser.chromium import chromium
from tests.live.processes import Served
from tests.live.test_parts import row, state

from jaunecharge.live.told import figures
from jaunecharge.live.view import view

LANES, A_SECOND, LASTS_S = 50, 10, 60.0
SPEED = 120
LONGEST_LINE = 2**24
FACTORS = {"phone": "Ostrel Max", "charger": "Cairn disc", "adapter": "Plug 20"}
LINES = (
    "phone Ostrel Max 4620mAh mpp wired 25W large magnets", "puck Cairn disc mpp claims 15W asks 9V2.22A",
    "adapter Plug 20 20W", "puck Gully puck bpp asks 5V2A agrees:5v",
)  # fmt: skip
SLOW = FACTORS | {"charger": "Gully puck"}
"""A charge that lasts for longer than the page is looked at."""


@dataclass(frozen=True)
class Load:
    """Result of fifty lanes: readings sent and stored, latencies [s], the application's highest memory [MB]."""

    sent: int
    stored: int
    median_s: float
    p95_s: float
    memory_mb: float


@dataclass(frozen=True)
class Page:
    """A lane's page: its heap after collection at ten minutes and at three hours [MB], how busy it is then (0–1)."""

    early_mb: float
    late_mb: float
    early_busy: float
    late_busy: float


@contextlib.contextmanager
def running():
    """The application, served, with some kit."""
    with tempfile.TemporaryDirectory(prefix="jaunecharge-load-") as name:
        folder = Path(name)
        folder.chmod(0o755)
        served = Served(folder)
        served.start()
        try:
            while not served.answers():
                time.sleep(0.1)
            for line in LINES:
                httpx.post(f"{served.address}/api/kit/line", json={"line": line, "keep": True}, timeout=60)
            yield served
        finally:
            served.stop()


def opened(served: Served, **more) -> tuple[str, str]:
    """A lane and its token."""
    made = httpx.post(f"{served.address}/api/lanes", json={"factors": FACTORS, **more}, timeout=60).json()
    lane = made["view"]["id"]
    return lane, httpx.get(f"{served.address}/api/lanes/{lane}/link", timeout=60).json()["token"]


async def pusher(port: int, lane: str, token: str, starts: float, told: list[tuple[float, int]]) -> int:
    """Push a reading ten times a second on one connection; (when, count of the change) of each."""
    reader, writer = await asyncio.open_connection("127.0.0.1", port)
    sent = 0
    while (due := starts + sent / A_SECOND) < starts + LASTS_S:
        await asyncio.sleep(max(0.0, due - time.perf_counter()))
        reading = {"n": sent, "clock_s": sent / A_SECOND, "volts": 9.0, "amps": 1.9}
        body = json.dumps({"source": "load", "readings": [reading]}).encode()
        head = (
            f"POST /api/lanes/{lane}/readings HTTP/1.1\r\nHost: 127.0.0.1:{port}\r\nAuthorization: Bearer {token}\r\n"
            f"Content-Type: application/json\r\nContent-Length: {len(body)}\r\n\r\n"
        )
        began = time.perf_counter()
        writer.write(head.encode() + body)
        await writer.drain()
        answer = (await reader.readuntil(b"\r\n\r\n")).decode().lower()
        length = int(answer.split("content-length:")[1].split("\r\n")[0])
        said = json.loads(await reader.readexactly(length))
        assert said["committed"], said
        told.append((began, said["tick"]))
        sent += 1
    writer.close()
    return sent


async def listener(port: int, heard: list[tuple[float, int]], over: asyncio.Event) -> None:
    """Hear the events of the bench as a browser does: (when, count of the change)."""
    reader, writer = await asyncio.open_connection("127.0.0.1", port, limit=LONGEST_LINE)
    writer.write(
        f"GET /api/bench/events HTTP/1.1\r\nHost: 127.0.0.1:{port}\r\nAccept: text/event-stream\r\n\r\n".encode()
    )
    await writer.drain()
    while not over.is_set():
        with contextlib.suppress(asyncio.TimeoutError, asyncio.LimitOverrunError):
            line = await asyncio.wait_for(reader.readline(), 1.0)
            if line.startswith(b"id:"):
                number = int(line[3:])
            elif line.startswith(b"data:"):
                json.loads(line[5:])
                heard.append((time.perf_counter(), number))
    writer.close()


async def storm(port: int, lanes: list[tuple[str, str]]) -> tuple[int, list[float]]:
    """Push to all lanes at once, and hear; readings sent, and seconds from each until it was heard."""
    told: list[tuple[float, int]] = []
    heard: list[tuple[float, int]] = []
    over = asyncio.Event()
    listening = asyncio.create_task(listener(port, heard, over))
    await asyncio.sleep(1.0)
    starts = time.perf_counter() + 0.5
    counts = await asyncio.gather(
        *(pusher(port, lane, token, starts + i / LANES / A_SECOND, told) for i, (lane, token) in enumerate(lanes))
    )
    await asyncio.sleep(2.0)
    over.set()
    await listening
    waits, events = [], iter(heard)
    at, known = next(events)
    for began, tick in sorted(told, key=lambda t: t[1]):
        while known < tick:
            at, known = next(events)
        waits.append(at - began)
    return sum(counts), waits


def highest_memory_mb(pid: int) -> float:
    """The highest resident memory of a process so far [MB]."""
    status = Path(f"/proc/{pid}/status").read_text()
    return int(status.split("VmHWM:")[1].split()[0]) / 1000.0


def load() -> Load:
    """Fifty lanes for a minute."""
    with running() as served:
        lanes = [opened(served) for _ in range(LANES)]
        sent, waits = asyncio.run(storm(served.port, lanes))
        memory = highest_memory_mb(served.process.pid)
        address = served.cluster.access().url().replace("postgresql+psycopg", "postgresql")
        with psycopg.connect(address) as connection:
            [stored] = connection.execute("SELECT count(*) FROM lane_readings").fetchone()
    waits.sort()
    return Load(sent, stored, statistics.median(waits), waits[int(0.95 * len(waits))], memory)


def page() -> Page:
    """A lane's page, open for three simulated hours."""
    with running() as served, chromium() as browser:
        lane, _ = opened(served, factors=SLOW, practice=SPEED, ambient_c=25.0)
        tab = browser.new_page(viewport={"width": 1280, "height": 800})
        tab.goto(f"{served.address}/bench")
        tab.get_by_label("lane A, Ostrel Max on Gully puck").wait_for(timeout=60_000)
        httpx.post(f"{served.address}/api/lanes/{lane}/placed", timeout=60)
        devtools = tab.context.new_cdp_session(tab)
        devtools.send("Performance.enable")
        began = time.perf_counter()

        def heap_mb() -> float:
            for _ in range(3):
                devtools.send("HeapProfiler.collectGarbage")
                tab.wait_for_timeout(100)
            return float(devtools.send("Runtime.getHeapUsage")["usedSize"]) / 1e6

        def worked_s() -> float:
            metrics = {m["name"]: m["value"] for m in devtools.send("Performance.getMetrics")["metrics"]}
            return float(metrics["TaskDuration"])

        def busy(seconds: float) -> float:
            before, at = worked_s(), time.perf_counter()
            tab.wait_for_timeout(seconds * 1000.0)
            return (worked_s() - before) / (time.perf_counter() - at)

        tab.wait_for_timeout(1000.0 * 600.0 / SPEED)
        early_mb, early_busy = heap_mb(), busy(10.0)
        tab.wait_for_timeout(max(0.0, 1000.0 * (3 * 3600.0 / SPEED - (time.perf_counter() - began) - 10.0)))
        late_busy = busy(10.0)
        return Page(early_mb, heap_mb(), early_busy, late_busy)


DAY_S, SOME, LOOKS = 86_400, 2000, 40


@dataclass(frozen=True)
class Day:
    """Processor time of one reading and of one look at the whole lane, in its first minutes and after a day [s]."""

    reading_first_s: float
    reading_last_s: float
    view_first_s: float
    view_last_s: float


def day() -> Day:
    """A lane that reads once a second for a day: what a reading costs, taken in and told; what a look costs."""
    lane = state([])
    tick = 0

    def take(at: int, tell: bool) -> None:
        nonlocal tick
        tick += 1
        percent = min(100.0, at // 864)
        lane.take([row(float(at), 15.0 + 0.001 * (at % 7), celsius=35.0, percent=percent, tick=tick)])
        if tell:
            figures(lane, tick - 1)

    def cost(first: int) -> tuple[float, float]:
        began = time.process_time()
        for at in range(first, first + SOME):
            take(at, tell=True)
        read = (time.process_time() - began) / SOME
        at = lane.lane.opened_at + dt.timedelta(seconds=first + SOME)
        began = time.process_time()
        for n in range(LOOKS):
            view(lane, at + dt.timedelta(seconds=n))
        return read, (time.process_time() - began) / LOOKS

    for at in range(600):
        take(at, tell=False)
    first = cost(600)
    for at in range(600 + SOME, DAY_S):
        take(at, tell=False)
    last = cost(DAY_S)
    return Day(first[0], last[0], first[1], last[1])


def processor_s(pid: int) -> float:
    """Processor time that a process has used [s]."""
    fields = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
    return (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")


def after_the_end() -> tuple[int, float]:
    """Two stand-ins at 120 times the speed until their runs are over: lanes that are still open, and the share of a
    core that the application uses then."""
    with running() as served:
        for _ in range(2):
            lane, _ = opened(served, practice=SPEED, ambient_c=25.0)
            time.sleep(2.0)
            httpx.post(f"{served.address}/api/lanes/{lane}/placed", timeout=60)

        def open_now() -> int:
            return len(httpx.get(f"{served.address}/api/bench", timeout=60).json()["lanes"])

        end = time.monotonic() + 400.0
        while open_now() and time.monotonic() < end:
            time.sleep(1.0)
        time.sleep(45.0)
        pid, began, used = served.process.pid, time.monotonic(), processor_s(served.process.pid)
        time.sleep(20.0)
        return open_now(), (processor_s(pid) - used) / (time.monotonic() - began)


def results() -> tuple[tuple[str, str, str, str, bool], ...]:
    """The figures, each with its yardstick, what is allowed, and whether it holds."""
    found, shown, long, (still_open, busy) = load(), page(), day(), after_the_end()
    growth = shown.late_mb / shown.early_mb
    return (
        (
            f"{LANES} lanes × {A_SECOND} readings a second: p95",
            f"{found.p95_s * 1000:.0f} ms",
            f"median {found.median_s * 1000:.0f} ms, sent → event heard",
            "100 ms",
            found.p95_s <= 0.1,
        ),
        (
            "readings lost in that minute",
            f"{found.sent - found.stored}",
            f"of {found.sent}",
            "0",
            found.sent == found.stored,
        ),
        ("the application's memory then", f"{found.memory_mb:.0f} MB", "", "400 MB", found.memory_mb <= 400),
        (
            "a lane's page after 3 simulated hours: heap",
            f"{shown.late_mb:.1f} MB",
            f"at 10 min {shown.early_mb:.1f} MB: {growth:.2f} ×",
            "1.3 ×",
            growth <= 1.3,
        ),
        (
            "processor time of a reading after 24 h",
            f"{long.reading_last_s * 1e6:.0f} µs",
            f"in the first minutes {long.reading_first_s * 1e6:.0f} µs",
            "1.3 ×",
            long.reading_last_s <= 1.3 * long.reading_first_s,
        ),
        (
            "a look at that lane after 24 h",
            f"{long.view_last_s * 1e3:.1f} ms",
            f"in the first minutes {long.view_first_s * 1e3:.1f} ms",
            "20 ms",
            long.view_last_s <= 0.02,
        ),
        (
            "two stand-ins whose runs are over",
            f"{busy * 100:.1f} % of a core",
            f"{still_open} lanes still open",
            "5 %, none",
            still_open == 0 and busy <= 0.05,
        ),
        (
            "that page's work then",
            f"{shown.late_busy * 100:.0f} % of a core",
            f"at 10 min {shown.early_busy * 100:.0f} %",
            "1.5 ×",
            shown.late_busy <= 1.5 * shown.early_busy,
        ),
    )


if __name__ == "__main__":
    for what, value, beside, allowed, holds in results():
        print(f"{what:44} {value:>12}   {beside:34} {allowed:>14}   {'holds' if holds else 'EXCEEDED'}")
