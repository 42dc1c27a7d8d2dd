"""Figures of a block, each with its working: times, differences, heat, energy, prices."""

from ..measured import Measured
from ..units import MINUTE_S
from ..versus.cost import price_said
from ..versus.sentences import HEAT_NOISE_K, cell_energy, minutes_said, noise_said, window_said
from ..wording import counted, duration, plus_minus, share, temperature, temperature_rise
from .bests import NightEnergy, RowHeat, price_between
from .blocks import Block
from .telling import Stated, listed


def _key(kind: str, block: Block, *labels: str) -> str:
    return "|".join([kind, block.key, *labels]).casefold()


def _label(block: Block, n: int) -> str:
    return block.cells[n].label


def time_figure(block: Block, n: int) -> Stated:
    """Time of a row over the window: `1 h 02`."""
    assert block.comparison is not None
    timed = block.comparison.timed
    minutes, noise = block.minutes(n), timed.own_noise(n)
    laps = timed.laps[n]
    each = listed([f"{x.estimate:.1f}" for x in laps])
    bounds = f"between {min(x.earliest for x in laps):.1f} and {max(x.latest for x in laps):.1f} min by the check-ins"
    how = (
        f"Mean of {counted(len(laps), 'run')} {window_said(timed.window)}: {each} min; {bounds}. Would lie within"
        f" ± {noise:.0f} min of it again, 19 times in 20."
    )
    return Stated(
        _key("time", block, _label(block, n)), duration(minutes * MINUTE_S), "time", minutes, "min", minutes - noise,
        minutes + noise, block.runs_of(n), how,
    )  # fmt: skip


def times_figure(picked: list[tuple[Block, int]]) -> Stated:
    """Times of one charger on several phones: `1 h 00 to 1 h 23`."""
    figures = [time_figure(block, n) for block, n in picked]
    figures.sort(key=lambda f: f.value)
    low, high = figures[0], figures[-1]
    text = low.text if low.text == high.text else f"{low.text} to {high.text}"
    named = sorted({block.phone for block, _ in picked})
    return Stated(
        "|".join(["times", _label(*picked[0]), *named]).casefold(), text, "time", low.value, "min", low.value,
        high.value,
        tuple(dict.fromkeys(k for f in figures for k in f.of)), " ".join(f.how for f in figures),
    )  # fmt: skip


def difference_figure(block: Block, a: int, b: int) -> Stated:
    """Minutes between two rows, with their noise: `22 ± 13 min`."""
    assert block.comparison is not None
    pair = block.pair(a, b)
    assert pair.difference is not None
    verdict = pair.difference.verdict
    size, noise = abs(verdict.minutes_saved), verdict.noise.minutes
    return Stated(
        _key("difference", block, *sorted((_label(block, a), _label(block, b)))),
        minutes_said(verdict.minutes_saved, noise), "difference", size, "min", size - noise, size + noise,
        (*block.runs_of(a), *block.runs_of(b)), noise_said(block.comparison.timed, pair.a, pair.b, verdict.noise),
    )  # fmt: skip


def rate_figures(block: Block, a: int, b: int) -> tuple[Stated, Stated]:
    """The same difference as less time and as higher rate [%]."""
    pair = block.pair(a, b)
    assert pair.difference is not None
    of, slow, fast = (*block.runs_of(a), *block.runs_of(b)), *sorted((block.minutes(a), block.minutes(b)), reverse=True)
    labels = sorted((_label(block, a), _label(block, b)))
    return (
        Stated(_key("less time", block, *labels), share(pair.difference.less_time_percent / 100.0), "percent",
               pair.difference.less_time_percent, "%", of=of, how=f"1 − {fast:.1f} ÷ {slow:.1f} min"),
        Stated(_key("higher rate", block, *labels), share(pair.difference.higher_rate_percent / 100.0), "percent",
               pair.difference.higher_rate_percent, "%", of=of, how=f"{slow:.1f} ÷ {fast:.1f} min − 1"),
    )  # fmt: skip


