"""Rehearsals: simulated runs, stored through the same files as any other run, and marked for good."""

import tempfile
from dataclasses import asdict, dataclass, replace
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from ...core.chain import Chain
from ...core.forecast import Row
from ...core.kit import Meter
from ...core.plan import stated
from ...core.simulator import Circumstances, Fitted, Prepared, Rehearsal, prepare, rehearse, socket_trace
from ...documents.case import Case
from ...documents.kit import facts_of
from ...formats.read.assemble import Part, assemble
from ...formats.read.source import examine
from ...formats.read.understanding import understand
from ...formats.rehearsal import CASE, CHECKINS, HEAT, METER, TRUTH, case_document, truth_document, write_rehearsal
from .. import models as m
from .runs import FileRead, NewRun, add_run

ROLES = {"meter": METER, "checkins": CHECKINS, "heat": HEAT}
ORIGIN = "rehearsal"


@dataclass(frozen=True)
class NewRehearsal:
    """A rehearsal to make: chain, circumstances, seed; instruments; a label and a note if wanted.

    Of another origin (a demonstration) it plays a measured run, is marked by its origin, and its truth is not kept.
    """

    chain: Chain
    around: Circumstances
    seed: int
    meter: Meter
    fitted: Fitted | None = None
    label: str = ""
    note: str = ""
    by: str = ""
    zone: str = "UTC"
    origin: str = ORIGIN
    socket: Meter | None = None
    """The meter at the socket, where one is played as well."""


def add_rehearsal(session: Session, new: NewRehearsal, prepared: Prepared | None = None) -> m.Run:
    """Simulate a run and store it as one that was logged; `prepared` replaces the chain's own scenario.

    Raises
    ------
    CannotRead
    """
    simulated = prepared or prepare(new.chain, new.around, None, new.fitted)
    run = rehearse(simulated.scenario, new.seed, new.meter, new.around.interval_min)
    typed = case_document(new.chain.phone, new.chain.charger, new.meter, new.around.interval_min)
    typed["simulated"] = new.origin == ORIGIN
    if new.socket is not None:
        typed["socket_meter"] = {name: getattr(new.socket, name) for name in ("gain_percent", "counts_v", "counts_a")}
    case = Case.model_validate(typed)
    phone, row = new.chain.phone.label, Row(new.chain.charger, new.chain.place)
    label = new.label or (f"{phone} on {row.label}" if row.charger else f"{phone} by wire")
    with tempfile.TemporaryDirectory() as folder:
        write_rehearsal(Path(folder), run, typed)
        parts = []
        for role, name in ROLES.items():
            source = examine(Path(folder) / name)
            parts.append(Part(source, understand(source), (role,)))
        files = [FileRead(p.source.path, f"{label} {p.source.name}", p.roles[0]) for p in parts]
        if new.origin == ORIGIN:
            files += [FileRead(Path(folder) / name, f"{label} {name}", name.split(".")[0]) for name in (CASE, TRUTH)]
        log = assemble(parts, case=case).log
        if new.socket is not None:
            log = replace(log, socket=socket_trace(log.trace))
        return add_run(
            session,
            NewRun(
                label=label,
                log=log,
                case=case,
                factors=stated(new.chain, new.around),
                files=tuple(files),
                note=new.note,
                origin=new.origin,
                zone=new.zone,
                by=new.by,
                rehearsal=_document(new, simulated, run) if new.origin == ORIGIN else None,
            ),
        )


def _document(new: NewRehearsal, prepared: Prepared, run: Rehearsal) -> dict[str, Any]:
    pieces = (new.chain.phone, new.chain.charger, new.chain.adapter, new.chain.cable, new.chain.case)
    return {
        "seed": new.seed,
        "kit": [facts_of(piece) for piece in pieces if piece is not None],
        "around": asdict(new.around),
        "origins": [asdict(g) for g in prepared.origins],
        "truth": truth_document(run.truth),
    }
