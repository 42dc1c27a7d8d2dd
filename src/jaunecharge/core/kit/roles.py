"""Roles of instruments on a lane: what each of them measures there."""

from typing import Literal, get_args

from .items import Kit, Meter, Probe

Role = Literal["meter", "probe", "socket", "room"]
ROLES: tuple[Role, ...] = get_args(Role)
"""The inline meter, the probe at the phone, a meter at the socket, and what measures the room of all lanes."""


def role_of(item: Kit) -> Role | None:
    """The role that a piece has; None of what is no instrument."""
    match item:
        case Meter():
            return "socket" if item.stands == "socket" else "meter"
        case Probe():
            return "room" if item.measures == "room" else "probe"
        case _:
            return None
