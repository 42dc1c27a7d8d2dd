"""The figures of a pack with their working: the rule, and the rule with this pack's numbers in it."""

from collections.abc import Sequence

from ..measured import Measured
from ..report import Figure
from ..units import HOUR_S
from ..wording import share
from .charges import Bounds, InTurn, PackCharge, full_charges, points_gained, points_used, transfer_efficiency
from .load_notes import LoadNotes
from .load_sentences import most_held_w
from .load_test import LoadTest
from .overview import Overview
from .phone_to_phone import PhoneToPhone
from .rating import APPROVAL_WH, CABIN_SOURCE, CABIN_WH, GOOD_SHARE, Rating, mah_at_usb, share_of_rated_mah
from .refill import PassThrough, Recharge, StandbyLoss, round_trip
from .together import Together
from .walk import BY_COIL_BOUNDS, BY_CORD_BOUNDS, USUAL_BY_COIL, USUAL_BY_CORD, Stage, losses

PRINTED = "as printed; mAh × V is the energy by definition"
TRAPEZOID = "trapezoid; meter's gain and counts common to all samples: JCGM 100:2008, 5.2.2 and 4.3.7"
LINE = "least squares; its ± by Student's t for so few loads: JCGM 100:2008, G.3"
PRACTICE = "common practice"
GAUGES = "a whole number is half a point wide, lamps a step: what both gauges leave open"


def _figure(key: str, label: str, unit: str, value: Measured | float, point: str, rule: tuple[str, str, str],
            low: float | None = None, high: float | None = None) -> Figure:  # fmt: skip
    formula, numbers, source = rule
    measured = value if isinstance(value, Measured) else Measured(value)
    return Figure(
        key=key, label=label, unit=unit, value=measured.value, expanded=measured.stated, point=point, formula=formula,
        numbers=numbers, source=source, budget=measured.parts, low=low, high=high,
    )  # fmt: skip


def rated_figure(rated: Rating) -> Figure:
    """Rated energy."""
    return _figure("rated", "rated energy", "Wh", rated.wh, "cells", (
        "rated mAh × volts of the cells ÷ 1000", f"{rated.mah:g} mAh × {rated.cell_v:g} V ÷ 1000", PRINTED,
    ))  # fmt: skip


def cabin_figure(rated: Rating) -> Figure:
    """Energy that decides whether it may fly, with where the limits come from and of when they are."""
    return _figure("cabin", "energy for the cabin", "Wh", rated.wh, "cells", (
        f"up to {CABIN_WH:g} Wh usually in the cabin, up to {APPROVAL_WH:g} Wh with the carrier's approval; never"
        " checked in", f"{rated.mah:g} mAh × {rated.cell_v:g} V ÷ 1000 = {rated.wh:.1f} Wh", CABIN_SOURCE,
    ))  # fmt: skip


