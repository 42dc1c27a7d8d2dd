"""A lane of a pack is ended: the test that it closes into, beside the run of its phone, or alone."""

import datetime as dt

from sqlalchemy.orm import Session

from ...core.bench import Entered, LevelEntered, given_readings, level_before, levels_around, pack_levels
from ...core.errors import CannotRead
from ...core.kit import Pack, Phone
from ...core.log import CheckIns
from ...core.reading import RunLog
from ...core.units import MINUTE_S
from ...documents.case import Meter
from ...documents.pack_test import (
    ChargeRead,
    GivenRead,
    GivenReading,
    LevelRead,
    LoadKept,
    LoadNotesRead,
    PackTestDocument,
    RechargeRead,
)
from .. import bench_models as b
from .. import models as m
from ..errors import NotThere
from ..kit import by_label, item_of
from ..pack_models import PackTest
from ..packs import keep, of_pack, pack_of

FILE = "the bench"


def keep_pack_alone(
    session: Session, lane: b.Lane, log: RunLog | None, entered: list[Entered], now: dt.datetime, by: str
) -> PackTest:
    """The test of a pack alone that a lane has logged: under load, or being filled.

    Raises
    ------
    CannotRead
        If hardly anything was logged, or it is no such test.
    """
    name, trace = lane.name.lower(), None if log is None or not log.trace.metered else log.trace
    warm = None if log is None or log.heat is None else log.heat.phone()
    if trace is None:
        mend = f"type what the meter shows at two moments at least, as {name} 5.05v 1.0a; or end it as void"
        raise CannotRead(f"hardly anything was logged on lane {lane.name}", mend, file="line")
    pack, levels = pack_of(session, lane.pack), pack_levels(entered)
    start_s = lane.placed_s or trace.start_s
    meter = Meter.model_validate(lane.case.meter.model_dump())
    if lane.kind == "load":
        if trace.volts is None or trace.amps is None:
            raise CannotRead("watts alone show no load test", "log volts and amps; or end it as void", file="line")
        document = of_pack(
            "load", pack, meter=meter, notes=_notes(entered, levels, start_s),
            load=LoadKept(delivered_wh=None, expanded_wh=None, at_least=False, file=FILE),
        )  # fmt: skip
    else:
        first = level_before(levels, start_s)
        before = "" if first is None else first.text
        after = levels[-1].text if levels and levels[-1].t_s > start_s else ""
        document = of_pack("recharge", pack, meter=meter, recharge=RechargeRead(before=before, after=after, file=FILE))
    heat = None if warm is None or lane.kind != "load" else (warm.time_s, warm.celsius)
    return keep(session, pack.label, document, now, by, [trace], heat)


def _notes(entered: list[Entered], levels: list[LevelEntered], start_s: float) -> LoadNotesRead:
    back = [e.item.text for e in entered if e.item.kind == "came back"]
    shown = [LevelRead(minute=max(0.0, (x.t_s - start_s) / MINUTE_S), level=x.text) for x in levels]
    return LoadNotesRead.model_validate({"restart": back[-1] if back else "", "levels": shown})


def keep_beside_run(
    session: Session, lane: b.Lane, run: m.Run, check_ins: CheckIns | None, entered: list[Entered], now: dt.datetime,
    by: str,
) -> tuple[PackTest | None, str]:  # fmt: skip
    """The test of the pack, or of the phone that gave, beside the run of the phone that took; and what is missing where
    there is none."""
    if lane.kind not in {"pack charge", "phone to phone"} or lane.placed_s is None:
        return None, ""
    levels = pack_levels(entered)
    around = levels_around(levels, lane.placed_s)
    if around is None or check_ins is None or len(check_ins) < 2:
        whose = "the pack's level" if lane.kind == "pack charge" else "the giving phone's level"
        return None, f"{whose} was not logged before and after: what it gave is not told"
    try:
        document, label = _beside(session, lane, run, check_ins, levels, around)
        return keep(session, label, document, now, by), ""
    except (CannotRead, NotThere) as error:
        return None, f"no test of {lane.pack} can be made of it: {error}"


def _beside(
    session: Session, lane: b.Lane, run: m.Run, check_ins: CheckIns, levels: list[LevelEntered],
    around: tuple[LevelEntered, LevelEntered],
) -> tuple[PackTestDocument, str]:  # fmt: skip
    assert lane.placed_s is not None
    piece = by_label(session, lane.pack)
    giver = None if piece is None else item_of(piece)
    phone = lane.factors.get("phone", "")
    minutes = (check_ins.time_s[-1] - lane.placed_s) / MINUTE_S
    if isinstance(giver, Pack):
        charge = ChargeRead(
            phone=phone, pack_before=around[0].text, pack_after=around[1].text,
            phone_before=float(check_ins.percent[0]), phone_after=float(check_ins.percent[-1]),
            by_cord=lane.factors.get("adapter", "") == giver.label, minutes=max(0.1, minutes), run=str(run.id),
        )  # fmt: skip
        return of_pack("charge", giver, charge=charge), giver.label
    if isinstance(giver, Phone):
        points = list(zip(check_ins.time_s.tolist(), check_ins.percent.tolist(), strict=True))
        rows = given_readings(levels, points, lane.placed_s)
        if len(rows) < 2:
            raise CannotRead("both phones were not read at two moments", "type b pack 71 with each check-in")
        given = GivenRead(taker=phone, readings=[GivenReading(minute=m_, giver=g, taker=t) for m_, g, t in rows])
        return PackTestDocument(
            kind="phone_to_phone", rated_mah=giver.capacity_mah, cell_v=giver.nominal_v, given=given
        ), giver.label
    raise NotThere(f"{lane.pack} is not on the shelf")
