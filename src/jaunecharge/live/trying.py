"""An instrument tried once, before it counts: who it is, what it shows, what its columns are taken for."""

import contextlib
import time
from dataclasses import dataclass

from ..instruments.errors import InstrumentError, NotReached
from ..instruments.scpi import Scpi
from .figure_lines import FigureLines
from .instruments import instrument_at
from .topic_figures import TopicFigures

LISTENED_S = 8.0
QUICK_S = 1.0


@dataclass(frozen=True)
class Shown:
    """An instrument's answer: who it says it is, its figures [V], [A], [W], [°C], its columns in words.

    problem : what is missing, or empty.
    """

    said: str = ""
    volts: float | None = None
    amps: float | None = None
    watts: float | None = None
    celsius: float | None = None
    columns: tuple[str, ...] = ()
    problem: str = ""


def try_once(address: str) -> Shown:
    """Try an instrument: the figures that it shows just now.

    Raises
    ------
    InstrumentError
        If it does not answer, or is not understood.
    CannotRead
        If it is no address.
    """
    instrument = instrument_at(address, lasting=False)
    with contextlib.closing(instrument):
        return _asked(instrument) if isinstance(instrument, Scpi) else _listened(instrument)


def _asked(instrument: Scpi) -> Shown:
    identity = instrument.identify()
    shown: dict[str, float] = {}
    for name in ("volts", "amps", "celsius"):
        # Each on a connection of its own: what one question is not answered spoils no other.
        instrument.close()
        quick = Scpi(instrument.address, QUICK_S)
        with contextlib.closing(quick), contextlib.suppress(InstrumentError):
            shown[name] = getattr(quick, name)()
    said = f"{identity.maker} {identity.model}, serial {identity.serial}, firmware {identity.firmware}"
    problem = "" if shown else "it answers, but gives neither volts and amps nor a temperature"
    return Shown(said, shown.get("volts"), shown.get("amps"), celsius=shown.get("celsius"), problem=problem)


def _listened(lines: FigureLines | TopicFigures) -> Shown:
    said = "it publishes" if isinstance(lines, TopicFigures) else "it writes lines of figures"
    until = time.monotonic() + LISTENED_S
    while time.monotonic() < until:
        try:
            found = lines.read()
        except NotReached:
            # A broker takes a moment to answer.
            if not isinstance(lines, TopicFigures) or time.monotonic() > until - LISTENED_S / 2:
                raise
            continue
        if found:
            f = found[-1]
            if isinstance(lines, TopicFigures):
                lines.acknowledge(found)
            watts = f.watts if f.volts is None or f.amps is None else None
            return Shown(said, f.volts, f.amps, watts, f.celsius, tuple(lines.columns()))
    columns = tuple(lines.columns())
    return Shown(
        said, columns=columns,
        problem="nothing came that holds figures of a charge" if columns else "too few lines came to understand them",
    )  # fmt: skip
