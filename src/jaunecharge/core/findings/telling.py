"""Sentences that stand on figures: each figure in square brackets, with its value, what it is of, and its working; and
the rule by which words may be edited while figures may not."""

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

from ..errors import CannotRead

MOST_WORDS = 1000
Kind = Literal[
    "time", "difference", "heat", "heat difference", "energy", "energy difference", "price", "charges", "watts",
    "share", "count", "percent",
]  # fmt: skip


@dataclass(frozen=True)
class Stated:
    """A figure of a sentence: its key; the text as it is written; its kind, value and unit; low, high : its interval,
    in its unit, where it has one; of : keys of the runs, or labels of the packs, that it rests on; how : its working.
    """

    key: str
    text: str
    kind: Kind
    value: float
    unit: str
    low: float | None = None
    high: float | None = None
    of: tuple[str, ...] = ()
    how: str = ""


@dataclass(frozen=True)
class FindingSentence:
    """A sentence of a finding: its key; its words, each figure in square brackets, strong words between asterisks; the
    figures in their order; and what it rests on, in small."""

    key: str
    words: str
    figures: tuple[Stated, ...] = ()
    basis: str = ""

    @property
    def plain(self) -> str:
        """The words without marks."""
        return plain_words(self.words)


class Telling:
    """A sentence in the making: each figure that is told is kept with it."""

    def __init__(self) -> None:
        self.figures: list[Stated] = []

    def __call__(self, figure: Stated) -> str:
        """The text of a figure, in brackets."""
        self.figures.append(figure)
        return f"[{figure.text}]"

    def sentence(self, key: str, words: str, basis: str = "") -> FindingSentence:
        """The sentence with the figures that were told."""
        return FindingSentence(key, words, tuple(self.figures), basis)


_MARKS = re.compile(r"[\[\]*]")
_NUMBER = re.compile(r"\d+(?:[.,:]\d+)*")
_BRACKETS = re.compile(r"\[([^\[\]]*)\]")
_IN_WORDS = re.compile(r"\b(twice|doubled?|half|halved|tripled?|thrice|dozens?|hundreds?|thousands?)\b", re.IGNORECASE)


def named(label: str) -> str:
    """A label as it stands in a sentence: without what marks a figure or a strong word."""
    return " ".join(_MARKS.sub(" ", label).split())


def strong(label: str) -> str:
    """A label between asterisks."""
    return f"*{named(label)}*"


def plain_words(words: str) -> str:
    """Words without the marks of figures and strong words."""
    return _MARKS.sub("", words)


def listed(names: Sequence[str], last: str = "and") -> str:
    """Names in a row: `a`, `a and b`, `a, b and c`."""
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} {last} {names[-1]}" if names else ""


def begun(words: str) -> str:
    """Words that begin a sentence."""
    return words[:1].upper() + words[1:]


def checked_words(sentence: FindingSentence, words: str) -> str:
    """Words that somebody put in place of those of a sentence, with single spaces.

    Raises
    ------
    CannotRead
        If a figure of the sentence is missing or changed, or a number stands there that the sentence does not state.
    """
    words = " ".join(words.split())
    if not words:
        raise CannotRead("the sentence is empty", "write it, or leave the sentence out", file="words")
    if len(words) > MOST_WORDS:
        raise CannotRead(f"it is {len(words)} characters long", f"use at most {MOST_WORDS}", file="words")
    if "\x00" in words or not words.isprintable():
        raise CannotRead("it contains a control character", "type it again without it", file="words")
    inside = _BRACKETS.findall(words)
    outside = _BRACKETS.sub(" ", words)
    if "[" in outside or "]" in outside:
        raise CannotRead("a square bracket stands alone", "each figure stands between [ and ]", file="words")
    texts = [f.text for f in sentence.figures]
    for text in inside:
        if text not in texts:
            mend = f"its figures are {listed([f'[{t}]' for t in texts])}" if texts else "this sentence has no figure"
            raise CannotRead(f"[{text}] is no figure of this sentence", mend, file="words")
    for text in texts:
        if text not in inside:
            raise CannotRead(f"the figure [{text}] is missing", "words can be changed, figures stay", file="words")
    told = _BRACKETS.sub(" ", sentence.words)
    known = set(_NUMBER.findall(told))
    for number in _NUMBER.findall(outside):
        if number not in known:
            raise CannotRead(
                f"“{number}” is no figure of this sentence", "figures come from the runs: leave it out", file="words"
            )
    spelled = {w.lower() for w in _IN_WORDS.findall(told)}
    for word in _IN_WORDS.findall(outside):
        if word.lower() not in spelled:
            raise CannotRead(f"“{word}” is a figure in words", "figures come from the runs: leave it out", file="words")
    return words


def renewed(words: str, before: Sequence[Stated], now: Iterable[Stated]) -> str:
    """Edited words with the figures that they have now: each by its key; one that is gone stays as it was."""
    by_key = {f.key: f.text for f in now}
    texts = {f.text: by_key.get(f.key, f.text) for f in before}
    return _BRACKETS.sub(lambda match: f"[{texts.get(match[1], match[1])}]", words)
