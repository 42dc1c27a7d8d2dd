"""The demonstration's findings: what the association publishes of its bunk rooms, and what it asks. All invented."""

import datetime as dt

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.factors import WIRED
from ..documents.finding import ClaimTypedDocument, DisclosedDocument, FindingDocument, ForeignDocument
from ..store import models as m
from ..store.finding_models import Finding
from ..store.findings.findings import add_finding
from .plan import LENDING, ORIGIN, QUESTION, WARDEN

FAN = "Does the fan of the dock earn its noise?"
PACKS = ["Col bank 10", "Scree bank 5", "Cornice slim 20", "Moraine trail 27"]
CLAIMS = [
    ClaimTypedDocument(about="Cairn disc 15", text="20 to 35 % faster", against="Moraine magnet pad"),
    ClaimTypedDocument(about="Cairn disc 15", text="60 % in 45 minutes"),
    ClaimTypedDocument(about="Serac dock 15", text="never over 40 °C"),
    ClaimTypedDocument(about="Scree bank 5", text="2 charges of Ostrel Mini"),
]
FOREIGN = [
    ForeignDocument(
        what="Cairn disc 15 on Ostrel Max, 10 to 80 %", figure="71 min", source="Ridge Gear Review", date="spring 2026",
    )
]  # fmt: skip
DISCLOSED = [
    DisclosedDocument(label="Cairn disc 15", got="bought"), DisclosedDocument(label="Moraine magnet pad", got="bought"),
    DisclosedDocument(label="Serac dock 15, own fan", got="lent", note="by its maker, sent back"),
    DisclosedDocument(label="Cornice slim 20", got="bought"),
]  # fmt: skip


def add_hut_findings(session: Session, now: dt.datetime) -> None:
    """Draw the findings up, once."""
    if session.scalar(select(Finding.id).limit(1)) is not None:
        return
    plans = {p.question: p.id for p in session.scalars(select(m.Plan))}
    alone = session.scalars(select(m.Run).where(m.Run.origin == ORIGIN, m.Run.card_json.is_(None)))
    bare = [r for r in alone if r.factors.get("case") == "none" and r.factors.get("phone_state") == "idle"]
    fan = [r.id for r in bare if r.factors.get("charger") == "Serac dock 15"]
    discs = [r.id for r in bare if r.factors.get("charger") in {"Cairn disc 15", "Moraine magnet pad", WIRED}]
    documents = (
        FindingDocument(question=FAN, runs=fan, audience="association"),
        FindingDocument(question=LENDING, plan=plans.get(LENDING), packs=PACKS[:2], audience="association"),
        FindingDocument(
            question=QUESTION, runs=discs, plan=plans.get(QUESTION), packs=PACKS, audience="association", claims=CLAIMS,
            foreign=FOREIGN, disclosed=DISCLOSED,
        ),
    )  # fmt: skip
    for n, document in enumerate(documents):
        # The one that is complete stands first in the list.
        add_finding(session, document, now, WARDEN).created_at = now + dt.timedelta(seconds=n)
