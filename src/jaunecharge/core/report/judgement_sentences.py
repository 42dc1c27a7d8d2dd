"""Sentences of a run's judgement: what heat did, what else took power away, what was delivered."""

from collections.abc import Sequence
from typing import Any

from ..log.temperatures import HOT_C
from ..milestones import at_limit
from ..reading.causes import Dip
from ..reading.judgement import Judged, stage_steps
from ..reading.power_levels import minutes_at_least
from ..reading.read_run import Reading
from ..reading.verdict import CAUSES, Cause
from ..safety import THRESHOLDS_C
from ..units import MINUTE_S
from ..wording import counted, duration, moment, plus_minus, temperature, threshold
from .sentence import Sentence

NOTABLE_COST_MIN = 0.5
NOTABLE_FORECAST_K = 1.0


def judged_words(reading: Reading, fahrenheit: bool = False) -> list[Sentence]:
    """Sentences on what took power away: heat first, then by what each cost."""
    judged = reading.judged
    if judged is None:
        return []
    if judged.outcome:
        return [
            Sentence(
                "outcome",
                "*Does not charge*: placed, and never above no-load for a minute",
                f"at most {judged.grid.smooth.max():.1f} W; a thick case, no coil where it lies, or no standard in"
                " common",
                reading.placed_s,
                reading.log.trace.end_s,
            )
        ]
    others = [c for c, facts in CAUSES.items() if facts.text and _of(judged, c)]
    others.sort(key=lambda c: -sum(d.minutes for d in _of(judged, c)))
    return [*heat_cost(reading, fahrenheit), *(_cause(reading, c, fahrenheit) for c in others)]


def _of(judged: Judged, *causes: str) -> list[Dip]:
    return [d for d in judged.dips if d.cause in causes]


def _places(dips: Sequence[Dip]) -> tuple[tuple[float, float], ...]:
    return tuple((d.start_s, d.end_s) for d in dips)


def onset_said(dip: Dip, fahrenheit: bool = False) -> str:
    """The temperature at which a dip began: `42.4 °C`; `about 42.4 °C` where it lies between readings."""
    if dip.onset_c is None:
        return "an unknown temperature"
    return ("about " if dip.estimated else "") + temperature(dip.onset_c, fahrenheit)


def _where(reading: Reading, dip: Dip, fahrenheit: bool) -> str:
    """When a dip began: `26 min (29 %, 42.4 °C)`."""
    known = [] if dip.onset_percent is None else [f"{dip.onset_percent:.0f} %"]
    known += [] if dip.onset_c is None else [onset_said(dip, fahrenheit)]
    inside = f" ({', '.join(known)})" if known else ""
    return f"{moment(dip.start_s - reading.placed_s)}{inside}"


def heat_cost(reading: Reading, fahrenheit: bool) -> list[Sentence]:
    """Sentence on what heat cost the run; none where it cost nothing. One event alone makes it probable only."""
    judged, throttle = reading.judged, reading.throttle
    if judged is None or throttle is None or throttle.first is None:
        return []
    dips = _of(judged, "heat", "heat_cutout")
    first, places = throttle.first, _places(dips)
    stops = [d for d in dips if d.cause == "heat_cutout"]
    lasting = len(dips) == 1 and dips[0].lasting
    many = "one lasting cut" if lasting else counted(len(dips), "stop" if len(stops) == len(dips) else "dip")
    likely = throttle.likely
    lines = [
        Sentence(
            "throttle",
            f"Heat {'probably ' if likely else ''}slowed it: *{many}*, {first.expected_w:.1f} to {first.floor_w:.1f} W,"
            f" from *{_where(reading, first, fahrenheit)}*",
            first.overruled or _heat_basis(reading, dips, fahrenheit),
            first.start_s,
            dips[-1].end_s,
            "first_throttle",
            places,
        )
    ]
    if throttle.cost_min.value >= NOTABLE_COST_MIN:
        until = "before 80 %" if reading.milestone(80) else "over the run"
        cost = f"about *{plus_minus(throttle.cost_min, 'min')}* {until}"
        lines.append(
            Sentence(
                "heat_cost",
                f"If it was heat, it cost {cost}" if likely else f"Heat cost {cost}",
                f"{throttle.minutes:.0f} min throttled; {throttle.shortfall_wh:.1f} Wh less than at full power",
                first.start_s,
                max(throttle.until_s, first.end_s),
                "heat_cost",
                places,
            )
        )
    return lines


