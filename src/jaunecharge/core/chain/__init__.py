"""From the socket into the battery: what each link passes, what is negotiated, which link is the narrowest, and what
would widen it.
"""

from .advice import advice, headline
from .check import Chain, ChainCheck, Link, LinkName, Range, as_fed, chain_of_kit, check

__all__ = [
    "Chain",
    "ChainCheck",
    "Link",
    "LinkName",
    "Range",
    "advice",
    "as_fed",
    "chain_of_kit",
    "check",
    "headline",
]
