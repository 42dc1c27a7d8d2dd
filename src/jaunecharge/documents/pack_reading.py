"""A kept test of a pack, read: its sentences, its cautions and its figures, whatever kind it is."""

from collections.abc import Sequence
from dataclasses import dataclass, field

from ..core.errors import CannotRead
from ..core.log import MeterSpec, PowerTrace
from ..core.measured import Measured
from ..core.packs import (
    AtLoad,
    LoadTest,
    PackSentence,
    PassThrough,
    Recharge,
    StandbyLoss,
    charge_figures,
    charges_said,
    converter_efficiency,
    efficiency_said,
    full_charges,
    given_figures,
    load_figures,
    load_sentences,
    load_warnings,
    lost_a_day,
    not_believed,
    pass_figures,
    pass_sentences,
    pass_through,
    passed_by_eye,
    phone_to_phone,
    phone_to_phone_sentences,
    read_by_eye,
    read_load,
    read_recharge,
    read_together,
    recharge_by_eye,
    recharge_figures,
    recharge_sentences,
    recharge_warnings,
    standby_figure,
    standby_said,
    together_figure,
    together_sentences,
    transfer_efficiency,
    typed_level,
)
from ..core.report import Figure
from .pack_test import PackTestDocument

STILL = "The pack's gauge did not move: charge on until it does."


@dataclass(frozen=True)
class PackReading:
    """Reading of a test. load, recharge : as read, None for other kinds; by_load : efficiency of its converter."""

    sentences: list[PackSentence]
    warnings: list[str] = field(default_factory=list)
    figures: list[Figure] = field(default_factory=list)
    load: LoadTest | None = None
    recharge: Recharge | None = None
    by_load: Sequence[AtLoad] = ()


def read_test(
    document: PackTestDocument,
    logs: Sequence[PowerTrace],
    label: str = "it",
    claimed_w: float | None = None,
    delivered: Measured | None = None,
) -> PackReading:
    """Read a test of a pack.

    Parameters
    ----------
    document : PackTestDocument
    logs : sequence of PowerTrace
        That lie beside it, in the order in which they were sent.
    label : str
        Of the pack, or of the phone that gives.
    claimed_w : float or None [W]
        What the pack's maker claims.
    delivered : Measured or None [Wh]
        By the pack's load test from full to empty, for the round trip.

    Raises
    ------
    CannotRead
    """
    match document.kind:
        case "load":
            return _load(document, logs, claimed_w)
        case "charge":
            return _charge(document)
        case "recharge":
            return _recharge(document, logs, delivered)
        case "standby":
            found = standby_of(document)
            return PackReading([standby_said(found)], figures=[standby_figure(found)])
        case "pass_through":
            return _passed(document, logs)
        case "phone_to_phone":
            return _given(document, label)


def load_of(document: PackTestDocument, logs: Sequence[PowerTrace]) -> LoadTest:
    """A load test, read from its log or off its display.

    Raises
    ------
    CannotRead
    """
    if document.seen is not None:
        return read_by_eye(document.seen.seen(), document.rating(), document.seen.spec())
    if not logs:
        raise CannotRead("neither a log of it nor what was read off a display", "send the log", file="load test")
    return read_load(logs[0], document.rating(), document.meter.spec())


def _load(document: PackTestDocument, logs: Sequence[PowerTrace], claimed_w: float | None) -> PackReading:
    rated, test = document.rating(), load_of(document, logs)
    notes = document.notes.notes(document.lamps)
    lines = load_sentences(rated, test, notes, claimed_w)
    figures = load_figures(rated, test, notes)
    if len(logs) > 1:
        both = read_together(logs[0], logs[1], document.meter.spec())
        lines += together_sentences(both)
        figures.append(together_figure(both))
    trace = logs[0] if logs else None
    return PackReading(lines, load_warnings(rated, test, notes, trace, document.remarks), figures, load=test)


def _charge(document: PackTestDocument) -> PackReading:
    assert document.charge is not None
    charge, rated = document.charge.charge(document.lamps), document.rating()
    charges, efficiency = full_charges(charge), transfer_efficiency(charge, rated)
    lines = [] if charges is None else [charges_said(charges)]
    lines += [] if efficiency is None else [efficiency_said(efficiency)]
    doubt = not_believed(charge, rated)
    doubts = [*([STILL] if charges is None else []), *([doubt] if doubt else [])]
    return PackReading(lines, doubts, charge_figures(rated, charge))


