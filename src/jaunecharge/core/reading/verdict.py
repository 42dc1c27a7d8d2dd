"""A cause of a dip, and what it rests on."""

from dataclasses import dataclass
from typing import Literal

from .dips import RawDip

Cause = Literal["supply", "hold", "heat_cutout", "restart", "contact", "heat", "unexplained"]


@dataclass(frozen=True)
class CauseFacts:
    """A cause for its reader. words : as it is listed; text : in the sentence about all its dips of a run; short : in
    the list of runs; by_heat : whether the phone protected itself; off_coil : whether the phone had left the coil, so
    that no power could flow.

    In text and short: {times} once or 3 times, {long} a duration, {percent} of the limit, {before} and {after} in
    watts, {where} a minute with what was read then.
    """

    words: str
    text: str = ""
    short: str = ""
    by_heat: bool = False
    off_coil: bool = False


CAUSES: dict[Cause, CauseFacts] = {
    "heat": CauseFacts("heat", by_heat=True),
    "heat_cutout": CauseFacts("stop by heat", by_heat=True),
    "supply": CauseFacts(
        "supply", "The supply gave less *{times}*, {long} in all: {before:.1f} to {after:.1f} W",
        "supply gave less *{times}*",
    ),
    "hold": CauseFacts(
        "charge limit", "Held at *{percent:g} %* for *{long}*: a charge limit, not a fault", "held at *{percent:g} %*"
    ),
    "restart": CauseFacts("started over", "Started over *{times}*, first at {where}", "started over *{times}*"),
    "contact": CauseFacts(
        "contact lost", "Lost contact *{times}*, {long} in all, first at {where}", "lost contact *{times}*",
        off_coil=True,
    ),
    "unexplained": CauseFacts(
        "cause unknown", "Power dropped *{times}*, cause unknown: {before:.1f} to {after:.1f} W, {long} in all",
        "power dropped *{times}*, cause unknown",
    ),
}  # fmt: skip
"""Causes of dips, in the order of a list. Of heat there is more to say: `report/judgement_sentences`."""


@dataclass(frozen=True)
class CauseVerdict:
    """A cause, what it rests on, and what would settle it where it is not settled; likely : whether one event alone
    speaks for it, so that it is probable and not shown."""

    cause: Cause
    why: str
    settle: str = ""
    likely: bool = False


def core_of(dip: RawDip) -> slice:
    """The middle of a dip: its edges mix it with what surrounds it."""
    margin = (dip.end - dip.first) // 5
    return slice(dip.first + margin, max(dip.first + margin + 1, dip.end - margin))
