"""Levels that a phone reports by itself, as they are stored on its lane: each once, where it belongs in time."""

import datetime as dt
import hashlib
import secrets
import uuid
from dataclasses import dataclass

from ..core.bench import Stamped, phone_side_w, stamped
from ..core.log import PHONE
from ..store import bench_models as b
from ..store.bench import lanes as store
from ..store.bench.arriving import Batch, Row
from ..store.bench.entries import lane_s
from ..store.database import Database
from ..store.errors import LaneOver, NotThere

SOURCE = "phone"
BACK = "back"


@dataclass(frozen=True)
class Report:
    """A level as a phone sends it: at : when it was read, sent : when it was sent, both by the phone's clock; id :
    by which it counts once, else its time."""

    percent: float
    celsius: float | None = None
    watts: float | None = None
    mv: float | None = None
    ma: float | None = None
    charging: bool | None = None
    at: dt.datetime | None = None
    sent: dt.datetime | None = None
    id: str = ""


def batch_of(lane: b.Lane, report: Report, arrived: dt.datetime) -> tuple[Batch, Stamped]:
    """A report as it is stored, and where it belongs in time."""

    def since_opened(at: dt.datetime | None) -> float | None:
        return None if at is None else (at - lane.opened_at).total_seconds()

    arrived_s = (arrived - lane.opened_at).total_seconds()
    stamp = stamped(arrived_s, since_opened(report.at), since_opened(report.sent))
    row = Row(
        _number(report), stamp.at_s * lane.speed, watts=phone_side_w(report.watts, report.mv, report.ma),
        celsius=report.celsius, position=BACK if report.celsius is not None else "", percent=report.percent,
        point=PHONE, charging=report.charging,
    )  # fmt: skip
    return Batch(lane.id, SOURCE, lane_s(lane, arrived), (row,), lane.speed, timed=True), stamp


def _number(report: Report) -> int:
    """A number by which what is sent twice is known; another each time where nothing says that it is the same."""
    if report.id:
        said = f"id {report.id}"
    elif report.at is not None:
        said = f"at {report.at.astimezone(dt.UTC).isoformat()} {report.percent:g}"
    else:
        said = secrets.token_hex(16)
    return int.from_bytes(hashlib.sha256(said.encode()).digest()[:8]) >> 2


def remark(database: Database, lane_id: uuid.UUID, stamp: Stamped, arrived: dt.datetime) -> None:
    """Say in the lane's log what is odd about a phone's clock: of each kind once."""
    if not stamp.said:
        return
    entry_id = uuid.uuid5(lane_id, f"clock of the phone\n{stamp.odd}")
    with database.session() as session:
        try:
            lane = store.lane_for_change(session, lane_id)
        except (LaneOver, NotThere):
            return
        store.add_entries(
            session, lane, [store.NewEntry("source", lane_s(lane, arrived), text=stamp.said, id=entry_id)], arrived
        )
