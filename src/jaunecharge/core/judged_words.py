"""What the judgement of a run says in words: what heat did, what else took power away, what was delivered."""

from collections.abc import Sequence
from itertools import pairwise

from .causes import HOLD_NEAR, HOLD_PERCENTS, Cause, Dip
from .heat import HOT_C
from .judged import Judged
from .reading import Reading
from .sentence import Sentence, say
from .units import MINUTE_S
from .words import counted, duration, plus_minus, temperature, threshold

NOTABLE_COST_MIN = 0.5
NOTABLE_FORECAST_K = 1.0


def judged_words(reading: Reading, fahrenheit: bool = False) -> list[Sentence]:
    """What took power away, heat first, then the causes in the order of what they cost."""
    judged = reading.judged
    if judged is None:
        return []
    if judged.outcome:
        trace = reading.log.trace
        return [
            say(
                "outcome",
                "*Does not charge*: placed, and never above no-load for a minute",
                f"at the most {judged.grid.smooth.max():.1f} W; a thick case, no coil where it lies, or a profile that"
                " the two do not share",
                reading.placed_s,
                trace.end_s,
            )
        ]
    others = [c for c in ("hold", "supply", "contact", "restart", "unexplained") if _of(judged, c)]
    others.sort(key=lambda c: -sum(d.minutes for d in _of(judged, c)))
    return [*heat_cost(reading, fahrenheit), *(_cause(reading, c, fahrenheit) for c in others)]


def _of(judged: Judged, *causes: str) -> list[Dip]:
    return [d for d in judged.dips if d.cause in causes]


def _places(dips: Sequence[Dip]) -> tuple[tuple[float, float], ...]:
    return tuple((d.start_s, d.end_s) for d in dips)


def _where(reading: Reading, dip: Dip, fahrenheit: bool) -> str:
    """When a dip began: `26 min (29 %, 42.4 °C)`."""
    known = [] if dip.onset_percent is None else [f"{dip.onset_percent:.0f} %"]
    known += [] if dip.onset_c is None else [temperature(dip.onset_c, fahrenheit)]
    inside = f" ({', '.join(known)})" if known else ""
    return f"{duration(dip.start_s - reading.placed_s)}{inside}"


def heat_cost(reading: Reading, fahrenheit: bool) -> list[Sentence]:
    """That heat slowed the run, and what it cost; nothing where it did not."""
    judged, found = reading.judged, reading.throttle
    if judged is None or found is None or found.first is None:
        return []
    dips = _of(judged, "heat", "heat_cutout")
    first, places = found.first, _places(dips)
    stops = [d for d in dips if d.cause == "heat_cutout"]
    what = "stop" if len(stops) == len(dips) else "dip"
    lasting = len(dips) == 1 and dips[0].lasting
    many = "one lasting cut" if lasting else counted(len(dips), what)
    said = [
        say(
            "throttle",
            f"Heat is what slowed it: *{many}*, {first.expected_w:.1f} to {first.floor_w:.1f} W, from"
            f" *{_where(reading, first, fahrenheit)}*",
            first.overruled or _heat_basis(reading, dips, fahrenheit),
            first.start_s,
            dips[-1].end_s,
            "first_throttle",
            places,
        )
    ]
    if found.cost_min.value >= NOTABLE_COST_MIN:
        until = "before 80 %" if reading.milestone(80) else "over the run"
        said.append(
            say(
                "heat_cost",
                f"Heat cost about *{plus_minus(found.cost_min, 'min')}* {until}",
                f"{found.minutes:.0f} min throttled; {found.shortfall_wh:.1f} Wh short of its own level",
                first.start_s,
                max(found.until_s, first.end_s),
                "heat_cost",
                places,
            )
        )
    return said


def _heat_basis(reading: Reading, dips: list[Dip], fahrenheit: bool) -> str:
    if len(dips) == 1:
        return dips[0].why if not fahrenheit else f"began at {_onset(dips[0], fahrenheit)}; {dips[0].minutes:.0f} min"
    onsets = [d.onset_c for d in dips if d.onset_c is not None]
    ends = [c for d in dips[:-1] if (c := _at_end(reading, d)) is not None]
    low, high = temperature(min(onsets), fahrenheit), temperature(max(onsets), fahrenheit)
    said = f"each begins at {low}" if low == high else f"they begin between {low} and {high}"
    return said + (f"; power returns at about {temperature(sum(ends) / len(ends), fahrenheit)}" if ends else "")


