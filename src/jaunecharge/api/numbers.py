"""Figures as they may come from outside: finite, and no larger than anything that is measured or counted; time zones
that there are."""

import datetime as dt
from typing import Annotated

from fastapi import Query
from pydantic import AfterValidator, AwareDatetime, Field

from ..core.errors import CannotRead
from ..core.log import zone_named

MOST_MINUTES = 1e6
Minute = Annotated[float, Field(ge=-MOST_MINUTES, le=MOST_MINUTES, allow_inf_nan=False)]
MinuteAsked = Annotated[
    float | None,
    Query(ge=-MOST_MINUTES, le=MOST_MINUTES, allow_inf_nan=False, description="minutes after placing"),
]
Percent = Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)]
PercentAsked = Annotated[float | None, Query(ge=0, le=100, allow_inf_nan=False)]
Revision = Annotated[int, Field(ge=0, le=2**31 - 1)]
Counted = Annotated[int | None, Query(ge=-1, le=2**62)]
RevisionAsked = Annotated[int, Query(ge=0, le=2**31 - 1)]
SearchSeconds = Annotated[float, Query(ge=0, le=86_400, allow_inf_nan=False)]
Watts = Annotated[float, Field(ge=-MOST_MINUTES, le=MOST_MINUTES, allow_inf_nan=False)]


def _known_zone(name: str) -> str:
    try:
        zone_named(name)
    except CannotRead as error:
        raise ValueError(error.what) from error
    return name


Zone = Annotated[str, Field(max_length=64), AfterValidator(_known_zone)]

YEARS = (1970, 2200)


def _of_our_time(at: dt.datetime) -> dt.datetime:
    if not YEARS[0] <= at.year <= YEARS[1]:
        raise ValueError(f"the year lies outside {YEARS[0]} to {YEARS[1]}")
    return at


Moment = Annotated[AwareDatetime, AfterValidator(_of_our_time)]
"""A moment with its zone, of years that every zone and the database can hold."""

MOST_FIGURE = 1e15
"""No figure of a body is larger, whatever it is."""