def recharge_of(document: PackTestDocument, logs: Sequence[PowerTrace]) -> Recharge:
    """A recharge, read from its log or off its display.

    Raises
    ------
    CannotRead
    """
    read = document.recharge
    assert read is not None
    before = read.level_before(document.lamps)
    if logs:
        return read_recharge(logs[0], document.meter.spec(), before)
    spec = MeterSpec(gain_percent=read.accuracy_percent)
    return recharge_by_eye(read.minutes, read.wh, read.watts, read.volts, read.full, before, spec)


def _recharge(document: PackTestDocument, logs: Sequence[PowerTrace], delivered: Measured | None) -> PackReading:
    found = recharge_of(document, logs)
    return PackReading(
        recharge_sentences(found, delivered), recharge_warnings(found), recharge_figures(found, delivered),
        recharge=found,
    )  # fmt: skip


def standby_of(document: PackTestDocument) -> StandbyLoss:
    """Points that a pack loses a day.

    Raises
    ------
    CannotRead
    """
    read = document.standby
    assert read is not None
    first, last = (typed_level(text, document.lamps) for text in (read.first, read.last))
    return lost_a_day(first, last, read.seconds)


def passed_of(document: PackTestDocument, logs: Sequence[PowerTrace]) -> PassThrough:
    """Power through a pack, by its logs or by two displays.

    Raises
    ------
    CannotRead
    """
    read = document.passed
    assert read is not None
    if len(logs) > 1:
        return pass_through(logs[0], logs[1], document.meter.spec())
    return passed_by_eye(read.in_wh, read.out_wh, read.minutes, MeterSpec(gain_percent=read.accuracy_percent))


def _passed(document: PackTestDocument, logs: Sequence[PowerTrace]) -> PackReading:
    by_load: Sequence[AtLoad] = ()
    if len(logs) > 1:
        try:
            by_load = converter_efficiency(logs[0], logs[1], document.meter.spec())
        except CannotRead:
            by_load = ()
    found = passed_of(document, logs)
    return PackReading(pass_sentences(found, by_load), figures=pass_figures(found), by_load=by_load)


def _given(document: PackTestDocument, giver: str) -> PackReading:
    read = document.given
    assert read is not None
    found = phone_to_phone(
        *read.check_ins(), giver_wh=read.giver_wh, taker_wh=read.taker_wh, hottest_c=read.hottest_c,
        usual_stop=read.usual_stop,
    )  # fmt: skip
    taker = read.taker or "the other phone"
    return PackReading(phone_to_phone_sentences(found, giver, taker, read.by_cord), figures=given_figures(found))


def short_words(document: PackTestDocument) -> str:
    """A test in a few words, for lists."""
    match document.kind:
        case "load":
            return _load_words(document)
        case "charge":
            assert document.charge is not None
            charge = document.charge
            way = "cord" if charge.by_cord else "coil"
            before, after = (typed_level(t, document.lamps).said for t in (charge.pack_before, charge.pack_after))
            return (
                f"{charge.phone or 'a phone'} by {way}: {charge.phone_before:g} % to {charge.phone_after:g} %, the pack"
                f" from {before} to {after}"
            )
        case "recharge":
            assert document.recharge is not None
            read = document.recharge
            wh = "" if read.wh is None else f", {read.wh:.1f} Wh"
            minutes = "" if read.minutes is None else f" {read.minutes / 60:.1f} h"
            return f"recharge:{minutes}{wh}{', full' if read.full else ''}"
        case "standby":
            assert document.standby is not None
            return f"unused: {document.standby.first} to {document.standby.last} in {document.standby.days:g} days"
        case "pass_through":
            assert document.passed is not None
            return f"passing through: {document.passed.in_wh or 0:.1f} Wh in, {document.passed.out_wh or 0:.1f} Wh out"
        case "phone_to_phone":
            assert document.given is not None
            rows = sorted(document.given.readings, key=lambda r: r.minute)
            first, last = rows[0], rows[-1]
            return (
                f"gave {document.given.taker or 'a phone'}: {first.taker:g} % to {last.taker:g} %, itself"
                f" {first.giver:g} % to {last.giver:g} %"
            )


def _load_words(document: PackTestDocument) -> str:
    load = document.load
    words = []
    if load is None:
        return "load test"
    if load.delivered_wh is not None:
        words.append(f"{'at least ' if load.at_least else ''}{load.delivered_wh:.1f} Wh")
    if load.tripped:
        words.append("let go" if load.let_go_a is None else f"let go at {load.let_go_a:.1f} A")
    two = ", two outputs" if document.second_file else ""
    return f"load test: {', '.join(words) or 'volts only'}{two}"
