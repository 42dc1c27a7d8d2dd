"""Recharge, keeping, passing through and a phone that gives, in sentences that name their figures."""

from collections.abc import Sequence

from ..measured import Measured
from ..wording import duration, plus_minus, share
from .converter import AtLoad
from .load_notes import mode_of
from .pack_sentences import PackSentence
from .phone_to_phone import PhoneToPhone
from .refill import PassThrough, Recharge, StandbyLoss, round_trip
from .together import Together


def recharge_sentences(recharge: Recharge, delivered: Measured | None) -> list[PackSentence]:
    """A recharge; delivered [Wh] : by a load test from full to empty, for the round trip."""
    lines = []
    if recharge.seconds > 0:
        full = "Full after" if recharge.full else "Took power for"
        more = "" if recharge.full else ", and was not seen full"
        lines.append(PackSentence("recharge_time", f"{full} {duration(recharge.seconds)}{more}"))
    if recharge.taken_wh is not None:
        least = "" if recharge.full else "at least "
        lines.append(PackSentence("taken", f"Took {least}{plus_minus(recharge.taken_wh, 'Wh')}"))
    if recharge.best_w is not None:
        volts = recharge.at_v
        mode = "" if volts is None else f" at {volts:.1f} V"
        name = "" if volts is None or not mode_of(volts) else f", the {mode_of(volts)} profile"
        lines.append(PackSentence("recharge_w", f"Draws {recharge.best_w:.1f} W in its best minute{mode}{name}"))
    if recharge.whole and delivered is not None and recharge.taken_wh is not None:
        trip = round_trip(delivered, recharge.taken_wh)
        off = "" if trip.stated is None else f" ± {100 * trip.expanded:.0f}"
        lines.append(
            PackSentence(
                "round_trip",
                f"{100 * trip.value:.0f}{off} % of what was filled in comes out again: {delivered.value:.1f} of"
                f" {recharge.taken_wh.value:.1f} Wh",
            )
        )
    return lines


def recharge_warnings(recharge: Recharge) -> list[str]:
    """Cautions on a recharge."""
    lines = []
    if not recharge.full:
        lines.append("Whether it was full then is not shown: log on until it draws next to nothing for five minutes.")
    elif not recharge.whole:
        lines.append("A round trip needs a recharge from empty: note the level at which it began.")
    return lines


def standby_said(standby: StandbyLoss) -> PackSentence:
    """StandbyLoss loss of a pack a day."""
    lost, days = standby.bounds, standby.days
    if lost.high <= 0:
        return PackSentence("standby", f"Lost nothing in {days:.0f} days")
    if lost.low <= 0:
        return PackSentence(
            "standby",
            f"Loses at most {lost.high:.2f} points a day; in {days:.1f} days its gauge shows no loss for sure",
        )
    empty = 100.0 / lost.value
    return PackSentence(
        "standby",
        f"Loses {lost.value:.2f} ± {standby.measured.expanded:.2f} points a day, full to empty in some"
        f" {empty:.0f} days if it goes on like that",
    )


def pass_sentences(passed: PassThrough, by_load: Sequence[AtLoad] = ()) -> list[PackSentence]:
    """Power through a pack while it is charged."""
    off = "" if passed.share.stated is None else f" ± {100 * passed.share.expanded:.0f}"
    lines = [
        PackSentence(
            "pass_through",
            f"Passes power through while it is charged: {100 * passed.share.value:.0f}{off} % of what goes in comes"
            f" out, {passed.out_wh.value:.1f} of {passed.in_wh.value:.1f} Wh in {duration(passed.seconds)}",
        ),
        PackSentence("kept", f"Kept or lost {passed.kept_wh:.1f} Wh: filling itself is in that"),
    ]
    if len(by_load) > 1:
        lines.append(converter_said(by_load))
    return lines


def converter_said(by_load: Sequence[AtLoad]) -> PackSentence:
    """Efficiency of the converter over its loads."""
    least, best = by_load[0], max(by_load, key=lambda a: a.share.value)
    most = by_load[-1]
    tail = "" if most is best else f", {share(most.share.value)} at {most.out_w:.1f} W"
    return PackSentence(
        "converter",
        f"Out of in: {share(least.share.value)} at {least.out_w:.1f} W, {share(best.share.value)} at"
        f" {best.out_w:.1f} W{tail}",
    )


def together_sentences(both: Together, names: tuple[str, str] = ("the first", "the second")) -> list[PackSentence]:
    """Two outputs at once."""
    a, b = both.best_w
    lines = [
        PackSentence(
            "together",
            f"Two outputs at once: {a:.1f} W and {b:.1f} W in their best minutes, {plus_minus(both.delivered_wh, 'Wh')}"
            f" in {duration(both.seconds)}",
        )
    ]
    lines += [
        PackSentence(
            "yielded",
            f"As {names[1 - y.output]} was loaded, {names[y.output]} went from {y.from_v:.1f} to {y.to_v:.1f} V",
        )
        for y in both.yielded
    ]
    return lines


def phone_to_phone_sentences(given: PhoneToPhone, giver: str, taker: str, by_cord: bool) -> list[PackSentence]:
    """A phone as the pack."""
    way = "by cord" if by_cord else "by coil"
    high = "more" if given.a_point.high == float("inf") else f"{given.a_point.high:.2f}"
    lines = [
        PackSentence(
            "a_point",
            f"{taker} gains {given.a_point.value:.2f} points for each that {giver} gives {way}"
            f" ({given.a_point.low:.2f} to {high}): {given.gained.value:.0f} for {given.given.value:.0f} in"
            f" {duration(given.seconds)}",
        )
    ]
    if given.arrived is not None and given.giver_wh is not None and given.taker_wh is not None:
        most = "more" if given.arrived.high == float("inf") else share(given.arrived.high)
        lines.append(
            PackSentence(
                "arrived",
                f"By both batteries {given.giver_wh.value:.1f} Wh given, {given.taker_wh.value:.1f} Wh gained:"
                f" {share(given.arrived.value)} ({share(given.arrived.low)} to {most})",
            )
        )
    if given.stopped_at is not None:
        why = f", hottest {given.hottest_c:.1f} °C" if given.hottest_c is not None else ""
        heat = ": warm enough to have stopped by heat" if given.by_heat else ""
        lines.append(PackSentence("stopped", f"{giver} stopped giving at {given.stopped_at:.0f} %{why}{heat}"))
    return lines