def _heat_basis(reading: Reading, dips: list[Dip], fahrenheit: bool) -> str:
    if len(dips) == 1:
        return with_settle(dips[0])
    known = [d for d in dips if d.onset_c is not None]
    if not known:
        return dips[0].why
    onsets = [d.onset_c for d in known if d.onset_c is not None]
    ends = [c for d in dips[:-1] if (c := _at_end(reading, d)) is not None]
    low, high = temperature(min(onsets), fahrenheit), temperature(max(onsets), fahrenheit)
    text = f"each starts at {low}" if low == high else f"they start between {low} and {high}"
    text += f"; power returns at about {temperature(sum(ends) / len(ends), fahrenheit)}" if ends else ""
    return f"{text} (estimated between readings)" if any(d.estimated for d in known) else text


def with_settle(dip: Dip) -> str:
    """Basis of a cause, and what would settle it."""
    return f"{dip.why}. {dip.settle}".rstrip(". ") if dip.settle else dip.why


def hold_level(dip: Dip) -> float:
    """The percentage that a charge limit stands at: the usual one next to where it began."""
    began = dip.onset_percent or 0.0
    return at_limit(began) or round(began)


def _at_end(reading: Reading, dip: Dip) -> float | None:
    judged = reading.judged
    if judged is None or judged.warmth is None:
        return None
    return judged.warmth.at(judged.grid.index(dip.end_s))


def _cause(reading: Reading, cause: Cause, fahrenheit: bool) -> Sentence:
    assert reading.judged is not None
    dips = _of(reading.judged, cause)
    first = dips[0]
    return Sentence(
        cause,
        _off_at_limit(first, dips)
        or CAUSES[cause].text.format(**_counted(dips), where=_where(reading, first, fahrenheit)),
        first.overruled or with_settle(first),
        first.start_s,
        dips[-1].end_s,
        "dips",
        _places(dips),
    )


def _counted(dips: list[Dip]) -> dict[str, Any]:
    """Values that the words of a cause may hold."""
    first = dips[0]
    return {
        "times": "once" if len(dips) == 1 else f"{len(dips)} times",
        "long": duration(sum(d.minutes for d in dips) * MINUTE_S),
        "percent": hold_level(first),
        "before": first.expected_w,
        "after": first.floor_w,
    }


def _off_at_limit(first: Dip, dips: list[Dip]) -> str:
    limit = at_limit(first.onset_percent) if first.low else None
    if first.cause != "unexplained" or limit is None or "limits off" not in first.why or len(dips) > 1:
        return ""
    return f"Stopped at *{limit:g} %* for *{_counted(dips)['long']}* with limits off: unexplained"


def stage_words(reading: Reading, fahrenheit: bool = False) -> list[Sentence]:
    """Steps down that are no dips, and where the phone begins to slow by itself."""
    judged = reading.judged
    if judged is None or judged.course is None:
        return []
    grid, steps = judged.grid, stage_steps(judged)
    lines: list[Sentence] = []
    if steps:
        watts = " to ".join(f"{w:.1f}" for w in [steps[0][0].watts, *(b.watts for _, b in steps)])
        top = reading.phone_heat
        if top is not None and top.max_c < HOT_C:
            basis = f"It was never above {temperature(top.max_c, fahrenheit)}, so heat is unlikely"
        else:
            basis = "Heat or the phone's own schedule: repeat it with a fan to know"
        lines.append(
            Sentence(
                "stages",
                f"Drops from *{watts} W* and stays there",
                basis,
                grid.edge_s(steps[0][0].first),
                grid.edge_s(steps[-1][1].end),
                "phases",
            )
        )
    taper = next((p for p in judged.phases if p.kind == "taper"), None)
    if taper is not None:
        percent = reading.percent_at_s(taper.start_s)
        level = "" if percent is None else f" from *{percent:.0f} %*"
        lines.append(
            Sentence(
                "taper",
                f"Slows{level}, after *{moment(taper.start_s - reading.placed_s)}*",
                "normal slowing near full",
                taper.start_s,
                taper.end_s,
                "phases",
            )
        )
    return lines


