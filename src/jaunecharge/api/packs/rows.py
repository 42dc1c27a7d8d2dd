"""Packs for the front end: rows of the list, and a pack as a whole."""

import math
import uuid
from collections.abc import Sequence

from ...core.kit import Pack, Phone
from ...core.measured import Measured
from ...core.packs import (
    CABIN_SOURCE,
    Overview,
    PackCharge,
    PackSentence,
    PhoneCharges,
    SmallLoad,
    Way,
    cabin_class,
    cabin_said,
    charge_cells,
    coil_and_cord_figure,
    coil_and_cord_said,
    delivered_said,
    discharges,
    in_turn,
    in_turn_figure,
    in_turn_said,
    overview_figures,
    rated_said,
    rating,
    small_loads_said,
)
from ...core.report import Figure
from ...documents.numbers import MeasuredDocument
from ...documents.pack_reading import short_words
from ...documents.pack_test import PackTestDocument
from ...store.pack_listing import PackListed, overview_of
from ...store.pack_models import PackTest
from .. import shapes as common
from . import shapes

Listed = Sequence[tuple[PackTest, PackTestDocument]]
MOST_LISTED = 100


def listed(tests: Sequence[PackTest]) -> list[tuple[PackTest, PackTestDocument]]:
    """Tests with their documents."""
    return [(t, PackTestDocument.read(t.document)) for t in tests]


NOTHING = PackListed()


def ways(pack: Pack) -> list[Way]:
    """By which a pack gives; one of which nothing is known gives by cord."""
    found: list[Way] = ["coil"] if pack.gives else []
    return [*found, "cord"] if pack.outputs or not pack.gives else found


def row_of(pack: Pack, tests: PackListed = NOTHING, found: Overview | None = None) -> shapes.PackRow:
    """A pack for the list."""
    rated = rating(pack.rated_mah, pack.cell_v)
    found = found or overview_of(pack, tests)
    delivered = found.delivered
    return shapes.PackRow(
        label=pack.label, note=pack.note, rated_mah=pack.rated_mah, cell_v=pack.cell_v, rated_wh=rated.wh,
        price=None if pack.price is None else pack.price.amount,
        currency="" if pack.price is None else pack.price.currency, grams=pack.grams, lamps=pack.lamps,
        claimed_w=pack.claimed_w, has_coil=bool(pack.gives), has_cord="cord" in ways(pack),
        delivered=None if delivered is None else MeasuredDocument(value=delivered.value, expanded=delivered.stated),
        at_least=found.at_least, share=None if delivered is None else delivered.value / rated.wh,
        charges=[charges_shape(c) for c in found.charges], stages=list(found.stages),
        per_wh=found.per_wh, grams_per_wh=found.grams_per_wh, cabin=cabin_class(rated.wh), verdict=found.verdict,
        cabin_said=cabin_said(rated).text, cabin_source=CABIN_SOURCE,
        counts=tests.counts,
    )  # fmt: skip


def charges_shape(charges: PhoneCharges) -> shapes.ChargesShape:
    """Measured charges of a phone."""
    high = charges.charges.high
    return shapes.ChargesShape(
        phone=charges.phone, way=charges.way, value=charges.charges.value, low=charges.charges.low,
        high=high if math.isfinite(high) else None, times=charges.times,
    )  # fmt: skip


def test_row(test: PackTest, document: PackTestDocument) -> shapes.TestRow:
    """A test for a list."""
    run = "" if document.charge is None else document.charge.run
    return shapes.TestRow(id=test.id, kind=document.kind, at=test.at, by=test.by, said=short_words(document), run=run)


def pack_shape(pack: Pack, tests: Listed, few: PackListed) -> shapes.PackShape:
    """A pack as a whole. tests : the latest first; few : the same in few figures."""
    rated, found = rating(pack.rated_mah, pack.cell_v), overview_of(pack, few)
    row = row_of(pack, few, found)
    told = [rated_said(rated)]
    if found.delivered is not None:
        told.append(delivered_said(rated, found.delivered.value, found.at_least, found.delivered.stated))
    figures = overview_figures(rated, found, row.price, row.currency, pack.grams)
    for sentence, figure in (*_in_turn(tests), *_both_ways(found)):
        told.append(sentence)
        figures.append(figure)
    told += small_loads_said(_small_loads(tests))
    told.append(cabin_said(rated))
    return shapes.PackShape(
        **row.model_dump(), sentences=sentence_shapes(told), cautions=cautions_of(pack),
        figures=[common.figure_shape(f, lambda at_s: at_s) for f in figures],
        tests=[test_row(t, d) for t, d in tests[:MOST_LISTED]], fair_pair=_fair_pair(tests),
        first_shown=_first_shown(tests, found.power is not None and found.power.falls_short),
    )  # fmt: skip


