"""What the store refuses."""


class NotThere(Exception):
    """The record does not exist, or is deleted."""


class ChangedMeanwhile(Exception):
    """The record was changed by someone else since it was read."""
