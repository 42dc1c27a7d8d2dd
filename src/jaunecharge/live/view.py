"""A lane as every window shows it: figures, phase, next check-in, finish, alarms, steps, last entries."""

import datetime as dt
from collections.abc import Sequence

from ..core.bench import (
    PACK_ALONE,
    Curve,
    Line,
    Now,
    OnBench,
    Step,
    canonical,
    finish,
    level_step,
    next_due,
    next_step,
    paced_now,
    pack_now,
    pack_steps,
    phase_now,
    silent_limit_s,
    steps,
    tens_reached,
)
from ..core.factors import WIRED
from ..core.log import HOLE_FLOOR_S, HOLE_STEPS, MOST_NO_LOAD_W, PHONE, idle_level, idle_now, is_phone, is_room
from ..core.plan import in_words
from ..core.units import MINUTE_S
from ..store import bench_models as b
from ..store.bench.entries import SYSTEM, entry_said, first_of, first_said, item_of, told_of, wanted_of
from .known import known_of
from .lane_state import HUMIDITY, STEP_S, LaneState
from .shown import AlarmView, DueView, EntryView, FinishView, Ghost, LaneFull, LaneView, PlaceView, StepView, Traced

LAST_ENTRIES = 8
NO_LOAD_OVER_S, NO_LOAD_BEFORE_S, DRAWN_OVER_S = 60.0, 600.0, 10.0


def no_load_w(state: LaneState) -> float | None:
    """No-load draw of the charger [W], as metered or typed; None unless a low level was seen so."""
    placed, typed = state.lane.placed_s, state.typed_w
    if placed is None:
        times, watts = state.fine.arrays()
        recent = times > (times[-1] if len(times) else 0.0) - NO_LOAD_OVER_S
        level = idle_now(times[recent], watts[recent])
    else:
        level = None
        for times, watts in (state.fine.arrays(), state.watts.arrays()):
            recent = (times < placed - 2.0) & (times > placed - NO_LOAD_BEFORE_S)
            if level is None and (idle := idle_level(times[recent], watts[recent])) is not None:
                level = idle.watts
    if level is None and typed is not None and (placed is None or typed[0] < placed) and typed[1] <= MOST_NO_LOAD_W:
        return typed[1]
    return level


def drawn_w(state: LaneState) -> float | None:
    """The watts just now, a mean of some seconds, or what was typed last [W]."""
    times, watts = state.fine.arrays()
    if len(times):
        return float(watts[times > times[-1] - DRAWN_OVER_S].mean())
    return None if state.typed_w is None else state.typed_w[1]


def on_bench(state: LaneState) -> OnBench:
    """Values from instruments and entries while a lane is set."""
    places, volts = state.celsius, state.last.get("volts") or state.typed_v
    back = max((c for p, (_, c) in places.items() if is_phone(p)), default=None)
    room = next((c for p, (_, c) in places.items() if is_room(p)), state.lane.case.ambient_c)
    percents = state.percents
    return OnBench(
        volts=None if volts is None else volts[1],
        drawn_w=drawn_w(state),
        no_load_w=no_load_w(state),
        percent=percents[-1][1] if percents else None,
        back_c=back,
        ambient_c=room,
        placed=state.lane.placed_s is not None,
    )


def setting_of(state: LaneState) -> tuple[Step, ...]:
    """The steps of setting a lane, as they stand."""
    lane, told = state.lane, told_of(state.lane)
    name, level = lane.name.lower(), state.pack_level_said
    if lane.kind in PACK_ALONE:
        return pack_steps(lane.kind, name, level, on_bench(state), told)  # type: ignore[arg-type]
    listed = steps(wanted_of(lane), on_bench(state), told)
    if lane.kind == "charge":
        return listed
    return (*listed[:-1], level_step(name, level, told, giver=lane.kind == "phone to phone"), listed[-1])


def curve_of(lane: b.Lane) -> Curve | None:
    """Forecast for a lane; None where its chain is not known."""
    return lane.chain.forecast()