def output_words(reading: Reading) -> list[Sentence]:
    """Sentence on the class that the charger behaves like, and whether its claim is met at its best, and kept up."""
    output, settled = reading.output, reading.best_settled
    if output is None or output.group is None or settled is None:
        return []
    group = output.group
    names = sorted([group.watts, *group.also_possible])
    classes = " or ".join(f"{w:g}" for w in names)
    behaves = f"Behaves like *{classes} W*" if group.fits else f"Fits *no class*; the nearest is {group.watts:g} W"
    by_idle = next((e for e in output.estimates if e.method == "idle subtraction, no-load"), None)
    beside = f"; {by_idle.watts.value:.1f} W less its no-load draw" if by_idle else ""
    basis = f"{plus_minus(group.output, 'W')} by reference ratio (k = {output.ratio.value.value:.2f}){beside}"
    if reading.conditions.simulated:
        # A simulation knows nothing of what a maker claims.
        return [Sentence("output", behaves, basis, settled.start_s, settled.end_s, "output_ratio")]
    if group.undecided:
        basis += f"; {group.undecided}"
    elif group.claim_met is False and _flat_and_cool(reading):
        basis += f"; steady and under {threshold(HOT_C)}: a lower class, not throttled"
    if group.kept is not None:
        basis += f"; {plus_minus(group.kept, 'W')} on average to 60 %"
    text = behaves + _claim_said(reading)
    return [Sentence("output", text, basis, settled.start_s, settled.end_s, "output_ratio")]


def _claim_said(reading: Reading) -> str:
    """Whether the claim is met: at its best, and over the charge."""
    assert reading.output is not None and reading.output.group is not None
    group = reading.output.group
    if group.claimed_w is None:
        return ""
    claim = f"; the claim of {group.claimed_w:g} W is"
    if group.claim_met is not True:
        return f"{claim} *{'undecided' if group.claim_met is None else 'not met'}*"
    if group.claim_kept is None:
        return f"{claim} *met at its best*; how long it lasts is not known"
    if group.claim_kept:
        return f"{claim} *met*, and kept up to 60 %"
    until = reading.milestone(80)
    end_s = until.estimate_s if until is not None else reading.log.trace.end_s
    k = reading.output.ratio.value.value
    held = minutes_at_least(reading.log.trace, reading.placed_s, end_s, (group.claimed_w - group.output.expanded) * k)
    of = (end_s - max(reading.placed_s, reading.log.trace.start_s)) / MINUTE_S
    upto = "to 80 %" if until is not None else "in all"
    return f"{claim} *met at its best, not kept up*: {held:.0f} of {of:.0f} min {upto}"


def _flat_and_cool(reading: Reading) -> bool:
    heat, judged = reading.phone_heat, reading.judged
    return heat is not None and heat.max_c < HOT_C and judged is not None and not any(d.throttle for d in judged.dips)


def forecast_words(reading: Reading, fahrenheit: bool = False) -> list[Sentence]:
    """Where the temperature would have gone, had the power stayed."""
    node, heat = reading.node, reading.phone_heat
    if node is None or heat is None or node.steady_c.value < heat.max_c + NOTABLE_FORECAST_K:
        return []
    crossed = [
        f"{threshold(float(c), fahrenheit)} after {duration(node.start_s - reading.placed_s + at.value)}"
        for c in THRESHOLDS_C
        if c > heat.max_c and (at := node.crossing(float(c))) is not None
    ]
    return [
        Sentence(
            "forecast",
            f"Kept at {node.watts:.1f} W it would have levelled off near"
            f" *{temperature(node.steady_c.value, fahrenheit)}* (extrapolated)",
            f"± {node.steady_c.expanded * (1.8 if fahrenheit else 1.0):.1f}"
            f" {'°F' if fahrenheit else 'K'}, from {counted(node.readings, 'reading')} over"
            f" {duration(node.end_s - node.start_s)}; time constant {node.tau_s.value / MINUTE_S:.0f} min"
            + (f"; {', '.join(crossed)}" if crossed else ""),
            node.start_s,
            node.end_s,
            "steady",
        )
    ]


def five_words(reading: Reading, fahrenheit: bool = False) -> str:
    """The judgement in a list: the strongest thing in five words; empty where there is nothing special."""
    judged, throttle = reading.judged, reading.throttle
    if judged is None:
        return ""
    if judged.outcome:
        return "*does not charge*"
    if throttle is not None and throttle.first is not None:
        at = onset_said(throttle.first, fahrenheit)
        if throttle.likely:
            return f"*probably heat*, from {at}"
        if throttle.cost_min.value >= 1:
            return f"heat cost *{throttle.cost_min.value:.0f} min*, from {at}"
        return f"throttles at *{at}*"
    for cause, facts in CAUSES.items():
        dips = _of(judged, cause)
        if dips and facts.short:
            return facts.short.format(**_counted(dips))
    group = reading.output.group if reading.output is not None else None
    if group is None or group.claimed_w is None or reading.conditions.simulated:
        return ""
    if group.claim_met is False:
        return f"claims {group.claimed_w:g} W, *behaves like {group.watts:g} W*"
    return ""
