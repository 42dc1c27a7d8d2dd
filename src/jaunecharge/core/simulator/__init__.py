"""A run before it is made: cell, phone, pad and room stepped in time under circumstances that are stated."""

from .at_socket import socket_trace, socket_watts
from .circumstances import AIRFLOWS, IDLE_W, Airflow, Circumstances, Event, PhoneState, known_airflow, known_state
from .fitted import Fitted
from .pack_on_load import Load, PackOnLoad, PackScenario, program_of, scenario_of
from .rehearsal import Rehearsal, Truth, random_slips, rehearse
from .scenario import Given, Prepared, fit_figures, prepare
from .simulate import NEVER, Scenario, Simulated, Throttling, room_c, simulate, warm_up

__all__ = [
    "AIRFLOWS",
    "IDLE_W",
    "NEVER",
    "Airflow",
    "Circumstances",
    "Event",
    "Fitted",
    "Given",
    "Load",
    "PackOnLoad",
    "PackScenario",
    "PhoneState",
    "Prepared",
    "Rehearsal",
    "Scenario",
    "Simulated",
    "Throttling",
    "Truth",
    "fit_figures",
    "known_airflow",
    "known_state",
    "prepare",
    "program_of",
    "random_slips",
    "rehearse",
    "room_c",
    "scenario_of",
    "simulate",
    "socket_trace",
    "socket_watts",
    "warm_up",
]
