"""Tests of the packs of the hut: one good, one that promises too much, one of a poor coil, one that trips; invented."""

import datetime as dt

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.arrays import Array
from ..core.kit import Pack
from ..core.log import PowerTrace, power_trace
from ..documents.case import Meter
from ..documents.pack_test import ChargeRead
from ..store.errors import NotThere
from ..store.pack_models import PackTest
from ..store.packs import add_charge, add_load, pack_of
from .plan import WARDEN

STEP_S = 5.0

LOADS: tuple[tuple[str, int, tuple[tuple[float, float, float], ...]], ...] = (
    ("Col bank 10", 12, ((60, 5.12, 0.0), (600, 5.09, 0.5), (600, 5.06, 1.0), (10_050, 5.0, 2.0), (120, 0.0, 0.0))),
    ("Cornice slim 20", 10, ((60, 5.14, 0.0), (300, 5.06, 0.5), (300, 4.98, 1.0), (14_300, 4.82, 2.0), (90, 0.0, 0.0))),
    (
        "Moraine trail 27", 8,
        ((60, 20.1, 0.0), *((180, 20.1 - 0.11 * a, a) for a in (0.5, 1.0, 1.5, 2.0, 2.5, 3.0, 3.5, 4.1)),
         (5, 19.6, 4.4), (120, 0.0, 0.0)),
    ),
    ("Moraine trail 27", 7, ((60, 20.1, 0.0), (6_200, 19.85, 2.25), (90, 0.0, 0.0))),
)  # fmt: skip
"""Pack, days ago, and its loads: seconds, volts, amps."""

CHARGES: tuple[tuple[str, int, ChargeRead], ...] = (
    ("Col bank 10", 11, ChargeRead(
        phone="Ostrel Max", pack_before="100", pack_after="4", phone_before=5,
        phone_after=100,
    )),
    ("Col bank 10", 9, ChargeRead(
        phone="Ostrel Max", pack_before="100", pack_after="30", phone_before=5,
        phone_after=100, by_cord=True,
    )),
    ("Scree bank 5", 6, ChargeRead(
        phone="Ostrel Mini", pack_before="100", pack_after="0", phone_before=5,
        phone_after=62,
    )),
    ("Scree bank 5", 5, ChargeRead(
        phone="Ostrel Mini", pack_before="4 lamps", pack_after="1 lamps", phone_before=10,
        phone_after=80, by_cord=True,
    )),
)  # fmt: skip


def add_hut_packs(session: Session, now: dt.datetime) -> int:
    """Add the tests of the packs that stand on the shelf, once; how many."""
    if session.scalar(select(PackTest.id).limit(1)) is not None:
        return 0
    count = 0
    for n, (label, days, loads) in enumerate(LOADS):
        if (pack := _pack(session, label)) is not None:
            at = now - dt.timedelta(days=days)
            add_load(session, pack, _log(loads, n), Meter(), f"load {label}.csv", at, WARDEN)
            count += 1
    for label, days, charge in CHARGES:
        if (pack := _pack(session, label)) is not None:
            add_charge(session, pack, charge, now - dt.timedelta(days=days), WARDEN)
            count += 1
    return count


def _pack(session: Session, label: str) -> Pack | None:
    try:
        return pack_of(session, label)
    except NotThere:
        return None


def _log(loads: tuple[tuple[float, float, float], ...], seed: int) -> PowerTrace:
    rng = np.random.default_rng([seed, 17])
    counts = [max(1, round(seconds / STEP_S)) for seconds, _, _ in loads]
    level: Array = np.repeat(np.array([v for _, v, _ in loads], dtype=np.float64), counts)
    drawn: Array = np.repeat(np.array([a for _, _, a in loads], dtype=np.float64), counts)
    volts: Array = np.round(level + rng.normal(0.0, 0.004, len(level)) * (level > 0), 3)
    noise: Array = rng.normal(0.0, 0.001, len(drawn))
    amps: Array = np.maximum(0.0, drawn + np.where(drawn > 0, noise, 0.0))
    time_s: Array = np.arange(len(level), dtype=np.float64) * STEP_S
    return power_trace(time_s, volts * amps, volts, amps)
