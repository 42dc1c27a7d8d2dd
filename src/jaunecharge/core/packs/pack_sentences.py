"""A pack in sentences: what it promised and what came, each naming the figure that it rests on."""

from dataclasses import dataclass

from ..wording import duration, share
from .charges import Bounds
from .load_test import LoadTest
from .rating import Hours, Rating, cabin_class, is_good, mah_at_usb, share_of_rated_mah

CABIN = {
    "cabin": "{wh:.1f} Wh: usually allowed in the cabin (up to 100 Wh); ask the carrier",
    "with approval": "{wh:.1f} Wh: in the cabin only with the carrier's approval (100 to 160 Wh); ask the carrier",
    "not in the cabin": "{wh:.1f} Wh: more than passengers may take along (160 Wh); ask the carrier",
}


@dataclass(frozen=True)
class PackSentence:
    """One sentence, and the key of the figure that it rests on."""

    key: str
    text: str


def rated_said(rated: Rating) -> PackSentence:
    """The rating as energy."""
    return PackSentence("rated", f"Rated {rated.mah:g} mAh at {rated.cell_v:g} V: {rated.wh:.1f} Wh")


def delivered_said(rated: Rating, wh: float, at_least: bool = False, expanded: float | None = None) -> PackSentence:
    """The delivered energy, and the same as capacity at 5 V, by the rule of thumb."""
    off = "" if expanded is None else f" ± {expanded:.1f}"
    least = "at least " if at_least else ""
    part = share_of_rated_mah(wh, rated)
    words = "a good pack gives half and more" if is_good(wh, rated) else "under the half that a good pack gives"
    doubt = " so far" if at_least and not is_good(wh, rated) else ""
    return PackSentence(
        "delivered",
        f"Delivered {least}{wh:.1f}{off} Wh, {share(wh / rated.wh)} of what is printed; at 5 V"
        f" {mah_at_usb(wh):.0f} mAh, {share(part)} of the rated mAh: {words}{doubt} (common practice)",
    )


def hours_said(load_w: float, hours: Hours) -> PackSentence:
    """The time that it feeds a load, and by which yield."""
    basis = {
        "stated": "at the yield that was stated", "measured": "as measured", "usual": "no test yet: a usual yield",
    }[hours.basis]  # fmt: skip
    return PackSentence(
        "hours", f"Feeds {load_w:g} W for {duration(hours.hours * 3600.0)} ({basis}, {share(hours.share)})"
    )


def charges_said(charges: Bounds) -> PackSentence:
    """Its full charges, with the range that the gauges leave."""
    high = "and more" if charges.high == float("inf") else f"to {charges.high:.2f}"
    return PackSentence("charges", f"{charges.value:.2f} full charges from one full pack ({charges.low:.2f} {high})")


def efficiency_said(efficiency: Bounds) -> PackSentence:
    """The share of its energy that arrived."""
    return PackSentence(
        "efficiency",
        f"Of what the pack gave by its gauge {share(efficiency.value)} reached the phone's battery"
        f" ({share(efficiency.low)} to {share(min(efficiency.high, 9.99))})",
    )


def cabin_said(rated: Rating) -> PackSentence:
    """Its cabin class in words."""
    return PackSentence("cabin", CABIN[cabin_class(rated.wh)].format(wh=rated.wh))


def load_sentences(rated: Rating, test: LoadTest) -> list[PackSentence]:
    """A load test in sentences, the strongest first."""
    lines = [
        delivered_said(rated, test.delivered_wh.value, test.at_least, test.delivered_wh.stated),
    ]
    if test.cut_off_s is not None:
        lines.append(PackSentence("cut_off", f"Cut off after {duration(test.cut_off_s - test.start_s)} under load"))
    if test.line is not None and test.line.resistance_ohm.value > 0:
        r = test.line.resistance_ohm
        off = "" if r.stated is None else f" ± {1000 * r.expanded:.0f}"
        lines.append(
            PackSentence(
                "resistance",
                f"Its volts fall by {1000 * r.value:.0f}{off} mV for each ampere ({test.line.points} loads)",
            )
        )
    if test.sag_v is not None and test.no_load_v is not None:
        most = max(test.steps, key=lambda s: s.amps)
        lines.append(
            PackSentence(
                "sag",
                f"At {most.amps:.2f} A it gives {most.volts:.2f} V, {test.sag_v:.2f} V less than with nothing on it",
            )
        )
    if test.trip is not None:
        back = "; it came back by itself or by its button" if test.trip.back_s is not None else "; it stayed off"
        held = f"held {test.trip.held_a:.2f} A, " if test.trip.held_a > 0 else ""
        at = "above that" if test.trip.tripped_at_a is None else f"at {test.trip.tripped_at_a:.2f} A"
        lines.append(PackSentence("trip", f"Protection: {held}let go {at}{back}"))
    for sleep in test.sleeps[:1]:
        lines.append(
            PackSentence("sleep", f"Goes to sleep under {sleep.amps * 1000:.0f} mA after {duration(sleep.after_s)}")
        )
    for fold in test.folded[:1]:
        lines.append(
            PackSentence(
                "folded",
                f"Gave less after {duration(fold.at_s - test.start_s)} of the same load: {fold.from_w:.1f} to"
                f" {fold.to_w:.1f} W",
            )
        )
    for change in test.profile_changes[:2]:
        lines.append(PackSentence("profile", f"Went from {change.from_v:.1f} to {change.to_v:.1f} V"))
    return lines


def load_warnings(rated: Rating, test: LoadTest) -> list[str]:
    """Cautions on a load test: what its log leaves open."""
    lines = []
    if test.at_least:
        lines.append(
            "The log ends before the pack was empty: it delivered at least so much. Log until the output goes off by"
            " itself."
        )
    if test.delivered_wh.value - test.delivered_wh.expanded > rated.wh:
        lines.append("It delivered more than is printed on it: look at its mAh and volts again.")
    if test.interruptions:
        lines.append(
            f"The output went off {len(test.interruptions)} times for no reason that the log shows, and came back:"
            " note what was done then."
        )
    if test.no_load_v is None:
        lines.append("No volts without a load were logged: begin the log before the load is switched on.")
    if test.line is None:
        lines.append("One load alone shows no resistance: step the load, three levels and more.")
    if test.delivered_wh.stated is None:
        lines.append("The meter's accuracy is not known and is not part of any ±.")
    return lines
