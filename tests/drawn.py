"""Subjects of drawings and reports, made by hand."""

import datetime as dt
import math

from jaunecharge.core.packs.walk import Stage
from jaunecharge.documents.finding import (
    ClaimRowDocument,
    DraftDocument,
    EditDocument,
    FindingBlock,
    FindingDocument,
    FindingRow,
    SentenceDocument,
    StatedDocument,
)
from jaunecharge.documents.ribbon import Mark, PaceMark, Reached, RibbonDocument
from jaunecharge.formats.drawings.subject import DrawnChain, DrawnLink, DrawnPack, DrawnPhone, DrawnRow, Subject
from jaunecharge.formats.report.content import ReportIn, UsedRun, Wording

DRAWN_AT = dt.datetime(2027, 3, 1, 18, 30, tzinfo=dt.UTC)


def band(minutes=100, watts=15.0, celsius=38.0, **more):
    steps = int(minutes)
    power = [round(watts * (1.0 if i < 0.7 * steps else 1.6 - i / steps), 2) for i in range(steps)]
    heat = [round(25 + (celsius - 25) * (1 - math.exp(-i / 15)), 2) for i in range(steps)]
    ticks = [Reached(percent=p, minute=minutes * (p - 10) / 90) for p in range(20, 101, 10)]
    return RibbonDocument(step_min=1.0, watts=power, celsius=heat, ticks=ticks, minutes=float(minutes), **more)


def paced(minutes=120):
    pace = [PaceMark(start=0, end=80, points_per_min=0.9), PaceMark(start=80, end=minutes, points_per_min=0.4)]
    return RibbonDocument(
        step_min=1.0, watts=[None] * minutes, celsius=None, ticks=[Reached(percent=50, minute=44)],
        minutes=float(minutes), pace=pace,
    )  # fmt: skip


def drawn_row(label="Disc", minutes=78.0, ribbon=None, **more):
    ribbon = ribbon or band(minutes / 0.78)
    checkins = tuple((float(m), min(100.0, 10.0 + m * 0.9)) for m in range(0, int(minutes) + 25, 5))
    reached = {50: (40.0, 44.0, 45.0), 80: (minutes - 4, minutes, minutes + 1)}
    facts = {"hottest": 38.0, "price": (45.0, "EUR"), "milestones": reached, **more}
    return DrawnRow(label, ribbon, checkins, minutes, 9.0, facts.pop("place", "1"), **facts)


def subject(rows=None, question="Which disc is fastest to 80 %?", **more):
    rows = rows or (
        drawn_row(), drawn_row("Pad", 140.0, place="2", hottest=31.0, price=(19.0, "EUR")),
        drawn_row("Old", 100.0, paced(), hottest=None, price=None),
    )  # fmt: skip
    phone = DrawnPhone("Ostrel Max", "15 W, magnetic", "no case, still air", (10.0, 80.0), tuple(rows))
    stages = (
        Stage("rated", "rated", 37.0, None, None, "printed"),
        Stage("out", "out by cord", 29.2, None, None, "measured"),
        Stage("coil", "at the coil", 24.0, 22.0, 26.0, "estimated"),
        Stage("phone", "in the phone", None, None, None, "unknown"),
    )
    chain = DrawnChain(
        "Disc with Ostrel Max",
        (DrawnLink("adapter", 20.0, 15.0, "Plug 20"), DrawnLink("charger", 15.0, 15.0), DrawnLink("phone", 60.0, 12.0)),
        "charger",
    )
    facts = {"packs": (DrawnPack("Col bank", stages),), "chains": (chain,), **more}
    return Subject(question, "Jaunecharge, 1 March 2027, 7 runs", (phone,), **facts)


def slipping(minutes=100):
    """A ribbon with a lost contact and a dip by heat."""
    marks = [Mark(what="contact", start=20, end=30), Mark(what="heat", start=50, end=60)]
    return band(minutes, marks=marks)


def sentence(key, words, *figures, basis=""):
    made = [
        StatedDocument(
            key=f"{key}{n}", text=t, kind="time", value=v, unit="min", low=v - 5, high=v + 5, of=["r1"], how=how
        )
        for n, (t, v, how) in enumerate(figures)
    ]  # fmt: skip
    return SentenceDocument(key=key, words=words, figures=made, basis=basis)


def report(question="Which disc is fastest to 80 %?", label="Disc", audience="buyer", changed=(), **more):
    answer = sentence(
        "a", f"*{label}* is fastest, in [1 h 18], [62 ± 13 min] sooner", ("1 h 18", 78.0, "Mean of 3 runs."),
        ("62 ± 13 min", 62.0, "Spread of a run 6 %."), basis="from 10 to 80 %",
    )  # fmt: skip
    verdict = sentence("verdict|x", "[62 ± 13 min] sooner than *Pad*", ("62 ± 13 min", 62.0, "As above."))
    best = [sentence(f"{k}|x", f"{k}: *{label}*") for k in ("fastest", "coolest", "thriftiest", "cheapest")]
    row = FindingRow(
        label=label, runs=["r1"], place="1", minutes=78.0, noise_min=9.0, hottest_c=38.0, energy_wh=None, price=45.0,
        currency="EUR", verdict=verdict,
    )  # fmt: skip
    block = FindingBlock(
        phone="Ostrel Max", tier="15 W, magnetic", where="no case", window=[10, 80], wired="46 min", rows=[row],
        best=best, alone=[],
    )  # fmt: skip
    claim = ClaimRowDocument(
        about=label, claim="20 to 35 % faster", by_maker=False, on="Ostrel Max", found="supported", reading="less time",
        sentence=sentence("c", "[44 %]", ("44 %", 44.0, "78 against 140 min.")),
    )  # fmt: skip
    draft = DraftDocument(
        answer=[answer], blocks=[block], packs=[sentence("p", f"*{label}*: not tested")], claims=[claim], foreign=[],
        method=[sentence("m", "3 runs, no case")], not_tested=[sentence("n", "Never tried: in a case")],
        limits=[sentence("l", "One phone stands for its tier")], cautions=[sentence("k", "Stop at swelling")], next=[],
        state="answered",
    )  # fmt: skip
    words = more.pop("edits", {})
    edits = {k: EditDocument(words=w, first="first", figures=[], by="Ana", at=DRAWN_AT) for k, w in words.items()}
    document = FindingDocument(question=question, audience=audience, edits=edits, hidden=more.pop("hidden", []))
    wordings = {k: Wording(e.words, "Ana", "first wording") for k, e in edits.items()}
    used = [UsedRun("r1", f"{label} 1", "2027-02-27 18:00", "Bunk room", (("meter.csv", "ab" * 32),), 8, 1)]
    facts = {"headings": ["phone", "charger", "runs", "80 %, min"], "rows": [["Ostrel Max", label, "3", "78"]], **more}
    return ReportIn(
        document, draft, wordings, subject((drawn_row(label), drawn_row("Pad", 140.0, place="2")), question), DRAWN_AT,
        "Ana", "Jaunecharge 0.1.0, reader 8", list(changed), runs=used, seeds=["order of the plan: randomised, seed 7"],
        **facts,
    )  # fmt: skip
