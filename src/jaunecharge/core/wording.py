"""Wording of figures: durations, values with their uncertainty, temperatures in the unit of the reader."""

import math

from .measured import Measured
from .units import MINUTE_S, fahrenheit


def duration(seconds: float) -> str:
    """A duration as people say it: `1 h 39`, `12 min`, `45 s`."""
    if abs(seconds) < MINUTE_S:
        return f"{seconds:.0f} s"
    minutes = round(seconds / MINUTE_S)
    return f"{minutes // 60} h {minutes % 60:02d}" if minutes >= 60 else f"{minutes} min"


def moment(seconds: float) -> str:
    """A moment counted from the placing: `12 min`, `6 min before t = 0`."""
    return duration(seconds) if seconds > -0.5 else f"{duration(-seconds)} before t = 0"


def decimals(expanded: float) -> int:
    """Decimal places that an expanded uncertainty warrants: one figure of it, two where it begins with 1."""
    if not expanded > 0 or not math.isfinite(expanded):
        return 1
    power = math.floor(math.log10(expanded))
    return max(0, -power + (1 if expanded / 10**power < 2 else 0))


def plus_minus(measured: Measured, unit: str, scale: float = 1.0) -> str:
    """`54.0 ± 0.6 Wh`, rounded as the uncertainty warrants; `54.0 Wh` where nothing of it is known."""
    if not measured.parts:
        return f"{measured.value * scale:.1f} {unit}"
    places = decimals(measured.expanded * scale)
    return f"{measured.value * scale:.{places}f} ± {measured.expanded * scale:.{places}f} {unit}"


def temperature(celsius: float, in_fahrenheit: bool = False) -> str:
    """A temperature with its unit."""
    return f"{fahrenheit(celsius):.1f} °F" if in_fahrenheit else f"{celsius:.1f} °C"


def plain(text: str) -> str:
    """A text without the asterisks that stand around its strong words."""
    return text.replace("*", "")


def an(noun: str) -> str:
    """A noun with its article: `a phone`, `an adapter`."""
    return f"an {noun}" if noun[:1].lower() in "aeiou" else f"a {noun}"


def counted(number: int, one: str, many: str = "") -> str:
    """A number of things: `1 row`, `2 rows`."""
    return f"{number} {one if number == 1 else many or one + 's'}"


def share(fraction: float, places: int = 0) -> str:
    """A share in percent: `58 %`."""
    return f"{fraction * 100.0:.{places}f} %"


def threshold(celsius: float, in_fahrenheit: bool = False) -> str:
    """A round limit of temperature with its unit, without needless decimals."""
    return f"{round(fahrenheit(celsius), 1):g} °F" if in_fahrenheit else f"{celsius:g} °C"


def temperature_rise(kelvin: float, in_fahrenheit: bool = False) -> str:
    """A difference of temperature with its unit."""
    return f"{kelvin * 9 / 5:.1f} °F" if in_fahrenheit else f"{kelvin:.1f} K"