def heat_figure(block: Block, n: int, warmth: RowHeat, fahrenheit: bool) -> Stated:
    """Hottest of a row over the window: `40.5 °C`."""
    assert block.comparison is not None
    celsius = warmth.warm.hottest_c
    several = " of that run which got hottest" if len(block.runs_of(n)) > 1 else ""
    how = (
        f"Highest reading of the phone's temperature{several}, {window_said(block.comparison.window)}. A probe that is"
        f" taped on again repeats within {temperature_rise(HEAT_NOISE_K, fahrenheit)}."
    )
    return Stated(
        _key("heat", block, _label(block, n)), temperature(celsius, fahrenheit), "heat", celsius, "°C",
        celsius - HEAT_NOISE_K, celsius + HEAT_NOISE_K, block.runs_of(n), how,
    )  # fmt: skip


def cooler_figure(block: Block, a: int, b: int, known: dict[int, RowHeat], fahrenheit: bool) -> Stated:
    """Kelvin by which a row stayed cooler than another: `2.3 K`."""
    apart = abs(known[a].value - known[b].value)
    over = ", both over their room" if known[a].over_room else ""
    mine, other = (
        temperature_rise(w.value, fahrenheit) if w.over_room else temperature(w.value, fahrenheit)
        for w in (known[a], known[b])
    )
    how = f"{mine} against {other}{over}; a probe repeats within {temperature_rise(HEAT_NOISE_K, fahrenheit)}."
    return Stated(
        _key("cooler", block, *sorted((_label(block, a), _label(block, b)))), temperature_rise(apart, fahrenheit),
        "heat difference", apart, "K", apart - HEAT_NOISE_K, apart + HEAT_NOISE_K,
        (*block.runs_of(a), *block.runs_of(b)), how,
    )  # fmt: skip


def energy_of(block: Block, n: int) -> Measured | None:
    """Energy of a row at the meter over the window, where it was metered [Wh]."""
    if block.comparison is None:
        return None
    return cell_energy(block.cells[n], block.comparison.timed.laps[n])


def energy_figure(block: Block, n: int, energy: Measured) -> Stated:
    """Energy at the meter over the window: `16.2 ± 0.3 Wh`."""
    assert block.comparison is not None
    half = energy.stated
    how = (
        f"Energy at the meter {window_said(block.comparison.window)}, mean of the runs that were metered;"
        f" ± is k = 2 and says nothing of how runs differ."
    )
    return Stated(
        _key("energy", block, _label(block, n)), plus_minus(energy, "Wh"), "energy", energy.value, "Wh",
        None if half is None else energy.value - half, None if half is None else energy.value + half,
        block.runs_of(n), how,
    )  # fmt: skip


def night_figure(block: Block, n: int, night: NightEnergy) -> Stated:
    """Energy of a night from a small battery: `24 ± 2 Wh`."""
    whole = night.whole
    half = whole.expanded
    standby = night.standby_wh
    after = "" if standby is None else f", and {plus_minus(standby, 'Wh')} of draw after full"
    how = f"{plus_minus(night.charge_wh, 'Wh')} for the charge through inverter and adapter{after}."
    return Stated(
        _key("night", block, _label(block, n)), plus_minus(whole, "Wh"), "energy", whole.value, "Wh",
        whole.value - half, whole.value + half, block.runs_of(n), how,
    )  # fmt: skip


def price_figure(block: Block, dear: int, cheap: int) -> Stated | None:
    """Price between two rows: `26 EUR`; None where it is not known, or nothing lies between them."""
    apart = price_between(block, dear, cheap)
    if apart is None or apart[0] == 0.0:
        return None
    how = f"Prices on the shelf: {_label(block, dear)} against {_label(block, cheap)}, with all in which they differ."
    return Stated(
        _key("price", block, *sorted((_label(block, dear), _label(block, cheap)))), price_said(*apart), "price",
        abs(apart[0]), apart[1], of=(*block.runs_of(dear), *block.runs_of(cheap)), how=how,
    )  # fmt: skip
