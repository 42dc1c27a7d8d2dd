"""One thing that a run says."""

from dataclasses import dataclass

from ..wording import plain


@dataclass(frozen=True)
class Sentence:
    """One thing the run says, its basis, and its stretch of the log [s].

    text : strong words stand between asterisks; figure : the key of the figure that it stands on; places : all its
        stretches, where there are several [s].
    """

    key: str
    text: str
    basis: str
    start_s: float
    end_s: float
    figure: str = ""
    places: tuple[tuple[float, float], ...] = ()

    @property
    def plain(self) -> str:
        return plain(self.text)
