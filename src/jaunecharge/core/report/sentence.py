"""One thing that a run says."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Sentence:
    """One thing the run says: plain and strong words in turn, its basis, and its stretch of the log [s].

    places : all its stretches, where there are several [s]; figure : the key of the figure that it stands on.
    """

    key: str
    words: tuple[tuple[str, bool], ...]
    basis: str
    start_s: float
    end_s: float
    places: tuple[tuple[float, float], ...] = ()
    figure: str = ""

    @property
    def plain(self) -> str:
        return "".join(text for text, _ in self.words)


def say(
    key: str,
    text: str,
    basis: str,
    start_s: float,
    end_s: float,
    figure: str = "",
    places: tuple[tuple[float, float], ...] = (),
) -> Sentence:
    """A sentence from text whose strong words stand between asterisks."""
    words = tuple((part, bool(i % 2)) for i, part in enumerate(text.split("*")) if part)
    return Sentence(key, words, basis, start_s, end_s, places, figure)
