"""Table of the tests of battery packs."""

import datetime as dt
from typing import Any

from sqlalchemy import DateTime, Index, LargeBinary, Text, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, deferred, mapped_column

from .models import Base, Id, Moment, own_id


class PackTest(Base):
    """A test of a pack, by the pack's label: what kind (load, charge), what it says (`documents.pack_test`), and of a
    load test its log, packed."""

    __tablename__ = "pack_tests"
    __table_args__ = (Index("ix_pack_tests_listed", text("lower(pack)"), text("at DESC"), "id"),)

    id: Id = own_id()
    pack: Mapped[str] = mapped_column(Text, index=True)
    kind: Mapped[str] = mapped_column(Text)
    document: Mapped[dict[str, Any]] = mapped_column(JSONB)
    log: Mapped[bytes | None] = deferred(mapped_column(LargeBinary))
    by: Mapped[str] = mapped_column(Text, default="")
    at: Moment = mapped_column(DateTime(timezone=True))
    deleted_at: Mapped[dt.datetime | None] = mapped_column(DateTime(timezone=True))
