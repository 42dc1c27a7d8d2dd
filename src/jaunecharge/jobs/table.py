"""The table of phones × chargers, forecast from the shelf."""

import hashlib
import json
import uuid
from typing import Any

from sqlalchemy.orm import Session

from ..core.forecast import Coverage, Row, chargers_of, cover
from ..core.kit import Adapter, Cable, Case, Phone
from ..core.simulator import Circumstances
from ..documents.coverage import BetweenDocument, CoverageCellDocument, CoverageDocument, CoverageRow
from ..store import kit as store
from ..store import models as m
from ..store.jobs.models import Job
from .doing import Doing


def key_of(session: Session, args: dict[str, Any]) -> str:
    """All that a table rests on: the shelf, and what was chosen."""
    used = [(str(p.id), p.facts, p.fit) for p in store.shelf(session)]
    text = json.dumps([used, args], sort_keys=True, default=str)
    return f"table {hashlib.sha256(text.encode()).hexdigest()}"


def make_table(doing: Doing) -> dict[str, Any]:
    """Forecast every charger with every phone."""
    args = doing.args
    with doing.database.session() as session:
        key, pieces = key_of(session, args), store.shelf(session)
        adapter, cable, case = (_chosen(session, args[kind]) for kind in ("adapter", "cable", "case"))
    items = [store.item_of(p) for p in pieces]
    table = cover(
        chargers_of(items),
        [i for i in items if isinstance(i, Phone)],
        [adapter] if isinstance(adapter, Adapter) else [i for i in items if isinstance(i, Adapter)],
        cable if isinstance(cable, Cable) else None,
        Circumstances(**args["around"]),
        case if isinstance(case, Case) else None,
        {p.label: f for p in pieces if (f := store.fitted_of(p)) is not None},
        lambda fraction: doing.tell("forecasting", fraction),
    )
    with doing.last_step() as (session, result):
        # The shelf may have changed since it was asked for: the table is that of the shelf as it was read.
        session.get_one(Job, doing.id).key = key
        result["coverage"] = _document(table, pieces).model_dump(mode="json")
    return {}


def _chosen(session: Session, piece_id: str | None) -> object:
    return None if piece_id is None else store.item_of(store.get_piece(session, uuid.UUID(piece_id)))


def _document(table: Coverage, pieces: list[m.Kit]) -> CoverageDocument:
    ids = {p.label: p.id for p in pieces}

    def row_of(number: int, row: Row) -> CoverageRow:
        return CoverageRow(
            charger=None if row.charger is None else ids[row.charger.label],
            place=row.place,
            label=row.label,
            claimed_w=None if row.charger is None else row.charger.claimed_w,
            cells=[
                CoverageCellDocument(
                    phone=ids[cell.chain.phone.label],
                    adapter=None if cell.chain.adapter is None else ids[cell.chain.adapter.label],
                    delivered_w=BetweenDocument(
                        low=cell.forecast.delivered_w.low,
                        likely=cell.forecast.likely_w,
                        high=cell.forecast.delivered_w.high,
                    ),
                    to_80=BetweenDocument.of(cell.forecast.to[80]),
                    hottest_c=cell.forecast.hottest_c.likely or 0.0,
                    narrowest=cell.check.narrowest,
                    why=cell.check.narrow_link.why,
                    meets_claim=cell.meets_claim,
                    likely_hot=cell.likely_hot,
                    not_worth=cell.not_worth,
                    best=table.best[column] == number,
                )
                for column, cell in enumerate(table.cells[number])
            ],
        )

    return CoverageDocument(
        phones=[ids[p.label] for p in table.phones], rows=[row_of(i, row) for i, row in enumerate(table.rows)]
    )
