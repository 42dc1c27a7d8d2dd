"""Summary of a run for lists and comparisons: kept with the run, made anew by a newer reader."""

from collections.abc import Mapping
from typing import Any, ClassVar, Literal, Self

import numpy as np
from pydantic import BaseModel, Field, ValidationError

from ..core.log import CheckIns, Flow, Milestone, Stretch, metered_idle
from ..core.measured import Measured
from ..core.reading import Reading, ribbon, throttle_verdict
from ..core.report import headline
from ..core.units import MINUTE_S
from ..core.versus import Course, Power, Warm, course_of
from .document import Document
from .numbers import MeasuredDocument, number
from .ribbon import RibbonDocument, unlisted

Span = tuple[float, float]


class Interval(BaseModel):
    """A time known to lie in an interval, in minutes after placing."""

    earliest: float
    estimate: float
    latest: float


class MilestoneDocument(Interval):
    """When a percentage was reached."""

    percent: int


class ThrottleSummary(BaseModel):
    """Heat of a reading."""

    position: str
    hottest_c: float
    rise_k: float | None
    ambient_c: float | None
    first_min: float | None
    first_c: float | None
    first_estimated: bool = Field(description="whether that temperature lies between readings")
    first_percent: float | None
    verdict: Literal["throttled", "probably", "perhaps", "never", "unknown"] = Field(
        description="whether heat throttled it; unknown where no power was metered for it alone"
    )
    minutes: float | None
    cycles: int | None
    cost_min: MeasuredDocument | None
    to_80: bool


class OutputSummary(BaseModel):
    """Output of the charger and its claim, as its reading has them."""

    watts: MeasuredDocument | None = Field(description="charger side, by the reference ratio")
    class_w: float | None
    fits: bool
    also_possible: list[float]
    claimed_w: float | None
    claim_met: bool | None
    claim_kept: bool | None
    undecided: str


class LevelsSummary(BaseModel):
    """Powers of a reading at the meter [W], as far as they are known."""

    peak_w: float | None
    sustained_w: float | None
    no_load_w: MeasuredDocument | None
    after_full_w: MeasuredDocument | None


class FlowDocument(BaseModel):
    """Flow of the charge between check-ins: moments [min], running energy above no-load [Wh], what was not metered."""

    points: list[tuple[float, float]]
    unseen: list[Span]

    @classmethod
    def of(cls, flow: Flow | None) -> Self | None:
        """Of a flow of the core."""
        if flow is None:
            return None
        points = zip(flow.time_s.tolist(), flow.wh.tolist(), strict=True)
        return cls(
            points=[(round(t / MINUTE_S, 4), round(wh, 5)) for t, wh in points],
            unseen=[(round(a / MINUTE_S, 4), round(b / MINUTE_S, 4)) for a, b in flow.unseen],
        )

    def flow(self) -> Flow:
        """The same for the core."""
        table = np.array(self.points, dtype=float).reshape(-1, 2)
        unseen = tuple((a * MINUTE_S, b * MINUTE_S) for a, b in self.unseen)
        return Flow(table[:, 0] * MINUTE_S, table[:, 1], unseen)


