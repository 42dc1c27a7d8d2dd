"""A load test in sentences, each naming the figure that it rests on, and what to be careful about."""

from collections.abc import Sequence
from dataclasses import dataclass

from ..log.trace import PowerTrace
from ..wording import counted, duration, temperature
from .gauge import gauge_doubts
from .load_notes import LoadNotes, modes_seen
from .load_test import LoadTest
from .pack_sentences import PackSentence, delivered_said
from .rating import Rating, is_good

NO_NOTES = LoadNotes()
LEAST_SAG_V = 0.005
TRIED_AGAIN = 3
"""Nobody presses a button so often, so soon one after another (own choice)."""

HOT_C, ROSE_K = 40.0, 8.0
"""A pack that gives less at 40 °C and more, and 8 K above what it began with, may do so by heat (own choice)."""

BACK = {
    "by itself": "it came back by itself", "by its button": "it came back by its button",
    "when the load was taken off": "it came back when the load was taken off", "not at all": "it stayed off",
}  # fmt: skip


def load_sentences(
    rated: Rating, test: LoadTest, notes: LoadNotes = NO_NOTES, claimed_w: float | None = None
) -> list[PackSentence]:
    """A load test in sentences, the strongest first. claimed_w [W] : what its maker claims, None where nothing."""
    lines = [*_power(test, notes, claimed_w), *_energy(rated, test), *_volts(test, notes), *_course(test, notes)]
    if test.trip is not None:
        return lines
    return sorted(lines, key=lambda s: s.key != "delivered")


def _energy(rated: Rating, test: LoadTest) -> list[PackSentence]:
    lines = []
    if test.delivered_wh is not None:
        lines.append(delivered_said(rated, test.delivered_wh.value, test.at_least, test.delivered_wh.stated))
    if test.cut_off_s is not None and test.cut_off_s > test.start_s:
        lines.append(PackSentence("cut_off", f"Cut off after {duration(test.cut_off_s - test.start_s)} under load"))
    return lines


def _power(test: LoadTest, notes: LoadNotes, claimed_w: float | None) -> list[PackSentence]:
    """Where protection let go, and what it holds against the claim."""
    lines = []
    held_w = most_held_w(test)
    if test.trip is not None:
        trip = test.trip
        held = f"held {trip.held_a:.2f} A, " if trip.held_a > 0 else ""
        at = "above that" if trip.tripped_at_a is None else f"at {trip.tripped_at_a:.2f} A"
        lines.append(PackSentence("trip", f"Protection: {held}let go {at}{_back(test, notes)}"))
    if claimed_w is not None and held_w is not None:
        if held_w >= claimed_w:
            lines.append(PackSentence("held", f"Held {held_w:.0f} W: the {claimed_w:g} W that are claimed"))
        elif test.trip is not None:
            lines.append(PackSentence("held", f"Held {held_w:.0f} W of the {claimed_w:g} W that are claimed"))
    return lines


def _back(test: LoadTest, notes: LoadNotes) -> str:
    trip = test.trip
    assert trip is not None
    if notes.restart:
        return f"; {BACK[notes.restart]}"
    if test.by_eye:
        return ""
    if trip.again >= TRIED_AGAIN and trip.back_s is not None:
        every = duration((trip.last_s - trip.at_s) / trip.again)
        return f"; it tried again {trip.again} times by itself, about every {every}"
    if trip.back_s is not None:
        return f"; it was back {duration(trip.back_s - trip.at_s)} later, by itself or by its button"
    return f"; still off {duration(test.end_s - trip.at_s)} later, where the log ends"


def most_held_w(test: LoadTest) -> float | None:
    """The largest power that it held [W]; None where nothing shows it."""
    steps = [s.watts for s in test.steps if test.trip is None or test.trip.tripped_at_a is None
             or s.amps < test.trip.tripped_at_a]  # fmt: skip
    return max(steps, default=None)


def _volts(test: LoadTest, notes: LoadNotes) -> list[PackSentence]:
    lines = []
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
        less = "no" if test.sag_v < LEAST_SAG_V else f"{test.sag_v:.2f} V"
        lines.append(
            PackSentence(
                "sag", f"At {most.amps:.2f} A it gives {most.volts:.2f} V, {less} less than with nothing on it"
            )
        )
    levels = [s.volts for s in test.steps] + ([] if test.no_load_v is None else [test.no_load_v.value])
    seen = modes_seen(levels)
    ticked = [m for m in notes.modes if m not in seen]
    if len(seen) > 1 or ticked:
        hand = f", and by hand {', '.join(ticked)}" if ticked and seen else ", ".join(ticked)
        outlet = f" at {notes.outlet}" if notes.outlet else ""
        lines.append(PackSentence("modes", f"Showed {', '.join(seen)}{hand}{outlet}"))
    return lines


