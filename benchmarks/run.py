"""The figures that are claimed, each beside its yardstick, measured in one run on a database of its own.

import    a clean CSV of 1,000,000 samples: file → understood → stored → read, against a raw binary COPY of the same
          rows into a table with the same key (the buffer is ready-made; nothing is parsed)
read      a run of 100,000 samples in the core
look      page and curve of a stored run of 1,000,000 samples, through the API: by a server that has just begun, later
storing   what a million samples take on disk, and how long
simulate  a run of three hours in steps of one second
shelf     the table of 12 chargers with 12 phones, three charges a pair, through the API; then again
schedule  24 runs on 3 phones with 2 meters (the worst of three plans) and 200 runs on 8 phones with 4 meters
memory    the highest resident memory of a process that does that import and nothing else
reading   how often causes are read right on 500 runs of each of two generators; whole readings; 1,000 read anew
versus    400 simulated pairs whose difference is known; 200 runs each with each; twelve stacked ribbons drawn
many      100,000 stored runs: lists at any page and filter, heat, phones × chargers, Versus, the database's size
packs     600 random load tests read, and one of 100,000 samples
findings  60 runs of 600,000 samples as a data package, out and in; their finding as a PDF
startup   commands and a killed server, until they answer; the simulator's loop against the same in plain Python
bench     fifty lanes at ten readings a second each for a minute; a lane's page open for three simulated hours
"""

import statistics
import subprocess
import sys
import tempfile
import time
import uuid
from collections.abc import Callable
from pathlib import Path

from fastapi.testclient import TestClient
from tests.cases import checkins
from tests.old_rows import packed_rows

from benchmarks.logs import samples, write_csv
from benchmarks.machine import highest_resident_mb, pace
from benchmarks.storing import results as stored
from benchmarks.table import line
from jaunecharge.api.app import make_app
from jaunecharge.core.log.check_ins import Battery
from jaunecharge.core.log.trace import power_trace
from jaunecharge.core.reading.read_run import Conditions, RunLog, read_run
from jaunecharge.documents.case import Case
from jaunecharge.formats.read.assemble import Part, assemble
from jaunecharge.formats.read.source import examine
from jaunecharge.formats.read.understanding import understand
from jaunecharge.postgres import Cluster
from jaunecharge.store.database import Database
from jaunecharge.store.runs.driver import SIGNATURE, TRAILER, driver
from jaunecharge.store.runs.runs import FileRead, NewRun, add_run

MILLION = 1_000_000
COLUMNS = ("t_s", "watts", "volts", "amps")


def seconds(work: Callable[[], object]) -> float:
    began = time.perf_counter()
    work()
    return time.perf_counter() - began


def import_run(database: Database, path: Path) -> uuid.UUID:
    """File → stored → read, as the application does it."""
    source = examine(path)
    found = assemble([Part(source, understand(source), ("meter",))], case=Case())
    with database.session() as session:
        new = NewRun("bench", found.log, Case(), files=(FileRead(path, path.name, "meter"),))
        return add_run(session, new).id


def raw_copy(database: Database) -> float:
    """Seconds that PostgreSQL takes for the rows alone."""
    time_s, volts, amps = samples(MILLION)
    buffer = packed_rows(uuid.uuid4(), [time_s, volts * amps, volts, amps])(0, MILLION)
    with database.session() as session:
        connection = driver(session)
        connection.execute("CREATE TABLE raw_samples (LIKE power_samples INCLUDING ALL)")

        def copy_rows() -> None:
            statement = f"COPY raw_samples (run_id, {', '.join(COLUMNS)}) FROM STDIN (FORMAT BINARY)"
            with connection.cursor() as cursor, cursor.copy(statement) as copy:
                copy.write(SIGNATURE)
                copy.write(buffer)
                copy.write(TRAILER)

        took = seconds(copy_rows)
        connection.execute("DROP TABLE raw_samples")
    return took


def read_hundred_thousand() -> float:
    time_s, volts, amps = samples(100_000)
    trace = power_trace(time_s, volts * amps, volts, amps)
    readings = checkins(*((1 + 10 * i, min(100, 5 + 2 * i)) for i in range(160)))
    conditions = Conditions(Battery(4400.0, 3.87))

    def read() -> None:
        fresh = power_trace(time_s, volts * amps, volts, amps)
        read_run(RunLog(fresh, readings), conditions)

    assert len(trace.time_s) == 100_000
    return statistics.median(seconds(read) for _ in range(5))


