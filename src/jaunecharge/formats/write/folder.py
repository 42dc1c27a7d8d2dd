"""A run as a folder of open files: the tables of the command line, and the reading."""

import io
import json
import re
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from ...core.reading import Reading
from .csv_xlsx import Cell, csv_text
from .report import document


@dataclass(frozen=True)
class RemarkOut:
    """A note, or the caption of a picture: minute after placing where it has one; at : ISO 8601."""

    minute: float | None
    text: str
    by: str
    at: str


@dataclass(frozen=True)
class PictureOut:
    """A picture with its caption, the name it came under, and its bytes."""

    remark: RemarkOut
    name: str
    content: bytes


@dataclass(frozen=True)
class Beside:
    """Attachments of a run besides its log: notes, pictures, and the files that it was read from."""

    notes: Sequence[RemarkOut] = ()
    pictures: Sequence[PictureOut] = ()
    originals: Sequence[tuple[str, bytes]] = ()


def run_archive(reading: Reading, case: dict[str, Any], beside: Beside = Beside()) -> bytes:
    """A ZIP: meter, battery, heat, phone and light as CSV, case and reading as JSON, notes, pictures, the files as they
    came."""
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
        if len(log.besides.time_s):
            rows = list(zip(log.besides.time_s.tolist(), log.besides.watts.tolist(), strict=True))
            archive.writestr("phone.csv", csv_text(("time_s", "phone watts (W)"), rows))
        if log.besides.lights:
            rows = [(t_s, "on" if lit else "off") for t_s, lit in log.besides.lights]
            archive.writestr("light.csv", csv_text(("time_s", "charger's light"), rows))
        if log.besides.charging:
            rows = [(t_s, "yes" if charges else "no") for t_s, charges in log.besides.charging]
            archive.writestr("charging.csv", csv_text(("time_s", "phone says it charges"), rows))
        if len(log.besides.humidity_s):
            rows = list(zip(log.besides.humidity_s.tolist(), log.besides.humidity.tolist(), strict=True))
            archive.writestr("humidity.csv", csv_text(("time_s", "room humidity (%)"), rows))
        if log.socket is not None:
            rows = list(zip(log.socket.time_s.tolist(), log.socket.power_w.tolist(), strict=True))
            archive.writestr("socket.csv", csv_text(("time_s", "watts"), rows))
        archive.writestr("case.json", json.dumps(case, indent=1, ensure_ascii=False))
        archive.writestr("reading.json", json.dumps(document(reading), indent=1, ensure_ascii=False))
        if beside.notes:
            rows = [(n.minute, n.text, n.by, n.at) for n in beside.notes]
            archive.writestr("notes.csv", csv_text(("minute", "note", "by", "at"), rows))
        if beside.pictures:
            names = numbered([p.name for p in beside.pictures])
            pictures = list(zip(names, beside.pictures, strict=True))
            rows = [(name, p.remark.minute, p.remark.text, p.remark.by, p.remark.at) for name, p in pictures]
            archive.writestr("pictures.csv", csv_text(("file", "minute", "caption", "by", "at"), rows))
            for name, picture in pictures:
                archive.writestr(f"pictures/{name}", picture.content)
        for name, (_, content) in zip(numbered([n for n, _ in beside.originals]), beside.originals, strict=True):
            archive.writestr(f"originals/{name}", content)
    return out.getvalue()


def numbered(names: Sequence[str]) -> list[str]:
    """Names for files side by side: plain, without a path, and each only once."""
    unique: list[str] = []
    for name in names:
        plain = re.sub(r"[^\w. -]", "_", name.replace("\\", "/").rpartition("/")[2]).strip(". ") or "file"
        stem, dot, end = plain.rpartition(".")
        n, wanted = 1, plain
        while wanted.casefold() in (f.casefold() for f in unique):
            n += 1
            wanted = f"{stem} {n}{dot}{end}" if dot else f"{plain} {n}"
        unique.append(wanted)
    return unique