class CourseDocument(BaseModel):
    """The course of a run [min, %, °C, K]; its power and its temperatures stand in the ribbon already."""

    checkins: list[tuple[float, float]]
    power_relative: float | None
    power_unsure: bool = False
    start_c: float | None
    room_c: float | None
    rise_k: float | None
    hottest_c: float | None
    hottest_min: float | None
    lost_min: MeasuredDocument | None
    losses: list[tuple[float, float, float]]
    holds: list[Span]
    contacts: list[Span]
    flow: FlowDocument | None = None
    through_adapter: MeasuredDocument | None = None

    @classmethod
    def of(cls, course: Course) -> Self:
        """Of a course of the core."""
        readings, warm, power = course.readings, course.warm, course.power
        table = [] if readings is None else zip(readings.time_s.tolist(), readings.percent.tolist(), strict=True)
        return cls(
            checkins=[(round(t / MINUTE_S, 4), round(p, 2)) for t, p in table],
            power_relative=None if power is None else round(power.relative, 6),
            power_unsure=power is not None and power.unsure,
            start_c=number(course.start_c, 2),
            room_c=number(course.room_c, 2),
            rise_k=None if warm is None else number(warm.rise_k, 2),
            hottest_c=None if warm is None else number(warm.hottest_c, 2),
            hottest_min=None if warm is None else number(warm.hottest_min, 2),
            lost_min=None if course.lost_min is None else MeasuredDocument.of(course.lost_min),
            losses=[(round(a, 2), round(b, 2), round(lost, 2)) for a, b, lost in course.losses],
            holds=[(round(a, 2), round(b, 2)) for a, b in course.holds],
            contacts=[(round(a, 2), round(b, 2)) for a, b in course.contacts],
            flow=None if readings is None else FlowDocument.of(readings.flow),
            through_adapter=_known(course.through_adapter),
        )

    @classmethod
    def read(cls, raw: Mapping[str, Any] | None) -> Self | None:
        """The course of what is kept; None where an older reader made it, which did not know what heat cost when."""
        return None if raw is None or "losses" not in raw else cls.model_validate(raw)

    def course(self, band: RibbonDocument | None = None) -> Course:
        """The same for the core. Without its ribbon it has no power, and its heat is known as a whole."""
        table = np.array(self.checkins, dtype=float).reshape(-1, 2)
        lost, through = self.lost_min, self.through_adapter
        return Course(
            CheckIns(table[:, 0] * MINUTE_S, table[:, 1], flow=None if self.flow is None else self.flow.flow())
            if len(table)
            else None,
            self._power(band),
            self.start_c,
            self.room_c,
            self._warm(band),
            None if lost is None else lost.measured("heat"),
            tuple(self.losses),
            tuple(self.holds),
            tuple(self.contacts),
            None if through is None else through.measured("adapter's share, as measured"),
        )

    def _warm(self, band: RibbonDocument | None) -> Warm | None:
        if self.hottest_c is None:
            return None
        steps = None if band is None or band.celsius is None else unlisted(band.celsius)
        return Warm(self.hottest_c, self.rise_k, self.hottest_min, 1.0 if band is None else band.step_min, steps)

    def _power(self, band: RibbonDocument | None) -> Power | None:
        if self.power_relative is None or band is None:
            return None
        return Power(band.step_min, unlisted(band.watts), self.power_relative, self.power_unsure)


UNREADABLE = "what is kept of its reading cannot be read; correct any of it to read the run again"


class RunSummary(Document):
    """Summary of a run: its ribbon, when it got where, the hottest, the energy, and five words.

    Version 0, kept without a number, may lack what its reader did not know: milestones, start, heat, course.
    """

    VERSION: ClassVar[int] = 1

    ribbon: RibbonDocument
    to_80: Interval | None = None
    milestones: list[MilestoneDocument] = Field(default_factory=list)
    start_percent: float | None = None
    hottest_c: float | None = None
    energy_in_wh: float | None = Field(None, description="null where nothing was metered")
    efficiency: float | None = None
    through_adapter: MeasuredDocument | None = None
    socket_to_battery: MeasuredDocument | None = None
    best_settled_w: float | None = None
    coverage: float = 0.0
    headline: str = Field("", description="five words, the strong ones between asterisks")
    throttle: ThrottleSummary | None = None
    course: CourseDocument | None = None
    output: OutputSummary | None = Field(None, description="null where nothing was metered for this phone alone")
    levels: LevelsSummary | None = None
    percent_at: list[tuple[float, float]] = Field(default_factory=list, description="(minute after placing, %)")
    kept_old: str = Field("", description="why the run could not be read again, where its old reading is shown")

    @classmethod
    def read(cls, raw: Mapping[str, Any]) -> Self:
        """The summary of what is kept; where that cannot be read, one that says so: it spoils no list of others."""
        try:
            return super().read(raw)
        except (ValidationError, ValueError, TypeError, AttributeError):
            none = RibbonDocument(step_min=1.0, watts=[], celsius=None, ticks=[], minutes=0.0)
            return cls(ribbon=none, headline="*cannot be shown*", kept_old=UNREADABLE)

    @classmethod
    def upgraded(cls, raw: Mapping[str, Any], version: int) -> Mapping[str, Any]:
        course = raw.get("course")
        return {**raw, "course": None if course is None or "losses" not in course else course}

    @classmethod
    def of(cls, reading: Reading) -> Self:
        """Of a reading."""
        band, eighty = ribbon(reading), reading.milestone(80)
        heat, readings = reading.phone_heat, reading.log.readings
        course, along = course_of(reading, band), reading.along
        return cls(
            ribbon=RibbonDocument.of(band),
            to_80=None if eighty is None else Interval.model_validate(_interval(reading, eighty)),
            milestones=[MilestoneDocument(percent=s.percent, **_interval(reading, s)) for s in reading.milestones],
            start_percent=None if readings is None or not len(readings) else float(readings.percent[0]),
            hottest_c=None if heat is None else round(heat.max_c, 2),
            energy_in_wh=round(reading.energy_in.bridged.value, 3) if reading.log.trace.metered else None,
            efficiency=None if reading.efficiency is None else round(reading.efficiency.value, 4),
            through_adapter=_known(course.through_adapter),
            socket_to_battery=_known(None if along is None else along.socket_to_battery),
            best_settled_w=number(reading.best_settled.watts if reading.best_settled else None, 2),
            coverage=round(reading.log.trace.coverage, 4),
            headline=headline(reading),
            throttle=_throttle(reading),
            course=CourseDocument.of(course),
            output=_output(reading),
            levels=_levels(reading),
            percent_at=[(minute, round(percent, 1)) for minute, percent in reading.percent_at],
        )