def load_figures(rated: Rating, test: LoadTest, notes: LoadNotes = LoadNotes()) -> list[Figure]:
    """The figures of a load test."""
    rows = [rated_figure(rated)]
    wh = test.delivered_wh
    if wh is not None:
        least = "at least, " if test.at_least else ""
        how = "as the display says" if test.by_eye else "∫ volts × amps dt, from the first load to the cut-off"
        span = "" if test.by_eye else f"{least}{(test.end_s - test.start_s) / HOUR_S:.2f} h under load"
        rows += [
            _figure("delivered", "delivered", "Wh", wh, "output", (how, span or f"{least}{wh.value:g} Wh", TRAPEZOID)),
            _figure("yield", "yield", "%", wh.scaled(100.0 / rated.wh), "output", (
                "delivered ÷ rated energy", f"{wh.value:.2f} ÷ {rated.wh:.2f} Wh", "what is printed counts as exact",
            )),
            _figure("mah_at_5v", "the same at 5 V", "mAh", wh.scaled(mah_at_usb(1.0)), "output", (
                "delivered ÷ 5 V × 1000; a good pack gives half of its rated mAh",
                f"{wh.value:.2f} Wh ÷ 5 V × 1000: {share(share_of_rated_mah(wh.value, rated))} of {rated.mah:g} mAh,"
                f" half is {GOOD_SHARE * rated.mah:g}", PRACTICE,
            )),
        ]  # fmt: skip
    if test.delivered_ah is not None:
        rows.append(_figure("charge", "charge delivered", "Ah", test.delivered_ah, "output", (
            "∫ amps dt, from the first load to the cut-off", f"{test.delivered_ah.value:.3f} Ah", TRAPEZOID,
        )))  # fmt: skip
    if test.no_load_v is not None:
        rows.append(_figure("no_load_v", "volts without a load", "V", test.no_load_v, "output", (
            "median before the first load", f"{test.no_load_v.value:.3f} V", TRAPEZOID,
        )))  # fmt: skip
    if test.line is not None:
        loads = ", ".join(f"{s.volts:.3f} V at {s.amps:.2f} A" for s in test.steps[:12])
        ohm = test.line.resistance_ohm.scaled(1000.0)
        rows.append(_figure("resistance", "source resistance", "mΩ", ohm, "output", (
            "− slope of volts over amps, across the loads of one profile", loads, LINE,
        )))  # fmt: skip
    if test.sag_v is not None and test.no_load_v is not None:
        rows.append(_figure("sag", "sag at the largest load", "V", test.sag_v, "output", (
            "volts without a load − volts at the largest load that it held",
            f"{test.no_load_v.value:.3f} − {test.no_load_v.value - test.sag_v:.3f} V", TRAPEZOID,
        )))  # fmt: skip
    if test.cut_off is not None:
        rows.append(_figure("cut_off", "time to the cut-off", "h", test.cut_off, "output", (
            "from the first load to where the output was gone; it went somewhere between two rows",
            f"{test.cut_off.value:.3f} h", "95 % of the time between two rows",
        )))  # fmt: skip
    if test.trip_a is not None and test.trip is not None:
        rows.append(_figure("trip", "lets go at", "A", test.trip_a, "output", (
            "between the largest load that it held and the one that it let go at",
            f"{test.trip.held_a:.3f} to {test.trip.tripped_at_a or 0:.3f} A", "95 % of that step, and the meter's gain",
        )))  # fmt: skip
    rows += _course_figures(test, notes)
    held = most_held_w(test)
    if held is not None:
        rows.append(_figure("held", "most that it held", "W", held, "output", (
            "largest volts × amps of a load that it did not let go at", f"{held:.1f} W", "mean of that load",
        )))  # fmt: skip
    return rows


def _course_figures(test: LoadTest, notes: LoadNotes) -> list[Figure]:
    """Sleep, staying awake, giving less and heat, each with the rule that says so."""
    rows = []
    for sleep in test.sleeps[:1]:
        rows.append(_figure("sleep", "sleeps under", "mA", 1000 * sleep.amps, "output", (
            "it went off under a load of up to 150 mA, within half an hour or to come back",
            f"{1000 * sleep.amps:.0f} mA for {sleep.after_s:.0f} s", "common practice: 50 to 120 mA",
        )))  # fmt: skip
    if test.awake is not None:
        rows.append(_figure("awake", "stays on under", "mA", 1000 * test.awake.amps, "output", (
            "the smallest load of up to 150 mA that it held for half an hour",
            f"{1000 * test.awake.amps:.0f} mA for {test.awake.seconds / 60:.0f} min", "own choice",
        )))  # fmt: skip
    for fold in test.folded[:1]:
        rows.append(_figure("folded", "gave less", "W", fold.from_w - fold.to_w, "output", (
            "two stretches of one profile, a minute each: less volts, and under 85 % of the watts",
            f"{fold.from_w:.2f} − {fold.to_w:.2f} W", "own choice",
        )))  # fmt: skip
    if notes.hottest is not None:
        rows.append(_figure("hottest", "hottest", "°C", notes.hottest[1], "pack", (
            "the highest of its temperatures", f"{len(notes.heat)} readings", "as read",
        )))  # fmt: skip
    return rows


def together_figure(both: Together) -> Figure:
    """Energy of two outputs while both were loaded."""
    a, b = both.best_w
    return _figure("together", "both outputs at once", "Wh", both.delivered_wh, "outputs", (
        "∫ volts × amps dt of both, over the time that both were loaded",
        f"{both.seconds / HOUR_S:.2f} h; best minutes {a:.1f} and {b:.1f} W", TRAPEZOID,
    ))  # fmt: skip


