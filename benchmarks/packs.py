"""Packs: how often 600 random load tests are read right, and how long a log of 100,000 samples takes."""

import datetime as dt
import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from itertools import count
from multiprocessing import get_context
from pathlib import Path

import httpx
import numpy as np
from tests.other_packs import made_pack

from benchmarks.table import line
from jaunecharge.core.kit import kit_from_line
from jaunecharge.core.log.energy import MeterSpec
from jaunecharge.core.log.trace import power_trace
from jaunecharge.core.packs import LoadTest, rating, read_load
from jaunecharge.documents.pack_test import ChargeRead, LoadKept, LoadSeen, PackTestDocument
from jaunecharge.store.kit import add_all
from jaunecharge.store.packs import add

RUNS, FIRST_SEED, LET_GO = 600, 10_000, 200
MOST_S = 0.15
LEAST_INSIDE, MOST_INSIDE, LEAST_EVENTS = 0.93, 0.99, 0.97


def read_made(seed: int) -> tuple[object, LoadTest, float]:
    """A random load test, its reading, and its step [s]."""
    made = made_pack(seed)
    trace = power_trace(made.time_s, made.volts * made.amps, made.volts, made.amps)
    spec = MeterSpec(made.gain_percent, 0.001, 0.0005)
    return made, read_load(trace, rating(made.rated_mah, made.cell_v), spec), trace.step_s


def read_once() -> float:
    """Median seconds of reading a load test of 100,000 samples whole."""
    rng = np.random.default_rng(2)
    at = np.arange(100_000.0)
    amps = np.where(at < 60, 0.0, np.where(at > 99_900, 0.0, 0.4 + 0.3 * ((at // 9000) % 5)))
    volts = np.where(at > 99_900, 0.0, 5.1 - 0.06 * amps) + rng.normal(0, 0.004, len(at)) * (at <= 99_900)
    times = []
    for _ in range(7):
        began = time.perf_counter()
        read_load(power_trace(at, volts * amps, volts, amps), rating(200_000, 3.7))
        times.append(time.perf_counter() - began)
    return statistics.median(times)


def _lets_go(seed: int) -> bool | None:
    """Whether a random pack that lets go does so within what is stated; None of all others."""
    if made_pack(seed).lets_go_a is None:
        return None
    made, found, _ = read_made(seed)
    if found.trip_a is None:
        return None
    return bool(abs(found.trip_a.value - made.lets_go_a) <= found.trip_a.expanded)


def lets_go() -> list[bool]:
    """The same of so many that let go: one in twenty does."""
    found: list[bool] = []
    with get_context("fork").Pool(2) as pool:
        for inside in pool.imap(_lets_go, count(FIRST_SEED), chunksize=20):
            if inside is not None:
                found.append(inside)
            if len(found) == LET_GO:
                pool.terminate()
                return found
    return found


TESTS, PACKS, LISTED_S = 10_000, 40, 0.3


def listed() -> float:
    """Median seconds until all packs are listed with what came of 10,000 tests, asked over loopback."""
    from tests.serving import fresh_database, served

    with fresh_database() as database:
        with database.session() as session:
            names = [f"Pack {n}" for n in range(PACKS)]
            add_all(session, [kit_from_line(f"pack {name} 10000mAh 3.7V mpp 5V3A") for name in names], "")
            at = dt.datetime(2027, 3, 1, tzinfo=dt.UTC)
            for n in range(TESTS):
                name = names[n % PACKS]
                if n % 5 == 0:
                    wh = 20.0 + n % 9
                    kept = LoadKept(delivered_wh=wh, expanded_wh=0.3, at_least=n % 3 == 0, tripped=n % 7 == 0)
                    facts = {"kind": "load", "load": kept, "seen": LoadSeen(wh=wh)}
                else:
                    charge = ChargeRead(
                        phone=f"Phone {n % 12}", phone_mah=4000, phone_v=3.87, pack_before="100",
                        pack_after=str(20 + n % 60), phone_before=5, phone_after=100, by_cord=n % 2 == 0,
                    )  # fmt: skip
                    facts = {"kind": "charge", "charge": charge}
                document = PackTestDocument.model_validate({"rated_mah": 10_000, "cell_v": 3.7, **facts})
                add(session, name, document, at + dt.timedelta(minutes=n), "")
        with (
            tempfile.TemporaryDirectory() as folder,
            served(database, Path(folder)) as address,
            httpx.Client(base_url=address) as web,
        ):
            times = []
            for _ in range(7):
                began = time.perf_counter()
                assert len(web.get("/api/packs").raise_for_status().json()["packs"]) == PACKS
                times.append(time.perf_counter() - began)
            return statistics.median(times)


def results() -> list[tuple[str, str, str, str, bool]]:
    """Figures beside their yardsticks."""
    read = [read_made(seed) for seed in range(FIRST_SEED, FIRST_SEED + RUNS)]

    def share(inside: Callable[..., bool | None]) -> float:
        told = [x for row in read if (x := inside(*row)) is not None]
        return sum(told) / len(told)

    wh = share(lambda m, f, _: abs(f.delivered_wh.value - m.wh) <= f.delivered_wh.expanded)
    stepped = ("steps", "steps that trip", "profile change")
    ohm = share(
        lambda m, f, _: (
            None
            if m.kind not in stepped
            else abs(f.line.resistance_ohm.value - m.resistance_ohm) <= f.line.resistance_ohm.expanded
        )
    )
    cut = share(
        lambda m, f, s: (
            f.cut_off_s is None
            if m.cut_off_s is None
            else f.cut_off_s is not None and abs(f.cut_off_s - m.cut_off_s) <= 2 * s
        )
    )
    cut_h = share(
        lambda m, f, _: (
            None
            if m.cut_off_s is None or f.cut_off is None
            else abs(f.cut_off.value - (m.cut_off_s - m.start_s) / 3600) <= f.cut_off.expanded
        )
    )
    trip = share(lambda m, f, _: (f.trip is None) == (m.trip_a is None))
    sleep = share(lambda m, f, _: bool(f.sleeps) == (m.sleep_s is not None))
    took = read_once()
    inside = f"{LEAST_INSIDE:.0%} to {MOST_INSIDE:.0%}"
    let_go = lets_go()
    rows = [
        (name, f"{value:.1%}", f"{packs} random packs", inside, LEAST_INSIDE <= value <= MOST_INSIDE)
        for name, value, packs in (
            ("delivered Wh in what is stated", wh, RUNS),
            ("resistance in what is stated", ohm, RUNS),
            ("time to the cut-off in what is stated", cut_h, RUNS),
            ("where it lets go in what is stated", sum(let_go) / len(let_go), len(let_go)),
        )
    ]
    rows += [
        (name, f"{value:.1%}", "", f">= {LEAST_EVENTS:.0%}", value >= LEAST_EVENTS)
        for name, value in (("cut-off read right", cut), ("protection read right", trip), ("sleep read right", sleep))
    ]
    shown = listed()
    return [
        *rows,
        ("a load test of 100,000 samples read", f"{took * 1000:.0f} ms", "", "150 ms", took <= MOST_S),
        (
            f"packs listed, {TESTS:,} tests", f"{shown * 1000:.0f} ms", "over loopback", "300 ms", shown <= LISTED_S,
        ),
    ]  # fmt: skip


if __name__ == "__main__":
    found = results()
    for row in found:
        line(*row)
    sys.exit(0 if all(r[-1] for r in found) else 1)
