"""Findings measured: 60 runs of 600,000 samples as a data package, out and in; their finding as a PDF; memory.

python -m benchmarks.findings
"""

import datetime as dt
import io
import os
import statistics
import subprocess
import sys
import tempfile
import time
import zipfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
from pypdf import PdfReader
from sqlalchemy import func, select
from tests.cases import checkins
from tests.serving import fresh_database

from benchmarks.machine import highest_resident_mb
from benchmarks.table import line
from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.core.log.trace import power_trace
from jaunecharge.core.reading.read_run import RunLog
from jaunecharge.documents.case import Case
from jaunecharge.documents.finding import (
    MOST_CLAIMS,
    MOST_FOREIGN,
    ClaimTypedDocument,
    DisclosedDocument,
    FindingDocument,
    ForeignDocument,
)
from jaunecharge.formats.report.page import pdf
from jaunecharge.store import models as m
from jaunecharge.store.database import Database
from jaunecharge.store.findings.findings import add_finding, get_finding, list_findings
from jaunecharge.store.findings.report import report_of
from jaunecharge.store.kit import add_all
from jaunecharge.store.packages.coming_in import import_package
from jaunecharge.store.packages.going_out import export_package
from jaunecharge.store.runs.runs import NewRun, add_run

PHONES, CHARGERS, REPEATS, SAMPLES = 6, 5, 2, 10_000
MOST_OUT_S, MOST_IN_S, MOST_PDF_S, MOST_MB, PAGES = 8.0, 12.0, 6.0, 500.0, 20
Row = tuple[str, str, str, str, bool]
BEGAN = dt.datetime(2027, 3, 1, 8, tzinfo=dt.UTC)


def fill(database: Database) -> int:
    """The bench of 60 runs, with a finding of them; samples stored."""
    rng = np.random.default_rng(18)
    lines = [f"phone Ostrel {n} {3000 + 300 * n}mAh mpp" for n in range(PHONES)]
    lines += [f"puck Cairn disc {n} mpp claims 15W" for n in range(CHARGERS)]
    with database.session() as session:
        add_all(session, [kit_from_line(x) for x in lines], "")
    runs = []
    for n in range(PHONES * CHARGERS * REPEATS):
        charger, phone = n % CHARGERS, n // CHARGERS % PHONES
        watts = 9.0 + charger
        time_s = np.arange(SAMPLES, dtype=float)
        volts = np.round(9.0 + rng.normal(0, 0.005, SAMPLES), 4)
        amps = np.round(np.where(time_s < 60, 0.05, watts / 9.0) + rng.normal(0, 0.003, SAMPLES), 4)
        pace = (SAMPLES / 60 - 5) / 90 * float(rng.normal(1, 0.02)) * 9.0 / watts
        readings = checkins(
            *((1 + pace * (p - 5), p) for p in range(5, 96, 5) if 1 + pace * (p - 5) < SAMPLES / 60 - 1)
        )
        factors = {
            "phone": f"Ostrel {phone}", "charger": f"Cairn disc {charger}", "case": "none", "airflow": "still air",
            "phone_state": "idle",
        }  # fmt: skip
        log = RunLog(power_trace(time_s, volts * amps, volts, amps), readings)
        new = NewRun(f"run {n}", log, Case(), factors=factors, started_at=BEGAN + dt.timedelta(hours=4 * n))
        with database.session() as session:
            runs.append(add_run(session, new).id)
    with database.session() as session:
        document = FindingDocument(
            question="Which disc is fastest to 80 %?", runs=runs,
            claims=[
                ClaimTypedDocument(about=f"Cairn disc {n % CHARGERS}", text=f"{n + 5} W") for n in range(MOST_CLAIMS)
            ],
            foreign=[
                ForeignDocument(what=f"Cairn disc {n % CHARGERS}, try {n}", figure=f"{60 + n} min", source="a review")
                for n in range(MOST_FOREIGN)
            ],
            disclosed=[DisclosedDocument(label=f"Cairn disc {n}", got="bought") for n in range(CHARGERS)],
        )  # fmt: skip
        add_finding(session, document, BEGAN, "")
        query = select(func.sum(m.SeriesChunk.rows)).where(m.SeriesChunk.name == "samples")
        return session.scalar(query) or 0


