"""Table of findings."""

import datetime as dt
import uuid
from typing import Any

from sqlalchemy import DateTime, Text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from ..documents.finding import DraftDocument, FindingDocument
from .kept import Kept
from .models import Base, Id, Moment, made_at, own_id


class Finding(Base):
    """A finding: what was asked (`document`), what was drawn up from what (`draft`, `sources`: id or label of each with
    its mark), when, by whom and by which version; `revision` rises with every change, `deleted_at` is a tombstone."""

    __tablename__ = "findings"

    id: Id = own_id()
    question: Mapped[str] = mapped_column(Text)
    document_json: Mapped[dict[str, Any]] = mapped_column("document", JSONB)
    draft_json: Mapped[dict[str, Any]] = mapped_column("draft", JSONB)
    sources: Mapped[dict[str, Any]] = mapped_column(JSONB, default=dict)
    software: Mapped[str] = mapped_column(Text)
    drawn_at: Moment = mapped_column(DateTime(timezone=True))
    drawn_by: Mapped[str] = mapped_column(Text, default="")
    revision: Mapped[int] = mapped_column(default=1)
    created_by: Mapped[str] = mapped_column(Text, default="")
    created_at: Moment = made_at()
    deleted_at: Mapped[dt.datetime | None] = mapped_column(DateTime(timezone=True))
    deleted_by: Mapped[str] = mapped_column(Text, default="")

    document = Kept("document_json", FindingDocument)
    draft = Kept("draft_json", DraftDocument)


class FindingLink(Base):
    """A link to a finding (`finding_id`, which a restored backup may leave without one) that shows it to whoever has
    it, until it is taken back. In no backup and in no package."""

    __tablename__ = "finding_links"

    finding_id: Mapped[uuid.UUID] = mapped_column(primary_key=True)
    token: Mapped[str] = mapped_column(Text, unique=True)
    made_at: Moment = mapped_column(DateTime(timezone=True))
    made_by: Mapped[str] = mapped_column(Text, default="")