def in_turn_figure(turn: InTurn) -> Figure:
    """Full charges of several phones in turn."""
    return _figure("in_turn", "full charges in turn", "", turn.charges.value, "phones", (
        "points that the phones gained ÷ 100, one after the other from one full pack",
        f"{100 * turn.charges.value:g} points, the pack {turn.used.value:g} points", GAUGES,
    ), *_ends(turn.charges))  # fmt: skip


def coil_and_cord_figure(coil: Bounds, cord: Bounds) -> Figure:
    """Full charges by coil for each by cord."""
    most = coil.high / cord.low if cord.low > 0 else float("inf")
    ratio = Bounds(coil.low / cord.high, coil.value / cord.value, most)
    return _figure("coil_and_cord", "by coil for each by cord", "", ratio.value, "phone", (
        "full charges by coil ÷ full charges by cord; different only where the two ranges do not touch",
        f"{coil.value:.2f} ÷ {cord.value:.2f}", GAUGES,
    ), *_ends(ratio))  # fmt: skip


def charge_figures(rated: Rating, charge: PackCharge) -> list[Figure]:
    """The figures of a phone's charge from a pack."""
    charges, efficiency = full_charges(charge), transfer_efficiency(charge, rated)
    rows = [rated_figure(rated)]
    if charges is None:
        return rows
    gained, used = points_gained(charge), points_used(charge)
    rows.append(_figure("charges", "full charges", "", charges.value, "phone", (
        "points that the phone gained ÷ points that the pack lost", f"{gained.value:g} ÷ {used.value:g}", GAUGES,
    ), *_ends(charges)))  # fmt: skip
    if efficiency is not None and charge.phone_wh is not None:
        ends = _ends(Bounds(100 * efficiency.low, 100 * efficiency.value, 100 * efficiency.high))
        rows.append(_figure("efficiency", "transfer efficiency", "%", 100 * efficiency.value, "phone", (
            "full charges × energy of the phone's battery ÷ energy of the pack",
            f"{charges.value:.2f} × {charge.phone_wh:.2f} Wh ÷ {rated.wh:.2f} Wh; losses within the pack included",
            GAUGES,
        ), *ends))  # fmt: skip
    return rows


def _ends(bounds: Bounds) -> tuple[float | None, float | None]:
    return (bounds.low, bounds.high) if bounds.high < float("inf") else (None, None)


def recharge_figures(recharge: Recharge, delivered: Measured | None) -> list[Figure]:
    """The figures of a recharge; delivered [Wh] : by a load test from full to empty."""
    rows = []
    if recharge.seconds > 0:
        rows.append(_figure("recharge_time", "time to full" if recharge.full else "time so far", "h",
                            recharge.seconds / HOUR_S, "input", (
            "from the first watt to where no more than 6 % of its best power is drawn, for five minutes",
            f"{recharge.seconds / HOUR_S:.2f} h", "own choice",
        )))  # fmt: skip
    if recharge.best_w is not None:
        rows.append(_figure("recharge_w", "best minute", "W", recharge.best_w, "input", (
            "the highest mean of a minute", f"{recharge.best_w:.2f} W", "as read",
        )))  # fmt: skip
    if recharge.taken_wh is not None:
        rows.append(_figure("taken", "taken", "Wh", recharge.taken_wh, "input", (
            "∫ volts × amps dt over that time", f"{recharge.taken_wh.value:.2f} Wh", TRAPEZOID,
        )))  # fmt: skip
        if recharge.whole and delivered is not None:
            trip = round_trip(delivered, recharge.taken_wh).scaled(100.0)
            rows.append(_figure("round_trip", "round trip", "%", trip, "input to output", (
                "delivered ÷ taken, both between empty and full",
                f"{delivered.value:.2f} ÷ {recharge.taken_wh.value:.2f} Wh", TRAPEZOID,
            )))  # fmt: skip
    return rows


def standby_figure(standby: StandbyLoss) -> Figure:
    """StandbyLoss loss, with the interval that two readings of a gauge leave."""
    points = standby.bounds.value * standby.days
    return _figure("standby", "lost a day", "points", standby.measured, "gauge", (
        "(level at first − level at last) ÷ days between", f"{points:.1f} points ÷ {standby.days:g} days",
        "95 % interval of two rectangles, a half point or half a lamp's step each",
    ))  # fmt: skip


