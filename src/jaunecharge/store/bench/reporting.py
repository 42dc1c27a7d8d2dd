"""A phone that reports its level from its own browser: its screen is on, which the run has to state."""

import datetime as dt
from typing import Literal

from sqlalchemy.orm import Session

from ...core.factors import DARK_PAGE, SCREEN_ON
from .. import bench_models as b
from .entries import lane_s
from .lanes import NewEntry, add_entries

Screen = Literal["dark page", "on", "off"]
_STATES = {"dark page": DARK_PAGE, "on": SCREEN_ON}
_SAID = {
    "dark page": "the phone reports its level itself, its screen on a dark page",
    "on": "the phone reports its level itself, its screen on",
    "off": "the phone no longer reports its level itself",
}


def report_with(session: Session, lane: b.Lane, screen: Screen, now: dt.datetime, by: str = "") -> None:
    """State with which screen a phone reports its level; `off`: it does not, and while the lane is being set its
    phone state is that of the method again.

    What was stated already is not logged again.
    """
    state = _STATES.get(screen)
    if state is None and lane.state == "setting":
        state = lane.card.phone_state
    if state is None or lane.factors.get("phone_state") == state:
        if screen == "off" and lane.state != "setting":
            add_entries(session, lane, [NewEntry("remark", lane_s(lane, now), text=_SAID[screen], by=by)], now)
        return
    lane.factors = {**lane.factors, "phone_state": state}
    add_entries(session, lane, [NewEntry("remark", lane_s(lane, now), text=_SAID[screen], by=by)], now)