def _known(value: Measured | None) -> MeasuredDocument | None:
    return None if value is None else MeasuredDocument.of(value)


def _interval(reading: Reading, milestone: Milestone) -> dict[str, float]:
    def minutes(at_s: float) -> float:
        return round((at_s - reading.placed_s) / MINUTE_S, 2)

    return {
        "earliest": minutes(milestone.earliest_s),
        "estimate": minutes(milestone.estimate_s),
        "latest": minutes(milestone.latest_s),
    }


def _output(reading: Reading) -> OutputSummary | None:
    group = reading.output.group if reading.output is not None else None
    if group is None:
        return None
    return OutputSummary(
        watts=MeasuredDocument.of(group.output),
        class_w=group.watts,
        fits=group.fits,
        also_possible=list(group.also_possible),
        claimed_w=group.claimed_w,
        claim_met=group.claim_met,
        claim_kept=group.claim_kept,
        undecided=group.undecided,
    )


def _levels(reading: Reading) -> LevelsSummary | None:
    if not reading.log.trace.metered:
        return None

    def idle(stretch: Stretch | None) -> MeasuredDocument | None:
        if stretch is None:
            return None
        return MeasuredDocument.of(metered_idle(stretch.watts, reading.log.trace, reading.conditions.meter))

    return LevelsSummary(
        peak_w=round(reading.peak_w, 3),
        sustained_w=number(reading.sustained.watts if reading.sustained else None, 3),
        no_load_w=idle(reading.no_load),
        after_full_w=idle(reading.after_full),
    )


def _throttle(reading: Reading) -> ThrottleSummary | None:
    """Heat of a run in the table over all runs; None where no temperature was logged.

    What needs the power as well is null where that was not metered, or is a shared meter's.
    """
    throttle, heat = reading.throttle, reading.phone_heat
    if heat is None:
        return None
    first = None if throttle is None else throttle.first
    room = reading.log.heat.ambient if reading.log.heat is not None else None
    return ThrottleSummary(
        position=heat.position,
        hottest_c=round(heat.max_c, 2),
        rise_k=number(heat.rise_k, 2),
        ambient_c=None if room is None else round(float(room.celsius.mean()), 1),
        first_min=None if first is None else round((first.start_s - reading.placed_s) / MINUTE_S, 1),
        first_c=None if first is None else number(first.onset_c, 1),
        first_estimated=first is not None and first.estimated,
        first_percent=None if first is None else number(first.onset_percent, 0),
        verdict=throttle_verdict(throttle),
        minutes=None if throttle is None else round(throttle.minutes, 1),
        cycles=None if throttle is None else throttle.cycles,
        cost_min=None if throttle is None else MeasuredDocument.of(throttle.cost_min),
        to_80=reading.milestone(80) is not None,
    )
