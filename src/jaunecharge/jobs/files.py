"""Files written and read by workers: runs of a file, data packages, PDFs."""

import datetime as dt
import uuid
from typing import Any

from sqlalchemy.orm import Session

from ..core.log import zone_named
from ..documents.runs_of_file import RunsOfFile
from ..formats.many.files import Taken, take
from ..formats.read.apart import apart
from ..formats.read.files import Asked
from ..formats.report.page import pdf
from ..store.findings.findings import get_finding
from ..store.findings.report import report_of
from ..store.packages.coming_in import Imported, import_package
from ..store.packages.going_out import export_package
from ..store.plan.slots import fill_slot
from ..store.runs import runs as store
from ..store.runs.copies import copies_among
from .doing import Doing


def store_runs(doing: Doing) -> dict[str, Any]:
    """Store runs of one file in one step: all of them, or none if any is refused."""
    new = RunsOfFile.model_validate(doing.args)
    upload = doing.uploads.find(new.upload)
    doing.tell("reading", 0.0)
    taken: list[Taken] = apart(
        take, Asked(upload.path, upload.name), [run.ns for run in new.runs], zone_named(new.zone), new.case.ambient_c,
        name=upload.name,
    )  # fmt: skip
    now = dt.datetime.now(dt.UTC)
    with doing.last_step() as (session, result):
        stored = []
        for n, (wanted, one) in enumerate(zip(new.runs, taken, strict=True)):
            doing.tell("storing", 0.5 + 0.5 * n / len(taken))
            factors = {**one.factors, **new.factors, **wanted.factors}
            run = store.add_run(
                session,
                store.NewRun(
                    label=wanted.label or one.label,
                    log=one.log,
                    case=store.with_battery(session, new.case, factors.get("phone", "")),
                    factors=factors,
                    files=(store.FileRead(upload.path, upload.name, one.role, {"run": wanted.ns}),),
                    note=new.note,
                    started_at=one.started_at,
                    zone=new.zone,
                    by=doing.by,
                    remarks=one.remarks,
                ),
            )
            stored.append(run)
        copied = copies_among(session, [run.id for run in stored])
        for run in stored:
            if str(run.id) not in copied:
                fill_slot(session, run, now, None)
        result |= {"runs": [str(run.id) for run in stored], "at": now.isoformat()}
        result["labels"] = [run.label for run in stored]
    doing.uploads.drop(upload)
    return {}


def write_package(doing: Doing) -> dict[str, Any]:
    """Write a data package of everything, or of one finding with all that it rests on."""
    finding = doing.args["finding"]
    upload = doing.uploads.begin(doing.args["name"])
    written = upload.path.with_name("package.zip")
    export_package(
        doing.database, written, None if finding is None else uuid.UUID(finding), lambda f: doing.tell("exporting", f)
    )
    written.replace(upload.path)
    doing.uploads.keep(upload)
    return {"package": str(upload.id)}


def bring_in(doing: Doing) -> dict[str, Any]:
    """Bring a data package in that was sent."""
    upload = doing.uploads.find(uuid.UUID(doing.args["upload"]))

    def last(session: Session, done: Imported) -> None:
        conflicts = [{"table": c.table, "label": c.label, "differs": list(c.differs)} for c in done.conflicts]
        told = {"new": done.new, "equal": done.equal, "taken": done.taken, "conflicts": conflicts}
        doing.finish(session, told)

    done = import_package(doing.database, upload.path, doing.args["take"], lambda f: doing.tell("importing", f), last)
    doing.ended = True
    if not done.left:
        doing.uploads.drop(upload)
    return {}


def write_pdf(doing: Doing) -> dict[str, Any]:
    """Write a finding as a PDF."""
    with doing.database.session() as session:
        made, _ = report_of(session, get_finding(session, uuid.UUID(doing.args["finding"])))
    upload = doing.uploads.begin("finding.pdf")
    upload.path.write_bytes(pdf(made))
    doing.uploads.keep(upload)
    return {"file": str(upload.id)}
