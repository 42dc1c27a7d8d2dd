"""What many runs cost: bytes a run on disk, and how long lists and comparisons take, by the number of runs.

The demonstration's runs, simulated, each as often as it takes; `python -m benchmarks.many 1000 10000`.
"""

import statistics
import sys
import tempfile
import time
from pathlib import Path

from fastapi.testclient import TestClient
from sqlalchemy import text
from tests.serving import fresh_database

from jaunecharge.api.app import make_app
from jaunecharge.store.database import Database

LOOKS = {
    "Runs": "/api/runs", "heat over all runs": "/api/throttling", "what Versus offers": "/api/versus/offered",
    "phones × chargers": "/api/versus/table",
}  # fmt: skip


def multiply(database: Database, runs: int) -> None:
    """Copy runs with their logs, under ids of their own and as recordings of their own, until there are so many."""
    with database.session() as session:
        count = session.scalar(text("SELECT count(*) FROM runs")) or 1
        times = -(-runs // count) - 1
        columns = session.scalars(
            text(
                "SELECT column_name FROM information_schema.columns WHERE table_name = 'runs'"
                " AND column_name NOT IN ('id', 'recording') ORDER BY ordinal_position"
            )
        )
        names = ", ".join(columns)
        session.execute(
            text(
                "CREATE TEMPORARY TABLE clones ON COMMIT DROP AS SELECT gen_random_uuid() AS new, id AS old"
                " FROM runs, generate_series(1, :times) LIMIT :wanted"
            ),
            {"times": times, "wanted": runs - count},
        )
        copied = f"SELECT new, '{{}}', {names} FROM clones JOIN runs ON id = old"
        session.execute(text(f"INSERT INTO runs (id, recording, {names}) {copied}"))
        own = "name, n, rows, first_s, last_s, bytes"
        session.execute(
            text(f"INSERT INTO series (run_id, {own}) SELECT new, {own} FROM clones JOIN series ON run_id = old")
        )
    with database.engine.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
        connection.execute(text("ANALYZE"))


def sizes(database: Database) -> tuple[float, float]:
    """Bytes a run of the table of runs, and of its series, indexes among them."""
    with database.session() as session:
        count = session.scalar(text("SELECT count(*) FROM runs")) or 1
        runs = session.scalar(text("SELECT pg_total_relation_size('runs')")) or 0
        logs = session.scalar(text("SELECT sum(pg_total_relation_size(relid)) FROM pg_partition_tree('series')")) or 0
    return runs / count, float(logs) / count


def looks(database: Database, folder: Path) -> dict[str, float]:
    """Seconds of each look, the median of three."""
    client = TestClient(make_app(database, folder / "uploads"), base_url="http://127.0.0.1")
    found = {}
    for name, address in LOOKS.items():
        took = []
        for _ in range(3):
            began = time.perf_counter()
            answer = client.get(address)
            took.append(time.perf_counter() - began)
            assert answer.status_code == 200, (address, answer.text[:200])
        found[name] = statistics.median(took)
    return found


def main(counts: list[int]) -> None:
    print(f"{'runs':>8} {'row of a run':>14} {'its log':>10}   " + "   ".join(LOOKS))
    with fresh_database(with_demo=True) as database, tempfile.TemporaryDirectory() as folder:
        for count in counts:
            multiply(database, count)
            row, log = sizes(database)
            found = looks(database, Path(folder))
            print(f"{count:8,} {row:12,.0f} B {log:8,.0f} B   " + "   ".join(f"{s:.3f} s" for s in found.values()))


if __name__ == "__main__":
    main([int(a) for a in sys.argv[1:]] or [1000, 10_000])
