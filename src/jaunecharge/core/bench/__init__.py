"""A run while it is made: the typed line, the steps of setting up, alarms, the phase, when the next check-in is due and
when it will be over."""

from .alarms import changes, watch
from .arrivals import Figures, Pushed, Source, settle, start_of
from .doubts import EntryDoubt, Known, doubts
from .entry_items import (
    FIXABLE,
    POSITIONS,
    EntryItem,
    Line,
    Outcome,
    Unclear,
    corrected_by,
    of_the_pack,
    pack_level_text,
    said,
)
from .entry_line import GRAMMAR, canonical, lane_name, parse
from .finish_time import Curve, finish, tens_reached
from .lane_log import Entered, Recorded, by_hand, run_log
from .level_reports import MOST_PHONE_W, Stamped, phone_side_w, stamped
from .meter_check import Against, check_said, deviation, gain_after
from .next_check_in import next_due
from .outlook import Outlook, around_lane, outlook
from .pack_alarms import pack_watch
from .pack_lane import (
    PACK_ALONE,
    LaneKind,
    LevelEntered,
    PackNow,
    given_readings,
    level_before,
    level_step,
    levels_around,
    low_since_s,
    pack_levels,
    pack_now,
    pack_steps,
)
from .phase_now import Now, phase_now
from .seen import Alarm, Seen
from .setup_steps import ON_ALREADY, OnBench, Step, Told, Wanted, check_told, next_step, skipped, steps
from .silence import SILENT_STEPS, gap_said, report_every_s, report_gaps, silent_limit_s
from .so_far import SoFar, paced_now, so_far

__all__ = [
    "FIXABLE",
    "GRAMMAR",
    "MOST_PHONE_W",
    "ON_ALREADY",
    "PACK_ALONE",
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
    "LaneKind",
    "LevelEntered",
    "Line",
    "Now",
    "OnBench",
    "Outcome",
    "Outlook",
    "PackNow",
    "Pushed",
    "Recorded",
    "Seen",
    "SoFar",
    "Source",
    "Stamped",
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
    "gap_said",
    "given_readings",
    "lane_name",
    "level_before",
    "level_step",
    "levels_around",
    "low_since_s",
    "next_due",
    "next_step",
    "of_the_pack",
    "outlook",
    "paced_now",
    "pack_level_text",
    "pack_levels",
    "pack_now",
    "pack_steps",
    "pack_watch",
    "parse",
    "phase_now",
    "phone_side_w",
    "report_every_s",
    "report_gaps",
    "run_log",
    "said",
    "settle",
    "silent_limit_s",
    "skipped",
    "so_far",
    "stamped",
    "start_of",
    "steps",
    "tens_reached",
    "watch",
]
