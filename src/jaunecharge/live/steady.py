"""The time, steady: the wall's clock as it was when the process began, going on without jumps."""

import datetime as dt
import time

_wall, _steady = time.time(), time.monotonic()


def now() -> dt.datetime:
    """The moment; a clock on the wall that is set anew meanwhile does not move it."""
    return dt.datetime.fromtimestamp(_wall + time.monotonic() - _steady, dt.UTC)
