"""Refusals of the store."""


class NotThere(Exception):
    """The record does not exist, or is deleted."""


class ChangedMeanwhile(Exception):
    """The record was changed by someone else since it was read."""


class LaneOver(Exception):
    """The lane has ended: nothing can be logged to it any more."""


class LaneAside(Exception):
    """The lane is open, and cannot be shown just now: it is not loaded yet, or was set aside."""