def look(database: Database, run_id: uuid.UUID, folder: Path) -> tuple[float, float, float]:
    """Seconds until a run's page and curve are there: from a server that has just begun, the slower of two; later, the
    median; and of its curve alone, whole and zoomed in turn, the median."""

    def begun() -> Callable[[str], None]:
        client = TestClient(make_app(database, folder / "uploads"), base_url="http://127.0.0.1")
        # What is loaded and connected once is no part of a look at a run.
        assert client.get("/api/settings").status_code == 200

        def get(query: str) -> None:
            assert client.get(f"/api/runs/{run_id}{query}").status_code == 200

        return get

    begun()("")
    first, later = [], []
    for _ in range(3):
        get = begun()
        first.append(seconds(lambda g=get: (g(""), g("/series"))))
        later += [seconds(lambda g=get: (g(""), g("/series"))) for _ in range(5)]
    asked = ("", "?start=100&end=9000", "?start=500&end=520&points=3000") * 5
    curves = [seconds(lambda q=query: get(f"/series{q}")) for query in asked]
    return statistics.median(first), statistics.median(later), statistics.median(curves)


def peak_memory(url: str, path: Path) -> float:
    """Highest resident memory [MB] of a process that imports the file."""
    done = subprocess.run(
        [sys.executable, "-m", "benchmarks.run", "--import-only", url, str(path)],
        capture_output=True,
        text=True,
        check=True,
    )
    return float(done.stdout.split()[-1])


def main() -> int:
    with tempfile.TemporaryDirectory(prefix="jaunecharge-bench-") as name:
        folder = Path(name)
        folder.chmod(0o755)
        cluster = Cluster(folder / "postgres")
        cluster.start()
        try:
            return measure(folder, cluster)
        finally:
            cluster.stop()


def measure(folder: Path, cluster: Cluster) -> int:
    database = Database(cluster.access().url())
    database.migrate()
    path = folder / "million.csv"
    write_csv(path, MILLION)
    raw, imported = [], []
    for turn in range(3):
        raw.append(raw_copy(database))
        write_csv(path, MILLION)
        with path.open("a") as file:
            file.write(f"{MILLION + turn},9.0,1.5\n")
        imported.append(seconds(lambda: run_ids.append(import_run(database, path))))
    copy_s, import_s = statistics.median(raw), statistics.median(imported)
    beside = f"raw binary COPY {copy_s:.2f} s: {import_s / copy_s:.2f} ×"
    all_hold: list[bool] = []

    def told(what: str, found: str, beside: str, allowed: str, holds: bool) -> None:
        all_hold.append(holds)
        line(what, found, beside, allowed, holds)

    print(f"{'measured':44} {'found':>12}   {'beside':34} {'at most':>14}")
    whole = "import of 1,000,000 samples, stored and read"
    told(whole, f"{import_s:.2f} s", beside, "0.7 ×", import_s <= 0.7 * copy_s)
    read_s = read_hundred_thousand()
    told("reading 100,000 samples in the core", f"{read_s:.3f} s", "", "0.3 s", read_s <= 0.3)
    first_s, later_s, curve_s = look(database, run_ids[-1], folder)
    first = "first look at a run of 1,000,000 samples"
    told(first, f"{first_s:.3f} s", "page and curve, a server just begun", "0.4 s", first_s <= 0.4)
    curve = f"its curve alone {curve_s * 1000:.0f} ms"
    told("later looks at it", f"{later_s * 1000:.0f} ms", curve, "50 ms", later_s <= 0.05)
    for row in stored():
        told(*row)
    with path.open("a") as file:
        file.write(f"{MILLION + 10},9.0,1.5\n")
    memory_mb = peak_memory(cluster.access().url(), path)
    told("peak memory of that import", f"{memory_mb:.0f} MB", "", "400 MB", memory_mb <= 400)
    told("ten million steps of a plain loop", f"{pace():.2f} s", "this machine's own pace", "", True)
    # The simulator is no part of an import: the process that measures its memory does not load it.
    from benchmarks.bench import results as bench_results
    from benchmarks.findings import results as finding_results
    from benchmarks.many import results as many_results
    from benchmarks.packs import results as pack_results
    from benchmarks.plan import results as plan_results
    from benchmarks.reading import measure as readings
    from benchmarks.shelf import results as shelf_results
    from benchmarks.startup import results as startup_results
    from benchmarks.versus import results as versus_results

    for results in (shelf_results(database, folder), plan_results()):
        for row in results:
            told(*row)
    readings(told)
    many_results(told)
    database.close()
    for rest in (versus_results, pack_results, finding_results, bench_results, startup_results):
        for row in rest():
            told(*row)
    return 0 if all(all_hold) else 1


run_ids: list[uuid.UUID] = []


if __name__ == "__main__":
    if sys.argv[1:2] == ["--import-only"]:
        import_run(Database(sys.argv[2]), Path(sys.argv[3]))
        print(highest_resident_mb())
    else:
        sys.exit(main())