def hold_level(dip: Dip) -> float:
    """The percentage that a charge limit stands at: the usual one next to where it began."""
    began = dip.onset_percent or 0.0
    nearest = min(HOLD_PERCENTS, key=lambda p: abs(p - began))
    return nearest if abs(nearest - began) <= HOLD_NEAR else round(began)


def _onset(dip: Dip, fahrenheit: bool) -> str:
    return "an unknown temperature" if dip.onset_c is None else temperature(dip.onset_c, fahrenheit)


def _at_end(reading: Reading, dip: Dip) -> float | None:
    judged = reading.judged
    if judged is None or judged.warmth is None:
        return None
    return judged.warmth.at(judged.grid.index(dip.end_s))


def _cause(reading: Reading, cause: str, fahrenheit: bool) -> Sentence:
    assert reading.judged is not None
    dips = _of(reading.judged, cause)
    first, minutes = dips[0], sum(d.minutes for d in dips)
    times = "once" if len(dips) == 1 else f"{len(dips)} times"
    long = duration(minutes * MINUTE_S)
    where = _where(reading, first, fahrenheit)
    basis = first.overruled or first.why
    text = {
        "hold": f"Held at *{hold_level(first):g} %* for *{long}*: a charge limit, not a fault",
        "supply": f"The supply gave less *{times}*, {long} in all: {first.expected_w:.1f} to {first.floor_w:.1f} W",
        "contact": f"Lost contact *{times}*, {long} in all, first at {where}",
        "restart": f"Started over *{times}*, first at {where}",
        "unexplained": f"Power fell *{times}* for no proven cause, {first.expected_w:.1f} to {first.floor_w:.1f} W,"
        f" {long} in all",
    }[cause]
    return say(
        cause,
        text,
        f"{basis}. {first.settle}".rstrip(". ") if first.settle else basis,
        first.start_s,
        dips[-1].end_s,
        "dips",
        _places(dips),
    )


def stage_words(reading: Reading, fahrenheit: bool = False) -> list[Sentence]:
    """Steps down that are no dips, and where the phone begins to slow by itself."""
    judged = reading.judged
    if judged is None or judged.course is None:
        return []
    grid, levels = judged.grid, judged.course.levels
    cut = {round(d.start_s) for d in judged.dips if d.lasting}
    steps = [(a, b) for a, b in pairwise(levels) if b.watts < 0.94 * a.watts]
    steps = [s for s in steps if not any(abs(grid.edge_s(s[0].end) - at) < 2 * MINUTE_S for at in cut)]
    said: list[Sentence] = []
    if steps:
        watts = ", ".join(f"{w:.1f}" for w in [steps[0][0].watts, *(b.watts for _, b in steps)])
        top = reading.phone_heat
        warm = f"at {temperature(top.max_c, fahrenheit)} at the most; " if top is not None else ""
        single = (
            "policy and heat cannot be told apart by one such step: the same run with a fan would tell"
            if top is None or top.max_c >= HOT_C
            else "it steps down for good while it is not hot"
        )
        said.append(
            say(
                "stages",
                f"Steps down for good: *{watts} W*",
                f"{warm}{single}",
                grid.edge_s(steps[0][0].first),
                grid.edge_s(steps[-1][1].end),
                "phases",
            )
        )
    taper = next((p for p in judged.phases if p.kind == "taper"), None)
    if taper is not None:
        percent = reading.percent_at_s(taper.start_s)
        level = "" if percent is None else f" from *{percent:.0f} %*"
        said.append(
            say(
                "taper",
                f"Slows by itself{level}, after *{duration(taper.start_s - reading.placed_s)}*",
                "the taper: smooth, for good, and no fault",
                taper.start_s,
                taper.end_s,
                "phases",
            )
        )
    return said


