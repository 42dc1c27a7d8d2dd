"""What many runs cost, by their number: bytes a run on disk, how long it takes to store one and to read it again, lists
and comparisons; from three numbers on also what that comes to at a million and at ten million, fitted as so much, and
so much more for each run.

The demonstration's runs, simulated, each as often as it takes, as recordings of their own, on sixty phones and a
hundred chargers; `python -m benchmarks.many 1000 10000 100000`.
"""

import gc
import math
import sys
import tempfile
import time
import uuid
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from fastapi.testclient import TestClient
from sqlalchemy import text
from tests.serving import fresh_database

from benchmarks.logs import write_csv
from benchmarks.table import line as table_line
from jaunecharge.api.app import make_app
from jaunecharge.jobs import again
from jaunecharge.store.database import Database
from jaunecharge.store.listing import columns
from jaunecharge.store.versus import of_phone

COUNTS = 1000, 100_000
PHONES, CHARGERS, COMPARED = 60, 100, 200
SAMPLES = 8_700
DRAWN_OUT = 1_000_000, 10_000_000
LONGEST_S = {"Runs": 0.3, "heat": 0.5, "phones × chargers": 0.5}
SLOWER, LARGEST_GB = 1.5, 3.0
"""Versus among many runs may take so many times as long as among a thousand: noise of one machine, no growth."""

AT_ONCE = 5000
ROUNDS = 5

Line = Callable[[str, str, str, str, bool], None]


def multiply(database: Database, runs: int) -> None:
    """Copy runs with their logs, under ids and as recordings of their own, until there are so many; each began an hour
    before the one that was made before it."""
    with database.session() as session:
        columns = session.scalars(
            text(
                "SELECT column_name FROM information_schema.columns WHERE table_name = 'runs' AND column_name NOT IN"
                " ('id', 'recording', 'factors', 'started_at', 'created_at', 'label') ORDER BY ordinal_position"
            )
        )
        names = ", ".join(columns)
        there = session.scalar(text("SELECT count(*) FROM runs")) or 1
        placed = "SELECT id AS old, row_number() OVER (ORDER BY id) AS place FROM runs"
        session.execute(text(f"CREATE TABLE IF NOT EXISTS seeds AS {placed}"))
        seeds = session.scalar(text("SELECT count(*) FROM seeds")) or 1
    for first in range(there, runs, AT_ONCE):
        last = min(runs, first + AT_ONCE) - 1
        with database.session() as session:
            session.execute(
                text(
                    "CREATE TEMPORARY TABLE clones ON COMMIT DROP AS SELECT gen_random_uuid() AS new, old, n"
                    f" FROM generate_series({first}, {last}) AS n JOIN seeds ON place = 1 + n % {seeds}"
                )
            )
            kit = f"'phone', 'Phone ' || n % {PHONES}, 'charger', 'Charger ' || n % {CHARGERS}"
            factors = f"factors || jsonb_build_object({kit})"
            moments = "now() - n * interval '1 hour', now() - n * interval '1 minute'"
            session.execute(
                text(
                    f"INSERT INTO runs (id, recording, factors, started_at, created_at, label, {names})"
                    f" SELECT new, '{{}}', {factors}, {moments}, label || ' no. ' || n, {names}"
                    " FROM clones JOIN runs ON id = old"
                )
            )
            own = "name, n, rows, first_s, last_s, bytes"
            inserted = "c.new, s.name, s.n, s.rows, s.first_s, s.last_s, s.bytes"
            cloned = f"SELECT {inserted} FROM clones c JOIN series s ON s.run_id = c.old"
            session.execute(text(f"INSERT INTO series (run_id, {own}) {cloned}"))
    with database.engine.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
        connection.execute(text("VACUUM ANALYZE"))


def sizes(database: Database) -> dict[str, float]:
    """Bytes a run of its row, its line in lists and its series, indexes among them; and the whole database."""
    with database.session() as session:
        count = session.scalar(text("SELECT count(*) FROM runs")) or 1
        sized = {t: session.scalar(text(f"SELECT pg_total_relation_size('{t}')")) or 0 for t in ("runs", "listing")}
        logs = session.scalar(text("SELECT sum(pg_total_relation_size(relid)) FROM pg_partition_tree('series')")) or 0
        whole = session.scalar(text("SELECT pg_database_size(current_database())")) or 0
    return {"runs": sized["runs"] / count, "listing": sized["listing"] / count, "series": float(logs) / count,
            "whole": float(whole)}  # fmt: skip


