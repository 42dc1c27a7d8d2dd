"""Cautions of pack tests, where they matter."""

from .rating import CABIN_WH, Rating

UNATTENDED = (
    "Never leave the first discharge of an unknown pack unattended; put it on a surface that does not burn, away from"
    " what does."
)
STOP = (
    "Take the load off and separate at swelling, smell, smoke, hiss, or a surface that you cannot hold; do not charge"
    " such a pack again."
)
LOADS = (
    "Use a load that is certified for these volts and amps: its resistor grows hot, and its fan must run. Local"
    " electrical codes decide."
)
LARGE = "More than 100 Wh: transport and storage have rules of their own; ask the carrier and the local authority."


def pack_cautions(rated: Rating) -> list[str]:
    """Cautions for a pack of this rating (common practice); nothing here says that a pack is safe."""
    return [UNATTENDED, STOP, LOADS, *([LARGE] if rated.wh > CABIN_WH else [])]
