"""Circumstances of a run: start, room, air, what the phone does, and what happens to it; free of the simulator."""

from dataclasses import dataclass
from typing import Literal

Airflow = Literal["still air", "fan on the phone", "charger's own fan"]
AIRFLOWS: tuple[Airflow, ...] = ("still air", "fan on the phone", "charger's own fan")
PhoneState = Literal["off", "idle", "in use"]
IDLE_W: dict[PhoneState, float] = {"off": 0.02, "idle": 0.15, "in use": 1.8}


def known_airflow(text: str, other: Airflow = "still air") -> Airflow:
    """An airflow that the model knows; another one where it does not know what somebody wrote."""
    return next((a for a in AIRFLOWS if a == text.strip().casefold()), other)


def known_state(text: str, other: PhoneState = "idle") -> PhoneState:
    """A state of the phone that the model knows; another one where it does not know what somebody wrote."""
    return next((s for s in IDLE_W if s == text.strip().casefold()), other)


@dataclass(frozen=True)
class Event:
    """Something that happens to a run, `start_s` after the log begins, for `length_s` [s].

    `slip`: the phone is off the coil. `restart`: the negotiation starts over. `supply`: the adapter gives `watts` [W]
    at `volts` [V]. `gap`: the meter logs nothing.
    """

    kind: str
    start_s: float
    length_s: float
    watts: float = 0.0
    volts: float = 0.0


@dataclass(frozen=True)
class Circumstances:
    """Circumstances of a run: start [%], room [°C], airflow, what the phone does, how far off centre it lies [mm], a
    charge limit [%] that was left on, minutes between check-ins, minutes logged after full."""

    start_percent: float = 10.0
    ambient_c: float = 25.0
    airflow: Airflow = "still air"
    phone_state: PhoneState = "idle"
    offset_mm: float = 0.0
    hold_percent: float | None = None
    interval_min: float = 10.0
    tail_min: float = 15.0
    events: tuple[Event, ...] = ()