@dataclass(frozen=True)
class Looks:
    """Seconds of each look, by what is looked at: the slowest of its pages and filters, each the quickest of some."""

    seconds: dict[str, float]
    cold_table: float


def looks(database: Database, folder: Path) -> Looks:
    """How long it takes to look at lists and comparisons, once workers have made the table of phones × chargers."""
    client = TestClient(make_app(database, folder / "uploads"), base_url="http://127.0.0.1")

    def took(address: str) -> float:
        began = time.perf_counter()
        answer = client.get(address)
        assert answer.status_code == 200, (address, answer.text[:300])
        return time.perf_counter() - began

    def slowest(asked: dict[str, list[str]]) -> dict[str, float]:
        """Of each kind the slowest address, of each address the quickest look: what else the machine does only adds.
        All are looked at in turn, each just after a line of the list has changed."""
        found = {address: math.inf for addresses in asked.values() for address in addresses}
        for _ in range(ROUNDS):
            for address in found:
                with database.session() as session:
                    session.execute(text("SELECT nextval('listing_lines')"))
                found[address] = min(found[address], took(address))
        return {what: max(found[address] for address in addresses) for what, addresses in asked.items()}

    assert client.get("/api/settings").status_code == 200
    # As `jaunecharge serve` does once it has loaded all that stays.
    gc.freeze()
    began = time.perf_counter()
    with database.session() as session:
        columns.table(session, of_phone)
    cold = time.perf_counter() - began
    listed = "/api/runs/listed"
    orders = [f"sort={s}&down={d}" for s in ("when", "name", "length", "to80", "hottest", "reads") for d in (0, 1)]
    words = ("", "phone+7", "charger+13+phone+1", "no.+7331", "nowhere+at+all", "heat", "zz")
    asked = [f"{o}&words={w}&kind={k}" for o in orders for w in words for k in ("measured", "all")]
    runs = {q: took(f"{listed}?{q}") for q in asked}
    worst = sorted(runs, key=lambda q: -runs[q])[:8]
    deep = [_deep(client, o) for o in orders[:4]]
    heats = [f"sort={s}&like={x}" for s in ("lost", "hottest", "name", "first") for x in (0, 1)]
    named = client.get("/api/runs", params={"limit": 1000}).json()
    some = "&".join(f"run={r['id']}" for r in [r for r in named if not r["spot"]][:COMPARED])
    return Looks(
        {"a file stored": _stored(client, folder), "a run read again": _read_again(database, named[3]["id"])}
        | slowest(
            {
                "Runs": [f"{listed}?{q}" for q in (*worst, *deep)],
                "heat": [f"/api/throttling?{q}" for q in heats],
                "phones × chargers": ["/api/versus/table"],
                "what Versus offers": ["/api/versus/offered"],
                f"Versus of {COMPARED}": [f"/api/versus?{some}"],
                "a run's page": [f"/api/runs/{named[5]['id']}"],
            }
        ),
        cold,
    )


def _stored(client: TestClient, folder: Path) -> float:
    """Seconds until a file of two and a half hours is a run, the quickest of some."""
    write_csv(folder / "meter.csv", SAMPLES)
    content, took = (folder / "meter.csv").read_bytes(), []
    for n in range(ROUNDS):
        began = time.perf_counter()
        sent = client.post("/api/uploads", params={"name": "meter.csv"}, content=content).json()
        new = {"files": [{"upload": sent["id"], "roles": ["meter"]}], "label": f"stored {n}"}
        answer = client.post("/api/runs", json=new)
        took.append(time.perf_counter() - began)
        assert answer.status_code == 201, answer.text[:300]
    return min(took)


def _read_again(database: Database, run_id: str) -> float:
    """Seconds that a worker takes for a run, the quickest of some."""
    took = []
    for _ in range(ROUNDS):
        with database.session() as session:
            session.execute(text("UPDATE runs SET reader_version = 0 WHERE id = :id"), {"id": run_id})
        began = time.perf_counter()
        assert again(database, uuid.UUID(run_id))
        took.append(time.perf_counter() - began)
    return min(took)


