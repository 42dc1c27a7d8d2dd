"""Tests of packs as files: JSON with every log, to be read back in to the same; tables for spreadsheets."""

import datetime as dt
import json
import uuid
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from pydantic import ValidationError

from ..core.arrays import Array
from ..core.errors import CannotRead
from ..core.labels import label as checked_label
from ..core.log import PowerTrace, power_trace
from ..core.units import MINUTE_S
from ..documents.document import said
from ..documents.pack_reading import short_words
from ..documents.pack_test import PackTestDocument
from .write.csv_xlsx import Cell

FORMAT, VERSION = "pack tests", 1
MOST_TESTS, MOST_SAMPLES, MOST_FIGURE = 20_000, 2_000_000, 1e10


@dataclass(frozen=True)
class TestOut:
    """A test as it leaves and comes back: its id, the label of its pack, what it says, its logs."""

    id: uuid.UUID
    pack: str
    at: dt.datetime
    by: str
    document: PackTestDocument
    logs: tuple[PowerTrace, ...] = ()


def tests_json(tests: Iterable[TestOut]) -> str:
    """Tests as a JSON document, the same tests to the same text."""
    rows = [
        {
            "id": str(t.id), "pack": t.pack, "at": t.at.astimezone(dt.UTC).isoformat(), "by": t.by,
            "document": t.document.kept(), "logs": [_log(trace) for trace in t.logs],
        }
        for t in sorted(tests, key=lambda t: (t.at, str(t.id)))
    ]  # fmt: skip
    return json.dumps({"format": FORMAT, "version": VERSION, "tests": rows}, ensure_ascii=False, allow_nan=False)


def _log(trace: PowerTrace) -> dict[str, list[float]]:
    columns = {"time_s": trace.time_s, "watts": trace.power_w, "volts": trace.volts, "amps": trace.amps}
    return {name: values.tolist() for name, values in columns.items() if values is not None}


def is_tests_json(head: str) -> bool:
    """Whether a text begins as tests that left as JSON."""
    return head.lstrip("\ufeff \n\t").startswith("{") and f'"{FORMAT}"' in head[:200]


def tests_from_json(text: str, name: str) -> tuple[list[TestOut], list[str]]:
    """Tests from JSON, and what was left out, each with its number and why; one test can spoil only itself.

    Raises
    ------
    CannotRead
        If it is no such document.
    """
    try:
        document = json.loads(text.removeprefix("\ufeff"))
    except (ValueError, RecursionError) as error:
        raise CannotRead("it is not JSON", "export it again", file=name) from error
    listed = document.get("tests") if isinstance(document, dict) else None
    if not isinstance(listed, list) or document.get("format") != FORMAT:
        raise CannotRead("it holds no tests of packs", "export them as JSON under Packs", file=name)
    if len(listed) > MOST_TESTS:
        raise CannotRead(f"it holds {len(listed)} tests", f"at most {MOST_TESTS} at once", file=name)
    tests: list[TestOut] = []
    left_out: list[str] = []
    for number, raw in enumerate(listed, start=1):
        try:
            tests.append(_test(raw))
        except CannotRead as error:
            left_out.append(f"test {number}: {error.what}: {error.mend}")
    return tests, left_out


def _test(raw: Any) -> TestOut:
    if not isinstance(raw, dict):
        raise CannotRead("it is no test", "export it again")
    try:
        test_id, at = uuid.UUID(str(raw.get("id"))), dt.datetime.fromisoformat(str(raw.get("at")))
    except ValueError as error:
        raise CannotRead("its id or its moment is none", "export it again") from error
    if at.tzinfo is None or not 1970 <= at.year <= 2200:
        raise CannotRead("its moment has no offset from UTC, or lies nowhere", "export it again")
    try:
        document = PackTestDocument.read(raw["document"] if isinstance(raw.get("document"), dict) else {})
    except (ValidationError, TypeError, ValueError) as error:
        what, mend = said(error) if isinstance(error, ValidationError) else ("its document is none", "export it again")
        raise CannotRead(what, mend) from error
    logs = tuple(_trace(log) for log in (raw.get("logs") or []))
    return TestOut(
        test_id, checked_label(str(raw.get("pack", ""))[:200]), at, str(raw.get("by", ""))[:200].replace("\0", ""),
        document, logs,
    )  # fmt: skip


def _trace(raw: Any) -> PowerTrace:
    if not isinstance(raw, dict):
        raise CannotRead("a log of it is none", "export it again")

    def column(name: str) -> Array | None:
        if name not in raw:
            return None
        try:
            values: Array = np.asarray(raw[name], dtype=np.float64)
        except (TypeError, ValueError) as error:
            raise CannotRead(f"its {name} are no figures", "export it again") from error
        if (
            values.ndim != 1
            or len(values) > MOST_SAMPLES
            or not np.isfinite(values).all()
            or np.abs(values).max() > MOST_FIGURE
        ):
            raise CannotRead(f"its {name} are no column of figures", "export it again")
        return values

    time_s, watts, volts, amps = (column(n) for n in ("time_s", "watts", "volts", "amps"))
    if time_s is None or watts is None or any(c is not None and len(c) != len(time_s) for c in (watts, volts, amps)):
        raise CannotRead("the columns of its log differ in length", "export it again")
    return power_trace(time_s, watts, volts, amps)


COLUMNS = (
    "pack", "kind", "made at", "signed by", "in words", "rated, mAh", "cells, V", "rated, Wh", "delivered, Wh",
    "± (k = 2), Wh", "at least", "held, A", "let go at, A", "phone", "way", "pack before", "pack after",
    "phone before, %", "phone after, %", "minutes", "taken, Wh", "in, Wh", "out, Wh", "days", "id",
)  # fmt: skip


def table_row(test: TestOut) -> list[Cell]:
    """A test as a row of a spreadsheet."""
    d = test.document
    load, charge, recharge, passed, standby = d.load, d.charge, d.recharge, d.passed, d.standby
    minutes = (
        (charge.minutes if charge else None)
        or (recharge.minutes if recharge else None)
        or (passed.minutes if passed else None)
        or (d.seen.minutes if d.seen else None)
        or (_span_min(test.logs) if load else None)
    )
    return [
        test.pack, d.kind, test.at.astimezone(dt.UTC).isoformat(), test.by, short_words(d),
        d.rated_mah, d.cell_v, round(d.rating().wh, 4),
        load.delivered_wh if load else None, load.expanded_wh if load else None,
        None if load is None else "yes" if load.at_least else "no",
        load.held_a if load else None, load.let_go_a if load else None,
        charge.phone if charge else d.given.taker if d.given else None,
        None if charge is None else "cord" if charge.by_cord else "coil",
        charge.pack_before if charge else recharge.before if recharge else standby.first if standby else None,
        charge.pack_after if charge else recharge.after if recharge else standby.last if standby else None,
        charge.phone_before if charge else None, charge.phone_after if charge else None, minutes,
        recharge.wh if recharge else None, passed.in_wh if passed else None, passed.out_wh if passed else None,
        standby.days if standby else None, str(test.id),
    ]  # fmt: skip


def _span_min(logs: Sequence[PowerTrace]) -> float | None:
    return (logs[0].end_s - logs[0].start_s) / MINUTE_S if logs else None