def _course(test: LoadTest, notes: LoadNotes) -> list[PackSentence]:
    """Events under load: slept, stayed awake, gave less, changed its volts."""
    lines = []
    mode = {True: " with its mode for small loads on", False: " with its mode for small loads off", None: ""}
    for sleep in test.sleeps[:1]:
        lines.append(
            PackSentence(
                "sleep",
                f"Goes to sleep under {sleep.amps * 1000:.0f} mA after {duration(sleep.after_s)}"
                f"{mode[notes.low_current]}",
            )
        )
    if test.awake is not None and not test.sleeps:
        lines.append(
            PackSentence(
                "awake",
                f"Stays on under {test.awake.amps * 1000:.0f} mA: {duration(test.awake.seconds)} so far"
                f"{mode[notes.low_current]}",
            )
        )
    for fold in test.folded[:1]:
        lines.append(
            PackSentence(
                "folded",
                f"Gave less after {duration(fold.at_s - test.start_s)} of the same load: {fold.from_w:.1f} to"
                f" {fold.to_w:.1f} W{_why_less(notes, fold.at_s - test.start_s)}",
            )
        )
    if notes.hottest is not None:
        at_s, celsius = notes.hottest
        lines.append(PackSentence("hottest", f"Hottest {temperature(celsius)}, after {duration(at_s)}"))
    for change in test.profile_changes[:2]:
        lines.append(PackSentence("profile", f"Went from {change.from_v:.1f} to {change.to_v:.1f} V"))
    return lines


def _why_less(notes: LoadNotes, at_s: float) -> str:
    """Words on a power that fell, by a temperature about then."""
    warmth = notes.warmth_at(at_s)
    if warmth is None:
        return "; why, its volts and amps alone do not show"
    celsius, rise = warmth
    if celsius >= HOT_C and rise >= ROSE_K:
        return f", at {temperature(celsius)}, {rise:.0f} K warmer than at first: heat may be why"
    return f", at {temperature(celsius)}: hardly by heat"


@dataclass(frozen=True)
class SmallLoad:
    """Small loads in one load test [A]: whether its mode for them was on, None where nobody says; under which
    it slept, and under which it stayed on, None where it did not."""

    mode_on: bool | None
    slept_a: float | None
    awake_a: float | None


def small_loads_said(tests: Sequence[SmallLoad]) -> list[PackSentence]:
    """A pack's mode for small loads against it without: only where both were tested."""
    on = next((t for t in tests if t.mode_on is True), None)
    off = next((t for t in tests if t.mode_on is False), None)
    if on is None or off is None:
        return []
    return [
        PackSentence("small_loads", f"With its mode for small loads off it {_does(off)}; with it on it {_does(on)}")
    ]


def _does(test: SmallLoad) -> str:
    if test.slept_a is not None:
        return f"sleeps under {1000 * test.slept_a:.0f} mA"
    return f"stays on under {1000 * (test.awake_a or 0.0):.0f} mA"


def load_warnings(
    rated: Rating, test: LoadTest, notes: LoadNotes = NO_NOTES, trace: PowerTrace | None = None,
    remarks: Sequence[str] = (),
) -> list[str]:  # fmt: skip
    """Cautions on a load test: what its log leaves open, what its gauge cannot be, and what remains dangerous."""
    lines = list(remarks)
    wh = test.delivered_wh
    if test.at_least:
        lines.append(
            "It was not followed until the pack was empty: it delivered at least so much. Go on until the output goes"
            " off by itself."
            if test.by_eye
            else "The log ends before the pack was empty: it delivered at least so much. Log until the output goes off"
            " by itself."
        )
    if wh is not None and wh.value - wh.expanded > rated.wh:
        lines.append("It delivered more than is printed on it: look at its mAh and volts again.")
    if wh is not None and not test.at_least and not test.by_eye and not is_good(wh.value, rated):
        lines.append(
            "Its output was gone for good after less than a good pack gives: if the cord was pulled out then, it"
            " delivered at least so much."
        )
    if test.interruptions:
        lines.append(
            f"The output went off {counted(len(test.interruptions), 'time')} for no reason that the log shows, and came"
            " back: note what was done then. If the pack was charged meanwhile, or is another one, it is no one test."
        )
    if test.no_load_v is None:
        lines.append(
            "The volts without a load were not read: read them first."
            if test.by_eye
            else "No volts without a load were logged: begin the log before the load is switched on."
        )
    if test.line is None:
        lines.append("One load alone shows no resistance: step the load, three levels and more.")
    if wh is not None and wh.stated is None:
        lines.append("The meter's accuracy is not known and is not part of any ±.")
    if trace is not None and notes.levels:
        lines += gauge_doubts(notes.levels, trace, test.start_s, test.end_s)
    if notes.certified is False:
        lines.append(
            "The load is not certified: keep it in sight, on a surface that does not burn, and its own heat away from"
            " the pack."
        )
    return lines
