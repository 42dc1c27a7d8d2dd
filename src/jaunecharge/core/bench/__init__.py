"""A run while it is made: the typed line, the steps of setting up, alarms, the phase, when the next check-in is due and
when it will be over.
"""

from .alarms import SILENT_STEPS, Alarm, Seen, changes, silent_limit_s, watch
from .arrivals import Figures, Pushed, Source, settle, start_of
from .doubts import EntryDoubt, Known, doubts
from .entry_line import (
    FIXABLE,
    GRAMMAR,
    POSITIONS,
    EntryItem,
    Line,
    Outcome,
    Unclear,
    canonical,
    corrected_by,
    lane_name,
    parse,
    said,
)
from .finish_time import Curve, finish, tens_reached
from .lane_log import Entered, Recorded, by_hand, run_log
from .meter_check import Against, check_said, deviation, gain_after
from .next_check_in import next_due
from .outlook import Outlook, around_lane, outlook
from .phase_now import Now, phase_now
from .setup_steps import ON_ALREADY, OnBench, Step, Told, Wanted, check_told, next_step, skipped, steps
from .so_far import SoFar, paced_now, so_far

__all__ = [
    "FIXABLE",
    "GRAMMAR",
    "ON_ALREADY",
    "POSITIONS",
    "SILENT_STEPS",
    "Against",
    "Alarm",
    "Curve",
    "Entered",
    "EntryDoubt",
    "EntryItem",
    "Figures",
    "Known",
    "Line",
    "Now",
    "OnBench",
    "Outcome",
    "Outlook",
    "Pushed",
    "Recorded",
    "Seen",
    "SoFar",
    "Source",
    "Step",
    "Told",
    "Unclear",
    "Wanted",
    "around_lane",
    "by_hand",
    "canonical",
    "changes",
    "check_said",
    "check_told",
    "corrected_by",
    "deviation",
    "doubts",
    "finish",
    "gain_after",
    "lane_name",
    "next_due",
    "next_step",
    "outlook",
    "paced_now",
    "parse",
    "phase_now",
    "run_log",
    "said",
    "settle",
    "silent_limit_s",
    "skipped",
    "so_far",
    "start_of",
    "steps",
    "tens_reached",
    "watch",
]
