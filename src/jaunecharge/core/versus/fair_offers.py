"""The nearest fair pairs: what to compare instead of two runs that differ in more than one thing."""

from collections.abc import Sequence
from dataclasses import dataclass

from ..factors import said_of
from .contender import Contender
from .pairing import METHOD_FACTORS, differences, fair_said, unfit
from .window import Window

OFFERED = 3


@dataclass(frozen=True)
class Offer:
    """A fair pair, and how many factors it is away from the one that was asked about."""

    a: Contender
    b: Contender
    away: int
    said: str


def factor_asked(a: Contender, b: Contender) -> str:
    """The factor that a comparison of two runs is likely about: the charger, else the first that differs."""
    apart = differences(a, b)
    named = apart.differs or apart.unknown
    return "charger" if "charger" in apart.differs or not named else named[0]


def distinct(pool: Sequence[Contender], window: Window | None) -> list[Contender]:
    """Of all runs that cover a window one of each name, the first: repeats answer the same question."""
    by_name: dict[str, Contender] = {}
    for run in pool:
        if run.label not in by_name and not unfit(run, window):
            by_name[run.label] = run
    return list(by_name.values())


def nearest(a: Contender, b: Contender, pool: Sequence[Contender]) -> list[Offer]:
    """Fair pairs among the user's runs that answer the same question, the nearest first.

    Parameters
    ----------
    a, b : Contender
        Two runs that make no fair pair.
    pool : sequence of Contender
        Runs that cover the window (see `distinct`); the two themselves are looked at as well.
    """
    factor = factor_asked(a, b)
    able = [a, b, *(r for r in pool if r.key not in (a.key, b.key))]
    mine = [(r, _away(a, r)) for r in able if r.levels.get(factor) == a.levels.get(factor)]
    other = [(r, _away(b, r)) for r in able if r.levels.get(factor) == b.levels.get(factor)]
    mine.sort(key=lambda x: x[1])
    other.sort(key=lambda x: x[1])
    offers: list[Offer] = []
    for x, away_x in mine:
        for y, away_y in other:
            away = away_x + away_y
            if len(offers) >= OFFERED and away >= offers[-1].away:
                break
            if x.key == y.key:
                continue
            apart = differences(x, y)
            alike = any((o.a.label, o.b.label) == (x.label, y.label) for o in offers)
            if apart.fair == "fair" and apart.differs == (factor,) and not alike:
                offers.append(Offer(x, y, away, fair_said(apart)))
                offers.sort(key=lambda o: o.away)
                del offers[OFFERED:]
    return offers


def _away(wanted: Contender, run: Contender) -> int:
    """In how many stated factors a run is another than the one that was asked about."""
    if run.key == wanted.key:
        return 0
    names = (set(wanted.levels) | set(run.levels)) - METHOD_FACTORS
    return 1 + sum(wanted.levels.get(n) != run.levels.get(n) for n in names)


def _wanted(run: Contender, name: str) -> str:
    """A factor as it should be to make a fair pair with a run."""
    if name == "ambient" and run.known_room_c is not None:
        return f"the room at {run.known_room_c:.0f} °C"
    if name == "case" and run.levels.get(name) == "none":
        return "no case"
    return f"{said_of(name)} {run.factors[name]}" if run.factors.get(name) else f"{said_of(name)} as in the other run"


def missing_said(a: Contender, b: Contender) -> str:
    """Run that would make a fair pair, where none is offered."""
    factor = factor_asked(a, b)
    apart = differences(a, b)
    others = [n for n in (*apart.differs, *apart.unknown) if n != factor]
    if not others:
        return ""
    alike = ", ".join(_wanted(a, n) for n in others)
    level = b.factors.get(factor, "")
    return f"one run of {level or b.label} with {alike} would make a fair pair"
