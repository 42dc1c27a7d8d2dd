"""A pack in sentences: what it promised and what came, each naming the figure that it rests on."""

from collections.abc import Sequence
from dataclasses import dataclass

from ..wording import counted, duration, share
from .charges import Bounds, InTurn
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
    return PackSentence("rated", f"Rated {rated.mah:,.0f} mAh at {rated.cell_v:g} V: {rated.wh:.1f} Wh")


def delivered_said(rated: Rating, wh: float, at_least: bool = False, expanded: float | None = None) -> PackSentence:
    """The delivered energy, and the same as capacity at 5 V, by the rule of thumb."""
    off = "" if expanded is None else f" ± {expanded:.1f}"
    least = "at least " if at_least else ""
    part = share_of_rated_mah(wh, rated)
    words = "a good pack gives half and more" if is_good(wh, rated) else "under the half that a good pack gives"
    # What it gave so far says nothing against a pack that was not emptied.
    judged = "" if at_least and not is_good(wh, rated) else f": {words} (common practice)"
    return PackSentence(
        "delivered",
        f"Delivered {least}{wh:.1f}{off} Wh, {share(wh / rated.wh)} of what is printed; at 5 V"
        f" {mah_at_usb(wh):,.0f} mAh, {share(part)} of the rated mAh{judged}",
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


def in_turn_said(phones: Sequence[str], turn: InTurn) -> PackSentence:
    """Phones in turn from one full pack."""
    names = ", then ".join(phones)
    high = f"{turn.charges.high:.2f}"
    empty = f"; it ran empty with the last one at {turn.ran_empty_at.said}" if turn.ran_empty_at is not None else ""
    times = counted(len(phones), "phone")
    return PackSentence(
        "in_turn",
        f"{times} in turn, {names}: {turn.charges.value:.2f} full charges in all ({turn.charges.low:.2f} to {high})"
        f"{empty}",
    )


def coil_and_cord_said(phone: str, coil: Bounds, cord: Bounds) -> PackSentence:
    """The same phone by coil and by cord; no difference where what the gauges leave open overlaps."""
    if coil.high < cord.low or cord.high < coil.low:
        more, less, way = (cord, coil, "by cord") if cord.low > coil.high else (coil, cord, "by coil")
        low = (more.low - less.high) / less.high
        return PackSentence(
            "coil_and_cord",
            f"{phone}: {cord.value:.2f} charges by cord, {coil.value:.2f} by coil: {share(low)} more {way} at least",
        )
    return PackSentence(
        "coil_and_cord",
        f"{phone}: {cord.value:.2f} charges by cord, {coil.value:.2f} by coil: no difference shown, the gauge leaves"
        " too much open",
    )