def pass_figures(passed: PassThrough) -> list[Figure]:
    """The figures of power through a pack."""
    return [
        _figure("pass_through", "out of in", "%", passed.share.scaled(100.0), "input to output", (
            "energy out ÷ energy in, over the time that both meters saw",
            f"{passed.out_wh.value:.2f} ÷ {passed.in_wh.value:.2f} Wh", TRAPEZOID,
        )),
        _figure("kept", "kept or lost", "Wh", passed.kept_wh, "pack", (
            "energy in − energy out", f"{passed.in_wh.value:.2f} − {passed.out_wh.value:.2f} Wh", "arithmetic",
        )),
    ]  # fmt: skip


def given_figures(given: PhoneToPhone) -> list[Figure]:
    """The figures of a phone that gives."""
    rows = [_figure("a_point", "points gained for each given", "", given.a_point.value, "batteries", (
        "points that the one gained ÷ points that the other gave", f"{given.gained.value:g} ÷ {given.given.value:g}",
        GAUGES,
    ), *_ends(given.a_point))]  # fmt: skip
    if given.arrived is not None and given.giver_wh is not None and given.taker_wh is not None:
        share_of = Bounds(100 * given.arrived.low, 100 * given.arrived.value, 100 * given.arrived.high)
        rows.append(_figure("arrived", "arrived", "%", share_of.value, "batteries", (
            "points × energy of a point, gained ÷ given",
            f"{given.taker_wh.value:.2f} ÷ {given.giver_wh.value:.2f} Wh", "battery account, by both batteries",
        ), *_ends(share_of)))  # fmt: skip
    return rows


def overview_figures(rated: Rating, found: Overview, price: float | None, currency: str, grams: float | None
                     ) -> list[Figure]:  # fmt: skip
    """The figures of a pack as a whole: its walk, what each watt-hour costs and weighs."""
    rows = [rated_figure(rated), cabin_figure(rated), *_walk_figures(found.stages, found.shown_by)]
    wh = found.delivered
    if wh is not None:
        least = "at least " if found.at_least else ""
        rows.append(_figure("delivered", "delivered", "Wh", wh, "output", (
            "by the latest load test that went to the end, else by the latest", f"{least}{wh.value:.2f} Wh", TRAPEZOID,
        )))  # fmt: skip
    if wh is not None and price is not None:
        rows.append(_figure("per_wh", "price of a delivered Wh", currency, price / wh.value, "output", (
            "price ÷ delivered energy", f"{price:g} {currency} ÷ {wh.value:.2f} Wh", "arithmetic",
        )))  # fmt: skip
    if wh is not None and grams is not None:
        rows.append(_figure("grams_per_wh", "weight of a delivered Wh", "g", grams / wh.value, "output", (
            "weight ÷ delivered energy", f"{grams:g} g ÷ {wh.value:.2f} Wh", "arithmetic",
        )))  # fmt: skip
    return rows


def _walk_figures(stages: Sequence[Stage], shown_by: str) -> list[Figure]:
    by_coil = any(s.key == "coil" for s in stages)
    usual, bounds = (USUAL_BY_COIL, BY_COIL_BOUNDS) if by_coil else (USUAL_BY_CORD, BY_CORD_BOUNDS)
    rules = {
        "socket": "load test from full to empty, else a usual yield",
        "coil": "nobody meters what leaves a coil: from what arrives, by the usual share",
        "phone": f"full charges × energy of the phone's battery{shown_by}, else {share(usual)} of the socket's energy"
        f" ({share(bounds[0])} to {share(bounds[1])})",
    }
    rows = []
    for stage in stages[1:]:
        if stage.wh is None:
            continue
        loss = next((x for x in losses(stages) if x.to_key == stage.key), None)
        lost = "" if loss is None else f"; {loss.wh:.1f} Wh lost on the way, {share(loss.share)} of the rated"
        rows.append(_figure(stage.key, stage.words, "Wh", stage.wh, stage.key, (
            rules[stage.key], f"{stage.stand}: {stage.wh:.2f} Wh{lost}",
            "measured" if stage.stand == "measured" else "estimates from memory, marked so",
        ), stage.low, stage.high))  # fmt: skip
    return rows
