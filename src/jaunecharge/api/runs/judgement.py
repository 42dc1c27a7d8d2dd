"""The judgement of a run, for its page."""

from sqlalchemy.orm import Session

from ...core.reading import CAUSES, NO_DIP, Decision, Dip, Reading
from ...core.units import MINUTE_S
from ...store import models as m
from ...store import settings
from . import reading_shapes as shapes


def judged_shape(session: Session, run: m.Run, reading: Reading) -> shapes.JudgedShape | None:
    """The judgement of a run, for its page; what it says of temperatures in °F if asked for."""
    judged = reading.judged
    if judged is None:
        return None

    def minutes(at_s: float) -> float:
        return round((at_s - reading.placed_s) / MINUTE_S, 3)

    def dip(d: Dip) -> shapes.DipShape:
        return shapes.DipShape(
            start=minutes(d.start_s),
            end=minutes(d.end_s),
            cause=d.cause,
            expected_w=round(d.expected_w, 3),
            floor_w=round(d.floor_w, 3),
            onset_c=d.onset_c,
            onset_percent=d.onset_percent,
            lasting=d.lasting,
            estimated=d.estimated,
            likely=d.likely,
            why=d.why,
            settle=d.settle,
            overruled=d.overruled,
        )

    reference = settings.setting(session, settings.REFERENCE)
    return shapes.JudgedShape(
        outcome=judged.outcome,
        phases=[
            shapes.PhaseShape(
                kind=p.kind,
                start=minutes(p.start_s),
                end=minutes(p.end_s),
                mean_w=round(p.mean_w, 3),
                overruled=p.overruled,
            )
            for p in judged.phases
        ],
        dips=[dip(d) for d in judged.dips],
        dismissed=[dip(d) for d in judged.dismissed],
        decisions=[
            shapes.DecisionShape(
                id=d.id,
                said=_decided(d.decision(), reading.placed_s),
                by=d.by,
                why=d.why,
                at=d.at,
                undone=d.undone_at is not None,
            )
            for d in run.decisions
        ],
        output=_output_shape(reading),
        reference_here=settings.reference_id(reference) == run.id,
        reference_revision=0 if reference is None else reference.revision,
    )


def _decided(decision: Decision, placed_s: float) -> str:
    """A decision in words, minutes after placing."""

    def at(seconds: float) -> str:
        return f"{(seconds - placed_s) / MINUTE_S:.1f} min"

    where = f"{decision.about} at {at(decision.start_s)}"
    if decision.about == "phase":
        return f"{where} begins at {at(decision.new_start_s or decision.start_s)}"
    lines = []
    if decision.cause is not None:
        lines.append(decision.cause if decision.cause == NO_DIP else f"cause: {CAUSES[decision.cause].words}")
    if decision.new_start_s is not None:
        lines.append(f"from {at(decision.new_start_s)}")
    if decision.new_end_s is not None:
        lines.append(f"to {at(decision.new_end_s)}")
    return f"{where}: {', '.join(lines) or 'as read'}"


def _output_shape(reading: Reading) -> shapes.OutputShape | None:
    output = reading.output
    if output is None:
        return None
    group = output.group
    return shapes.OutputShape(
        ratio=output.ratio.value.value,
        ratio_expanded=output.ratio.value.expanded,
        ratio_from=output.ratio.source,
        estimates=[
            shapes.OutputEstimateShape(
                method=e.method, point=e.point, watts=e.watts.value, expanded=e.watts.expanded, assumes=e.assumes
            )
            for e in output.estimates
        ],
        group_w=None if group is None else group.watts,
        fits=group is not None and group.fits,
        also_possible=[] if group is None else list(group.also_possible),
        claimed_w=None if group is None else group.claimed_w,
        claim_met=None if group is None else group.claim_met,
        claim_kept=None if group is None else group.claim_kept,
        undecided="" if group is None else group.undecided,
    )
