"""Flaws of instruments, each in words that say what was seen."""


class InstrumentError(Exception):
    """An instrument that does not do what it should; the message says what was seen."""


class NotReached(InstrumentError):
    """Nobody answers at the address, or the connection was dropped."""


class Silent(InstrumentError):
    """The instrument is connected and does not answer in time."""


class Garbled(InstrumentError):
    """The answer is none that the question allows."""


class OverRange(InstrumentError):
    """The instrument says that it cannot read: open input, or over its range."""
