"""Report of a run: every figure with its uncertainty and origin, and the sentences that rest on them."""

from .cautions import warnings
from .figures import EXPANDED_NOTE, Figure, figures
from .sentences import headline, sentences

__all__ = [
    "EXPANDED_NOTE",
    "Figure",
    "figures",
    "headline",
    "sentences",
    "warnings",
]
