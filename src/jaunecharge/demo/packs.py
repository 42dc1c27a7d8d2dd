"""Tests of the packs of the hut: one good, one that promises too much, one of a poor coil, one that trips; invented."""

import datetime as dt
from typing import Any

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.arrays import Array
from ..core.kit import Pack
from ..core.log import PowerTrace, power_trace
from ..documents.pack_test import (
    ChargeRead,
    GivenRead,
    GivenReading,
    Kind,
    LoadKept,
    LoadNotesRead,
    PackTestDocument,
    RechargeRead,
    StandbyRead,
)
from ..store.errors import NotThere
from ..store.pack_models import PackTest
from ..store.packs import giver_of, keep, of_pack, pack_of
from .plan import WARDEN

STEP_S = 5.0
GIVER = "Tarn 9"

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


def _charge(phone: str, pack: str, levels: tuple[float, float], **more: Any) -> dict[str, Any]:
    before, after = pack.split(" to ")
    return {
        "charge": ChargeRead(
            phone=phone, pack_before=before, pack_after=after, phone_before=levels[0], phone_after=levels[1], **more
        )
    }  # fmt: skip


TYPED: tuple[tuple[str, float, Kind, dict[str, Any]], ...] = (
    ("Col bank 10", 11, "charge", _charge("Ostrel Max", "100 to 4", (5, 100), minutes=171)),
    ("Col bank 10", 9, "charge", _charge("Ostrel Max", "100 to 30", (5, 100), by_cord=True, minutes=96)),
    ("Scree bank 5", 6, "charge", _charge("Ostrel Mini", "4 lamps to 0 lamps", (5, 62), minutes=140)),
    ("Scree bank 5", 5, "charge", _charge("Ostrel Mini", "4 lamps to 1 lamps", (10, 80), by_cord=True, minutes=78)),
    ("Cornice slim 20", 4.4, "charge", _charge("Ostrel Max", "100 to 47", (8, 100), by_cord=True, minutes=101)),
    ("Cornice slim 20", 4.3, "charge", _charge("Ostrel Mini", "47 to 0", (5, 100), by_cord=True, minutes=84)),
    ("Col bank 10", 10, "recharge", {
        "recharge": RechargeRead(before="0", after="100", minutes=196, wh=41.3, watts=17.6, volts=9.02, full=True,
                                 accuracy_percent=0.5)
    }),
    ("Scree bank 5", 2, "standby", {"standby": StandbyRead(first="4 lamps", last="3 lamps", days=26)}),
)  # fmt: skip
"""Pack, days ago, kind, and what was typed."""

GIVEN = GivenRead(
    taker="Ostrel Mini",
    readings=[
        GivenReading(minute=m, giver=g, taker=t)
        for m, g, t in ((0, 84, 12), (15, 78, 17), (30, 71, 23), (45, 65, 29), (60, 58, 34), (75, 56, 35), (90, 56, 35))
    ],
    hottest_c=45.8,
)


def add_hut_packs(session: Session, now: dt.datetime) -> int:
    """Add the tests of the packs that stand on the shelf, once; how many."""
    if session.scalar(select(PackTest.id).limit(1)) is not None:
        return 0
    count = 0
    for n, (label, days, loads) in enumerate(LOADS):
        if (pack := _pack(session, label)) is not None:
            file = LoadKept(delivered_wh=None, expanded_wh=None, at_least=False, file=f"load {label}.csv")
            notes = LoadNotesRead(restart="by its button") if label.startswith("Moraine") else LoadNotesRead()
            document = of_pack("load", pack, load=file, notes=notes)
            keep(session, label, document, now - dt.timedelta(days=days), WARDEN, [_log(loads, n)])
            count += 1
    for label, ago, kind, facts in TYPED:
        if (pack := _pack(session, label)) is not None:
            keep(session, label, of_pack(kind, pack, **facts), now - dt.timedelta(days=ago), WARDEN)
            count += 1
    try:
        giver = giver_of(session, GIVER)
    except NotThere:
        return count
    given = PackTestDocument(kind="phone_to_phone", rated_mah=giver.capacity_mah, cell_v=giver.nominal_v, given=GIVEN)
    keep(session, giver.label, given, now - dt.timedelta(days=3), WARDEN)
    return count + 1


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
