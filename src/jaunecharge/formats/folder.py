"""A run as a folder of open files: the tables of the command line, and the reading."""

import io
import json
import zipfile
from typing import Any

from ..core.reading import Reading
from .report import document
from .tables_out import Cell, csv_text


def run_archive(reading: Reading, case: dict[str, Any], notes: list[str], originals: list[tuple[str, bytes]]) -> bytes:
    """A ZIP with meter.csv, battery.csv, heat.csv, case.json, reading.json, notes, and the files as they came."""
    out = io.BytesIO()
    log = reading.log
    trace = log.trace
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        if trace.volts is not None and trace.amps is not None:
            columns = (trace.time_s.tolist(), trace.volts.tolist(), trace.amps.tolist())
            archive.writestr("meter.csv", csv_text(("time_s", "volts", "amps"), zip(*columns, strict=True)))
        elif trace.metered:
            archive.writestr(
                "meter.csv",
                csv_text(("time_s", "watts"), zip(trace.time_s.tolist(), trace.power_w.tolist(), strict=True)),
            )
        if log.readings is not None:
            pairs = zip(log.readings.time_s.tolist(), log.readings.percent.tolist(), strict=True)
            archive.writestr("battery.csv", csv_text(("time_s", "percent"), pairs))
        if log.heat is not None:
            surfaces = [*log.heat.surfaces, *([log.heat.ambient] if log.heat.ambient else [])]
            rows: list[tuple[Cell, ...]] = [
                (t, s.position, c) for s in surfaces for t, c in zip(s.time_s.tolist(), s.celsius.tolist(), strict=True)
            ]
            archive.writestr("heat.csv", csv_text(("time_s", "position", "celsius"), rows))
        archive.writestr("case.json", json.dumps(case, indent=1, ensure_ascii=False))
        archive.writestr("reading.json", json.dumps(document(reading), indent=1, ensure_ascii=False))
        if notes:
            archive.writestr("notes.csv", csv_text(("note",), [(n,) for n in notes]))
        for name, content in originals:
            archive.writestr(f"originals/{name}", content)
    return out.getvalue()