def sentence_shapes(told: Sequence[PackSentence]) -> list[shapes.PackSentenceShape]:
    """Sentences for the front end."""
    return [shapes.PackSentenceShape(key=s.key, text=s.text) for s in told]


def cautions_of(pack: Pack) -> list[str]:
    """Cautions that hold for every pack."""
    from ...core.packs import pack_cautions

    return pack_cautions(rating(pack.rated_mah, pack.cell_v))


def _small_loads(tests: Listed) -> list[SmallLoad]:
    """Load tests under small loads, with its mode for those on and off."""
    return [
        SmallLoad(d.notes.low_current, d.load.slept_a, d.load.awake_a)
        for _, d in tests
        if d.load is not None and (d.load.slept_a is not None or d.load.awake_a is not None)
    ]


def _in_turn(tests: Listed) -> list[tuple[PackSentence, Figure]]:
    """Discharges in which several phones were charged in turn, the latest alone."""
    in_order = [d for _, d in tests[::-1] if d.charge is not None]
    charges: list[PackCharge] = [d.charge.charge(d.lamps) for d in in_order if d.charge is not None]
    several = [g for g in discharges(charges) if len(g) > 1]
    if not several:
        return []
    group = several[-1]
    names = [(c.phone or "a phone") for n in group if (c := in_order[n].charge) is not None]
    turn = [charges[n] for n in group]
    told = in_turn(turn, emptied=turn[-1].pack_after.high <= 0.0)
    return [(in_turn_said(names, told), in_turn_figure(told))]


def _both_ways(found: Overview) -> list[tuple[PackSentence, Figure]]:
    by = {(c.phone, c.way): c.charges for c in found.charges}
    return [
        (
            coil_and_cord_said(phone, by[phone, "coil"], by[phone, "cord"]),
            coil_and_cord_figure(by[phone, "coil"], by[phone, "cord"]),
        )
        for phone in dict.fromkeys(c.phone for c in found.charges)
        if (phone, "coil") in by and (phone, "cord") in by
    ]


def _fair_pair(tests: Listed) -> list[str]:
    """Runs of one phone by coil and by cord, the latest of each."""
    runs: dict[str, dict[bool, str]] = {}
    for _, document in tests:
        charge = document.charge
        if charge is not None and charge.run:
            runs.setdefault(charge.phone, {}).setdefault(charge.by_cord, charge.run)
    both = next((by for by in runs.values() if len(by) == 2), None)
    return [] if both is None else [both[False], both[True]]


def _first_shown(tests: Listed, by_trip: bool) -> uuid.UUID | None:
    """The test that the verdict rests on, shown first: where it let go, else what it delivered, else the latest."""
    loads = [(t, d.load) for t, d in tests if d.load is not None]
    tripped = next((t.id for t, load in loads if load.tripped and by_trip), None)
    whole = next((t.id for t, load in loads if load.delivered_wh is not None and not load.at_least), None)
    return tripped or whole or next((t.id for t, _ in loads), tests[0][0].id if tests else None)


def giver_row(phone: Phone, tests: Listed) -> shapes.GiverRow:
    """A phone that gives, for the list. tests : the latest first."""
    said = [test_row(t, d) for t, d in tests[:MOST_LISTED]]
    return shapes.GiverRow(
        label=phone.label, battery_wh=phone.battery_wh, gives_w=phone.gives_w, stop_percent=phone.gives_stop_percent,
        verdict=said[0].said if said else "not tested yet", tests=said,
    )  # fmt: skip


def table_of(packs: Sequence[tuple[Pack, PackListed]], phones: Sequence[Phone]) -> shapes.ChargeTable:
    """Full charges, packs × phones."""
    batteries = [(p.label, p.battery_wh) for p in phones]
    rows = []
    for pack, tests in packs:
        found, rated = overview_of(pack, tests), rating(pack.rated_mah, pack.cell_v)
        delivered: Measured | None = None if found.at_least else found.delivered
        cells = [
            shapes.ChargesShape(
                phone=c.phone, way=c.way, value=c.charges.value, low=c.charges.low,
                high=c.charges.high if math.isfinite(c.charges.high) else None, times=c.times, basis=c.basis,
            )
            for c in charge_cells(rated, delivered, found.charges, batteries, ways(pack))
        ]  # fmt: skip
        rows.append(shapes.ChargeTableRow(pack=pack.label, rated_wh=rated.wh, cells=cells))
    return shapes.ChargeTable(phones=[label for label, _ in batteries], rows=rows)
