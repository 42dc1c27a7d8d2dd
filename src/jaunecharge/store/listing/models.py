"""Narrow table of what lists of runs sort and filter by."""

import datetime as dt
import uuid
from typing import Any

from sqlalchemy import BigInteger, DateTime, Index, Sequence, Text, and_, func, literal_column, text
from sqlalchemy.dialects.postgresql import JSONB, UUID
from sqlalchemy.orm import Mapped, mapped_column

from ..models import Base

SORTED = (
    "at", "name", "minutes", "to_80", "hottest_c", "reads", "rise_k", "first_min", "throttled_min", "lost_min",
    "conditions",
)  # fmt: skip


class Listed(Base):
    """Line of a run that stands in the list, kept by a trigger of the database with whatever writes the run.

    `name` is what it is sorted by as phone and chain, `words` what is searched; `conditions` the stated airflow, case,
    phone state, start and adapter and the kind of the charger, as a JSON array; `factors_key` is equal for equal
    factors; the marks tell recordings apart. Figures are those of its summary, NULL where it has none: `peak_w` is the
    highest step of its ribbon, `room_c` the logged or else the stated room.
    """

    __tablename__ = "listing"
    __table_args__ = (
        *(Index(f"ix_listing_{column}", "simulated", column, "run_id") for column in SORTED),
        Index("ix_listing_phone", func.lower(text("phone")), "created_at", "run_id"),
        Index("ix_listing_began", func.lower(text("phone")), "started_at", "run_id"),
        Index("ix_listing_charger", func.lower(text("charger")), "created_at", "run_id"),
        Index("ix_listing_factors_key", "factors_key"),
        Index("ix_listing_meter_mark", "meter_mark", postgresql_where=text("meter_mark <> ''")),
        Index("ix_listing_levels_mark", "levels_mark", postgresql_where=text("levels_mark <> ''")),
        Index("ix_listing_words", "words", postgresql_using="gin", postgresql_ops={"words": "gin_trgm_ops"}),
    )

    run_id: Mapped[uuid.UUID] = mapped_column(UUID(as_uuid=True), primary_key=True)
    at: Mapped[dt.datetime] = mapped_column(DateTime(timezone=True))
    created_at: Mapped[dt.datetime] = mapped_column(DateTime(timezone=True))
    started_at: Mapped[dt.datetime | None] = mapped_column(DateTime(timezone=True))
    label: Mapped[str] = mapped_column(Text)
    phone: Mapped[str] = mapped_column(Text)
    charger: Mapped[str] = mapped_column(Text)
    name: Mapped[str] = mapped_column(Text)
    simulated: Mapped[bool]
    spot: Mapped[bool]
    void: Mapped[bool]
    heat: Mapped[bool]
    factors_key: Mapped[str] = mapped_column(Text)
    conditions: Mapped[str] = mapped_column(Text)
    meter_mark: Mapped[str] = mapped_column(Text)
    levels_mark: Mapped[str] = mapped_column(Text)
    reads: Mapped[str] = mapped_column(Text)
    minutes: Mapped[float | None]
    peak_w: Mapped[float | None]
    to_80: Mapped[float | None]
    hottest_c: Mapped[float | None]
    rise_k: Mapped[float | None]
    first_min: Mapped[float | None]
    throttled_min: Mapped[float | None]
    lost_min: Mapped[float | None]
    room_c: Mapped[float | None]
    from_percent: Mapped[float | None]
    to_percent: Mapped[float | None]
    words: Mapped[str] = mapped_column(Text)
    line_no: Mapped[int] = mapped_column(BigInteger)


LISTED = Listed.spot.is_(False)
MEASURED = LISTED, Listed.void.is_(False), Listed.simulated.is_(False)
"""Lines of runs that are compared."""

TABLED = *MEASURED, Listed.phone != literal_column("''"), Listed.charger != literal_column("''")
"""Lines that the table of phones × chargers is made of: without parameters, so that the database knows the conditions
for those of its indexes."""

# What is counted over all lines is counted in an index alone.
Index("ix_listing_counted", Listed.void, Listed.simulated, Listed.conditions, postgresql_where=LISTED)
Index("ix_listing_rooms", Listed.void, Listed.room_c, postgresql_where=LISTED)
Index("ix_listing_measured", Listed.phone, Listed.charger, Listed.line_no, postgresql_where=and_(*MEASURED))
Index("ix_listing_tabled", Listed.conditions, postgresql_where=and_(*TABLED))
Index("ix_listing_tabled_rooms", Listed.room_c, postgresql_where=and_(*TABLED))

LINES = Sequence("listing_lines", metadata=Base.metadata)
"""Number of every line that was written: whatever rests on some of them is new where their last is."""


class KeptColumn(Base):
    """A phone of the table of phones × chargers, made of its runs in a state of them."""

    __tablename__ = "phone_columns"

    phone: Mapped[str] = mapped_column(Text, primary_key=True)
    state: Mapped[str] = mapped_column(Text)
    document: Mapped[dict[str, Any]] = mapped_column(JSONB)
