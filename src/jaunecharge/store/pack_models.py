"""Table of the tests of battery packs."""

import datetime as dt
from typing import Any

from sqlalchemy import DateTime, Float, Index, LargeBinary, Text, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, deferred, mapped_column

from .models import Base, Id, Moment, own_id


class PackPlan(Base):
    """A plan of pack tests (`documents.pack_plan`); the latest that is not laid aside counts."""

    __tablename__ = "pack_plans"

    id: Id = own_id()
    document: Mapped[dict[str, Any]] = mapped_column(JSONB)
    by: Mapped[str] = mapped_column(Text, default="")
    at: Moment = mapped_column(DateTime(timezone=True))
    deleted_at: Mapped[dt.datetime | None] = mapped_column(DateTime(timezone=True))


class PackTest(Base):
    """A test of a pack, by the pack's label: its kind, what it says (`documents.pack_test`), and its logs, packed.

    From `delivered_wh` to `charges_high` stands what lists need of it, worked out by version `listed_version` of that:
    in columns, as thousands of tests are listed at once. No upper end of its charges: `charges_high` is empty."""

    __tablename__ = "pack_tests"
    __table_args__ = (Index("ix_pack_tests_listed", text("lower(pack)"), text("at DESC"), "id"),)

    id: Id = own_id()
    pack: Mapped[str] = mapped_column(Text, index=True)
    kind: Mapped[str] = mapped_column(Text)
    document: Mapped[dict[str, Any]] = mapped_column(JSONB)
    listed_version: Mapped[int] = mapped_column(default=0, server_default="0")
    delivered_wh: Mapped[float | None] = mapped_column(Float)
    expanded_wh: Mapped[float | None] = mapped_column(Float)
    at_least: Mapped[bool] = mapped_column(default=False, server_default="false")
    held_a: Mapped[float | None] = mapped_column(Float)
    held_v: Mapped[float | None] = mapped_column(Float)
    phone: Mapped[str] = mapped_column(Text, default="", server_default="")
    by_cord: Mapped[bool] = mapped_column(default=False, server_default="false")
    phone_wh: Mapped[float | None] = mapped_column(Float)
    charges: Mapped[float | None] = mapped_column(Float)
    charges_low: Mapped[float | None] = mapped_column(Float)
    charges_high: Mapped[float | None] = mapped_column(Float)
    charges_width: Mapped[float | None] = mapped_column(Float)
    log: Mapped[bytes | None] = deferred(mapped_column(LargeBinary))
    by: Mapped[str] = mapped_column(Text, default="")
    at: Moment = mapped_column(DateTime(timezone=True))
    deleted_at: Mapped[dt.datetime | None] = mapped_column(DateTime(timezone=True))