def _phase(state: LaneState, now_s: float, percent: float | None, shared: bool) -> Now:
    """The phase of a lane. Once its phone is placed it is told anew with each step of its ribbon: that takes time."""
    lane, times, watts = state.lane, *state.watts.arrays()
    low_w, expected_w = no_load_w(state), None if shared else lane.chain.least_w
    known = known_of(state, now_s, low_w, shared)
    told_from = (len(times), int(now_s // STEP_S), lane.placed_s, percent, low_w, expected_w, known)
    if lane.placed_s is None or state.phase is None or state.phase[0] != told_from:
        start = lane.card.starts_at
        state.phase = told_from, phase_now(now_s, lane.placed_s, times, watts, percent, low_w, start, expected_w, known)
    return state.phase[1]


def view(state: LaneState, at: dt.datetime, shared_with: Sequence[str] = ()) -> LaneView:
    """A lane at a moment."""
    lane, card = state.lane, state.lane.card
    now_s, percents = state.now_s(at), state.percents
    placed = lane.placed_s
    watts, volts, last = state.last.get("watts"), state.last.get("volts"), percents[-1] if percents else None
    if lane.kind in PACK_ALONE:
        now = pack_now(lane.kind, now_s, placed, *state.watts.arrays(), STEP_S, lane.chain.rated_wh or 0.0)  # type: ignore[arg-type]
        kind, words = lane.kind, now.said
    elif state.metered:
        phase = _phase(state, now_s, last[1] if last else None, bool(shared_with))
        kind, words = phase.kind, phase.said
    else:
        paced = paced_now(known_of(state, now_s, no_load_w(state), shared=False))
        kind, words = "none", paced or "logged by hand" if placed is not None else "waiting for the phone"
    if shared_with and placed is not None:
        kind, words = "none", "shares its meter"
    listed = setting_of(state) if lane.state == "setting" else ()
    following = next_step(listed)
    method = card.good_for if lane.kind in PACK_ALONE else in_words(card)
    interval = card.interval_min
    # A phone that reports by itself calls for nobody.
    reports = bool(state.reported) and now_s - state.reported[-1][0] < max(interval, 1.0) * MINUTE_S
    looked = percents if lane.kind not in PACK_ALONE else state.pack_points
    due = next_due(placed, 0.0 if reports or card.is_spot else interval, [t for t, _ in looked], now_s)
    places = state.celsius
    phone_places = [c for p, (_, c) in places.items() if is_phone(p)]
    return LaneView(
        id=lane.id, name=lane.name, state=lane.state, label=lane.label,
        phone=lane.factors.get("phone", "") or lane.pack, kind=lane.kind, pack=lane.pack,
        pack_level=state.pack_level_said, pack_test=lane.pack_test_id,
        chain=chain_said(lane), method=card.name, method_said=method, start_percent=card.starts_at,
        interval_min=interval, speed=lane.speed, simulated=lane.simulated, zone=lane.zone, meter=lane.meter,
        probe=lane.probe, socket=lane.socket, room=lane.room,
        shared_with=list(shared_with), survey=lane.survey, run=lane.run_id, outcome=lane.outcome,
        at=at, opened_at=lane.opened_at, now_s=round(now_s, 2), placed_s=placed,
        percent=last[1] if last else None, percent_s=last[0] if last else None,
        watts=watts[1] if watts else None, watts_s=watts[0] if watts else None,
        silent_s=silent_limit_s(state.spacing_s, lane.speed), volts=volts[1] if volts else None,
        socket_w=state.socket_w, phone_w=_last(state, PHONE), humidity=_last(state, HUMIDITY),
        reported_s=state.reported[-1][0] if state.reported else None,
        reports=reports, charging=state.charging[1] if reports and state.charging is not None else None,
        places=[PlaceView(p, t, c, is_phone(p)) for p, (t, c) in sorted(places.items())],
        hottest_c=max(phone_places, default=None), phase=kind, phase_said=words,
        due=DueView(due.state, due.at_s),
        checkins=thinned([(t, p) for t, p in looked if placed is None or t >= placed], interval),
        ticks=tens_reached([(t, p) for t, p in percents if placed is None or t >= placed]),
        finish=_finish(state, placed), alarms=[_alarm(a) for a in state.alarms],
        steps=[StepView(s.key, s.said, s.state, s.value, s.odd, reason(lane, s.key)) for s in listed],
        next_step=following.key if following else "", phone_on=lane.state == "setting" and on_bench(state).phone_on,
        entries=[entry_view(e, lane.name) for e in last_entries(state)], off=state.off,
    )  # fmt: skip


def _last(state: LaneState, name: str) -> float | None:
    newest = state.last.get(name)
    return None if newest is None else round(newest[1], 3)


def reason(lane: b.Lane, key: str) -> str:
    """Why a step was skipped; empty where it was not."""
    return lane.setup[key].reason if key in lane.setup else ""


def chain_said(lane: b.Lane) -> str:
    """The chain in a few words: charger, adapter, and what is peculiar to the run."""
    f = lane.factors
    if lane.kind in PACK_ALONE:
        return "under load" if lane.kind == "load" else "being filled"
    parts = ["by wire" if f.get("charger", "") in {"", WIRED} else f["charger"], f.get("adapter", "")]
    parts += [f[k] for k in ("case", "airflow", "place") if f.get(k) not in (None, "", "none", "still air")]
    return " · ".join(p for p in parts if p)


def thinned(checkins: list[tuple[float, float]], interval_min: float) -> list[tuple[float, float]]:
    """Check-ins for dots on a scale: of a continuous report about four an interval."""
    least = max(interval_min, 4.0) * MINUTE_S / 4.0
    points: list[tuple[float, float]] = []
    for t, p in checkins:
        if not points or t - points[-1][0] >= least or p >= 100 > points[-1][1]:
            points.append((round(t, 1), p))
    return points


def _finish(state: LaneState, placed_s: float | None) -> FinishView | None:
    curve, card = curve_of(state.lane), state.lane.card
    to = card.ends_at
    if curve is None or placed_s is None or to is None:
        return None
    rows = [((t - placed_s) / MINUTE_S, p) for t, p in state.percents if t >= placed_s]
    ends = finish(curve, rows, float(to))

    def on_clock(minutes: float | None) -> float | None:
        return None if minutes is None else round(placed_s + minutes * MINUTE_S, 1)

    low, likely, high = (on_clock(m) for m in (ends.low_min, ends.likely_min, ends.high_min))
    return FinishView(to, low, likely, high, round(ends.pace, 4))


def _alarm(entry: b.LaneEntry) -> AlarmView:
    return AlarmView(entry.unit, int(entry.value or 0), entry.t_s, entry.text, entry.advice)


def last_entries(state: LaneState) -> list[b.LaneEntry]:
    """Last entries, the latest first; what was undone stays among them."""
    entered = [e for e in list(state.entries.values()) if e.kind not in SYSTEM]
    return sorted(entered, key=lambda e: (e.at, e.tick), reverse=True)[:LAST_ENTRIES]


def entry_view(entry: b.LaneEntry, name: str) -> EntryView:
    """An entry in words."""
    line = "" if entry.kind in SYSTEM else canonical(Line(name, (item_of(entry),)))
    return EntryView(
        entry.id, round(entry.t_s, 1), entry.kind, entry_said(entry), line, entry.by,
        first_said(entry.kind, first_of(entry)), entry.undone_at is not None,
    )  # fmt: skip


def full(state: LaneState, at: dt.datetime, shared_with: Sequence[str] = ()) -> LaneFull:
    """A lane with its ribbon and its forecast."""
    ghost = state.lane.chain.ribbon
    return LaneFull(
        view(state, at, shared_with),
        traced(state, -1),
        None if ghost is None else Ghost(ghost.step_min, [round(w, 2) for w in ghost.watts]),
    )


def traced(state: LaneState, after_tick: int) -> Traced:
    """The steps of a lane's ribbon that have changed after a count."""
    heat: dict[int, float] = {}
    for place, steps_ in list(state.heat.items()):
        if is_phone(place):
            for i, c in steps_.since(after_tick):
                heat[i] = max(heat.get(i, -100.0), c)
    return Traced(
        state.watts.step_s,
        max(HOLE_STEPS * state.spacing_s, HOLE_FLOOR_S),
        [(i, round(w, 3)) for i, w in state.watts.since(after_tick)],
        [(i, round(c, 2)) for i, c in sorted(heat.items())],
    )