def seconds(work: Callable[[], object]) -> float:
    began = time.perf_counter()
    work()
    return time.perf_counter() - began


def made_pdf(database: Database) -> bytes:
    """The finding as a PDF, from the database to the bytes."""
    with database.session() as session:
        return pdf(report_of(session, get_finding(session, list_findings(session)[0].id))[0])


def raw_zip(path: Path) -> float:
    """Seconds that packing the very bytes of a package once more takes."""
    with zipfile.ZipFile(path) as package:
        contents = {n: package.read(n) for n in package.namelist()}

    def pack() -> None:
        with zipfile.ZipFile(io.BytesIO(), "w", zipfile.ZIP_DEFLATED) as again:
            for name, content in contents.items():
                again.writestr(name, content)

    return seconds(pack)


def peak_mb(origin: Database, target: Database, folder: Path) -> float:
    """Highest resident memory of a process that exports, imports and prints, and nothing else [MB]."""
    urls = {"BENCH_FROM": _url(origin), "BENCH_INTO": _url(target)}
    done = subprocess.run(
        [sys.executable, "-m", "benchmarks.findings", "--memory", str(folder)],
        env={**os.environ, **urls}, capture_output=True, text=True, check=True,
    )  # fmt: skip
    return float(done.stdout.split()[-1])


def _url(database: Database) -> str:
    return database.engine.url.render_as_string(hide_password=False)


def results() -> list[Row]:
    """What was measured, beside what is allowed."""
    with (
        tempfile.TemporaryDirectory() as name,
        fresh_database() as origin, fresh_database() as target, fresh_database() as other,
    ):  # fmt: skip
        folder = Path(name)
        count = fill(origin)
        package = folder / "bench.zip"
        told: list[float] = []
        out_s = seconds(lambda: export_package(origin, package, progress=told.append))
        in_s = seconds(lambda: import_package(target, package))
        zip_s = raw_zip(package)
        printed = [made_pdf(target)]
        pdf_s = statistics.median(seconds(lambda: printed.append(made_pdf(target))) for _ in range(5))
        pages = len(PdfReader(io.BytesIO(printed[-1])).pages)
        memory = peak_mb(origin, other, folder)
    size = f"{count:,} samples, progress told {len(told)} times"
    return [
        (
            "60 runs as a data package, out", f"{out_s:.2f} s", f"zip of its bytes alone {zip_s:.2f} s", "8 s",
            out_s <= MOST_OUT_S,
        ),
        (
            "the same package in", f"{in_s:.2f} s", size, "12 s", in_s <= MOST_IN_S,
        ),
        (
            f"their finding as a PDF, {pages} pages", f"{pdf_s:.2f} s",
            f"median of 5; 20 at that pace {pdf_s / pages * PAGES:.2f} s",
            "6 s for 20", pdf_s / pages * PAGES <= MOST_PDF_S,
        ),
        ("peak memory of out, in and PDF", f"{memory:.0f} MB", "a process of its own", "500 MB", memory <= MOST_MB),
    ]  # fmt: skip


def _memory(folder: Path) -> None:
    origin, target = Database(os.environ["BENCH_FROM"]), Database(os.environ["BENCH_INTO"])
    package = folder / "memory.zip"
    export_package(origin, package)
    import_package(target, package)
    made_pdf(target)
    print(highest_resident_mb())


if __name__ == "__main__":
    if sys.argv[1:2] == ["--memory"]:
        _memory(Path(sys.argv[2]))
        sys.exit(0)
    found = results()
    for row in found:
        line(*row)
    sys.exit(0 if all(r[-1] for r in found) else 1)