def fitted(counts: list[int], seconds: list[float]) -> tuple[float, float]:
    """Seconds however many there are, and seconds more for each: least squares of shares, neither under nothing."""
    n, took = np.array(counts, dtype=float), np.array(seconds)
    fixed, each = np.linalg.lstsq(np.stack([1.0 / took, n / took], axis=1), np.ones(len(n)), rcond=None)[0].tolist()
    if each < 0:
        return float(np.sum(1.0 / took) / np.sum(1.0 / took**2)), 0.0
    if fixed < 0:
        return 0.0, float(np.sum(n / took) / np.sum((n / took) ** 2))
    return fixed, each


def _deep(client: TestClient, order: str) -> str:
    """A page far down a list: reached from page to page."""
    after = None
    for _ in range(40):
        further = "" if after is None else f"&after={after}"
        page = client.get(f"/api/runs/listed?{order}&limit=200{further}").json()
        if page["after"] is None:
            break
        after = page["after"]
    return order if after is None else f"{order}&after={after}"


def measured(counts: list[int]) -> dict[int, tuple[dict[str, float], Looks]]:
    """Sizes and looks by the number of runs."""
    found = {}
    with fresh_database(with_demo=True) as database, tempfile.TemporaryDirectory() as folder:
        for count in counts:
            multiply(database, count)
            found[count] = sizes(database), looks(database, Path(folder))
    return found


def results(line: Line = table_line, counts: tuple[int, int] = COUNTS) -> bool:
    """A line for each figure; whether all holds."""
    found = measured(list(counts))
    few, many = counts
    sized, looked = found[many]
    fine = []
    for what, allowed in LONGEST_S.items():
        took = looked.seconds[what]
        beside = f"{found[few][1].seconds[what]:.3f} s among {few:,}"
        fine.append(took <= allowed)
        line(f"{what}, {many:,} runs", f"{took:.3f} s", beside, f"{allowed} s", fine[-1])
    versus = f"Versus of {COMPARED}"
    took, before = looked.seconds[versus], found[few][1].seconds[versus]
    fine.append(took <= SLOWER * before)
    line(f"{versus} among {many:,}", f"{took:.3f} s", f"{before:.3f} s among {few:,}", f"{SLOWER} ×", fine[-1])
    gigabytes = sized["whole"] / 1e9
    fine.append(gigabytes <= LARGEST_GB)
    parts = ", ".join(f"{name} {sized[name] / 1000:.1f}" for name in ("runs", "listing", "series"))
    line(f"database of {many:,} runs", f"{gigabytes:.2f} GB", f"kB a run: {parts}", f"{LARGEST_GB} GB", fine[-1])
    return all(fine)


def main(counts: list[int]) -> None:
    shown, found = False, measured(counts)
    for count, (sized, looked) in found.items():
        if not shown:
            print(
                f"{'runs':>9} {'row':>7} {'line':>7} {'log':>7} {'whole':>9}   "
                + "   ".join(looked.seconds)
                + "   cold"
            )
            shown = True
        kilobytes = " ".join(f"{sized[name] / 1000:4.1f} kB" for name in ("runs", "listing", "series"))
        times = "   ".join(f"{s:.3f} s" for s in looked.seconds.values())
        print(
            f"{count:9,} {kilobytes} {sized['whole'] / 1e9:6.2f} GB   {times}   {looked.cold_table:.2f} s", flush=True
        )
    if len(found) < 3:
        return
    print()
    every = [{**looked.seconds, "the table made anew": looked.cold_table} for _, looked in found.values()]
    for what in every[0]:
        fixed, each = fitted(list(found), [seconds[what] for seconds in every])
        drawn = ", ".join(f"{fixed + each * n:.2f} s at {n:,}" for n in DRAWN_OUT)
        print(f"{what:20} {fixed:.3f} s + {each * 1e6:.2f} µs a run: {drawn}")
    fixed, each = fitted(list(found), [sized["whole"] for sized, _ in found.values()])
    drawn = ", ".join(f"{(fixed + each * n) / 1e9:.0f} GB at {n:,}" for n in DRAWN_OUT)
    print(f"{'database':20} {fixed / 1e6:.0f} MB + {each / 1000:.1f} kB a run: {drawn}")


if __name__ == "__main__":
    main([int(a) for a in sys.argv[1:]] or list(COUNTS))
