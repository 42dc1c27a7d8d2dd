"""The whole shelf at once: every charger with every phone, what to expect, and which pairs are worth a run."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from ..chain.check import Chain, ChainCheck, as_fed, check
from ..factors import WIRED
from ..kit.items import Adapter, Cable, Case, Charger, Kit, Pack, Phone, as_charger, transmits
from ..kit.standards import TRANSFER_WATTS
from ..simulator.circumstances import Circumstances
from ..simulator.scenario import Fitted
from .chain_forecast import Forecast, Progress, forecasts

HOT_MINUTES = 5.0
"""Minutes below 80 % in which heat takes power away, from which a pair counts as hot (our own)."""

BASIC_W = TRANSFER_WATTS["bpp"]


@dataclass(frozen=True)
class Row:
    """A charger at one of its places; without one, the wired baseline."""

    charger: Charger | None
    place: str = ""

    @property
    def label(self) -> str:
        """Its label, the place behind it where the charger has several."""
        if self.charger is None:
            return WIRED
        return f"{self.charger.label}, {self.place}" if self.place else self.charger.label


@dataclass(frozen=True)
class CoverageCell:
    """A pair: its chain, the forecast, and what the filters ask."""

    chain: Chain
    forecast: Forecast
    meets_claim: bool | None
    likely_hot: bool
    not_worth: str

    @property
    def check(self) -> ChainCheck:
        """The chain check behind it."""
        return self.forecast.checked


@dataclass(frozen=True)
class Coverage:
    """The table: rows of cells, one a phone, in the phones' order; the best row of each phone by minutes to 80 %."""

    rows: tuple[Row, ...]
    phones: tuple[Phone, ...]
    cells: tuple[tuple[CoverageCell, ...], ...]
    best: tuple[int | None, ...]


def chargers_of(items: Iterable[Kit]) -> list[Charger]:
    """Kit of the rows of the table: chargers, then packs with a coil."""
    kit = list(items)
    packs = [as_charger(i) for i in kit if isinstance(i, Pack) and transmits(i)]
    return [i for i in kit if isinstance(i, Charger)] + packs


def rows_of(chargers: Sequence[Charger]) -> tuple[Row, ...]:
    """A row a charger, one for each place of those whose places differ; the wired baseline at the end."""
    rows: list[Row] = []
    for charger in chargers:
        differ = len({p.gives for p in charger.pads}) > 1
        rows += [Row(charger, p.place) for p in charger.pads] if differ else [Row(charger)]
    return (*rows, Row(None))


def cover(
    chargers: Sequence[Charger],
    phones: Sequence[Phone],
    adapters: Sequence[Adapter],
    cable: Cable | None,
    around: Circumstances = Circumstances(),
    case: Case | None = None,
    fitted: dict[str, Fitted] | None = None,
    progress: Progress = lambda fraction: None,
) -> Coverage:
    """Forecast every charger with every phone, in one batch.

    Parameters
    ----------
    chargers, phones : sequences
    adapters : sequence
        One feeds all: that isolates the charger. Of several each pair gets the best: that is what a buyer gets.
    fitted : dict of phone label to Fitted
        Figures that were fitted to measured runs, in place of presets.
    progress : callable
        Called with the fraction that is done.

    Raises
    ------
    CannotRead
    """
    rows = rows_of(chargers)
    chains = [_chain(row, phone, adapters, cable, case) for row in rows for phone in phones]
    known = fitted or {}
    predictions = forecasts([(c, known.get(c.phone.label)) for c in chains], around, progress)
    cells = [
        CoverageCell(c, f, f.checked.reaches_claim, likely_hot(f), not_worth_testing(f.checked, c))
        for c, f in zip(chains, predictions, strict=True)
    ]
    width = len(phones)
    table = tuple(tuple(cells[i * width : (i + 1) * width]) for i in range(len(rows)))
    return Coverage(rows, tuple(phones), table, tuple(_best(table, rows, j) for j in range(width)))


def _chain(row: Row, phone: Phone, adapters: Sequence[Adapter], cable: Cable | None, case: Case | None) -> Chain:
    return with_best_adapter(Chain(None, cable, row.charger, phone, case, row.place), adapters)


def with_best_adapter(chain: Chain, adapters: Sequence[Adapter]) -> Chain:
    """The chain on the adapter that lets the most arrive; as it is where there is none, or it needs none."""
    return max((as_fed(replace(chain, adapter=a)) for a in adapters), key=_merit, default=as_fed(chain))


def _merit(chain: Chain) -> tuple[float, float, float]:
    checked = check(chain)
    # Among adapters that give the same, the one whose profiles are known, then the smallest.
    return checked.delivered_w.high, -float(checked.deal.inferred), -(chain.adapter.most_w if chain.adapter else 0.0)


def likely_hot(prediction: Forecast) -> bool:
    """Whether heat will take power away for long."""
    return prediction.throttle is not None and prediction.throttle.minutes_below_80 >= HOT_MINUTES


def not_worth_testing(checked: ChainCheck, chain: Chain) -> str:
    """Why a run of this pair would teach little; empty where it would."""
    narrow, deal = checked.narrow_link, checked.deal
    if not checked.charges:
        return f"does not charge: {narrow.why}"
    if chain.charger is None:
        return ""
    if narrow.link == "adapter" and deal.outcome in {"reduced", "missing", "starved"}:
        return f"the adapter decides: {deal.why}"
    if narrow.link == "cable":
        return f"the cable decides: {narrow.why}"
    if narrow.link == "coupling":
        return f"the case decides: {narrow.why}"
    if checked.agreement is not None:
        gives = max(t.watts for t in chain.charger.pad(chain.place).gives)
        takes = max(t.watts for t in chain.phone.accepts)
        if checked.agreement.watts <= BASIC_W < min(gives, takes):
            return "no shared profile: both fall back to 5 W, as on any pad"
    return ""


def _best(table: tuple[tuple[CoverageCell, ...], ...], rows: tuple[Row, ...], phone: int) -> int | None:
    """The row that is soonest at 80 % for a phone, the wired baseline apart."""
    known = [
        (to_80, i)
        for i, row in enumerate(table)
        if rows[i].charger is not None and (to_80 := row[phone].forecast.to[80].likely) is not None
    ]
    return min(known)[1] if known else None