def output_words(reading: Reading) -> list[Sentence]:
    """What class the charger behaves like, and whether its claim is met."""
    found, settled = reading.output, reading.best_settled
    if found is None or found.group is None or settled is None:
        return []
    group = found.group
    names = sorted([group.watts, *group.also_possible])
    classes = " or ".join(f"{w:g}" for w in names)
    behaves = f"Behaves like *{classes} W*" if group.fits else f"Fits *no class*; the nearest is {group.watts:g} W"
    claim = ""
    if group.claimed_w is not None:
        verdict = {True: "*met*", False: "*not met*", None: "*undecided*"}[group.claim_met]
        claim = f"; the claim of {group.claimed_w:g} W is {verdict}"
    by_idle = next((e for e in found.estimates if e.method == "idle subtraction, no-load"), None)
    beside = f"; {by_idle.watts.value:.1f} W less its no-load draw" if by_idle else ""
    basis = f"{plus_minus(group.output, 'W')} by reference ratio (k = {found.ratio.value.value:.2f}){beside}"
    if group.undecided:
        basis += f"; {group.undecided}"
    elif group.claim_met is False and _flat_and_cool(reading):
        basis += f"; flat and under {threshold(HOT_C)}: a lower class, not throttled"
    return [say("output", behaves + claim, basis, settled.start_s, settled.end_s, "output_ratio")]


def _flat_and_cool(reading: Reading) -> bool:
    heat, judged = reading.phone_heat, reading.judged
    return heat is not None and heat.max_c < HOT_C and judged is not None and not any(d.throttle for d in judged.dips)


def forecast_words(reading: Reading, fahrenheit: bool = False) -> list[Sentence]:
    """Where the temperature would have gone, had the power stayed."""
    node, heat = reading.node, reading.phone_heat
    if node is None or heat is None or node.steady_c.value < heat.max_c + NOTABLE_FORECAST_K:
        return []
    crossed = [
        f"{threshold(c, fahrenheit)} after {duration(node.start_s - reading.placed_s + at.value)}"
        for c in (40.0, 43.0, 45.0, 48.0, 50.0)
        if c > heat.max_c and (at := node.crossing(c)) is not None
    ]
    return [
        say(
            "forecast",
            f"At {node.watts:.1f} W it would have come to *{temperature(node.steady_c.value, fahrenheit)}*",
            f"± {node.steady_c.expanded * (1.8 if fahrenheit else 1.0):.1f}"
            f" {'°F' if fahrenheit else 'K'}, from {counted(node.readings, 'reading')} over"
            f" {duration(node.end_s - node.start_s)}, τ {node.tau_s.value / MINUTE_S:.0f} min"
            + (f"; {', '.join(crossed)}" if crossed else ""),
            node.start_s,
            node.end_s,
            "steady",
        )
    ]


def five_words(reading: Reading, fahrenheit: bool = False) -> str:
    """What the judgement adds to a list: the strongest thing in five words; empty where there is nothing special."""
    judged, found = reading.judged, reading.throttle
    if judged is None:
        return ""
    if judged.outcome:
        return "*does not charge*"
    if found is not None and found.first is not None:
        at = _onset(found.first, fahrenheit)
        if found.cost_min.value >= 1:
            return f"heat cost *{found.cost_min.value:.0f} min*, from {at}"
        return f"throttles at *{at}*"
    causes: dict[Cause, str] = {
        "supply": "supply gave less *{n}*",
        "hold": "held at *{p} %*",
        "restart": "started over *{n}*",
        "contact": "lost contact *{n}*",
        "unexplained": "power fell *{n}*, unexplained",
    }
    for cause, words in causes.items():
        dips = _of(judged, cause)
        if dips:
            times = "once" if len(dips) == 1 else f"{len(dips)} times"
            return words.format(n=times, p=f"{hold_level(dips[0]):g}")
    group = reading.output.group if reading.output is not None else None
    if group is not None and group.claim_met is False and group.claimed_w is not None:
        return f"claims {group.claimed_w:g} W, *behaves like {group.watts:g} W*"
    return ""
