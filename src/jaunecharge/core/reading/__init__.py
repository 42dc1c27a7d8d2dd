"""One run, read: its phases and dips with their causes, heat and what it cost, output by each method; what readers
decide otherwise counts.
"""

from .along_chain import adapter_share, along_chain, chain_stages
from .causes import Dip
from .decisions import NO_DIP, Decision, check_overruling
from .evidence import Limits, known_limits
from .output import USUAL_RATIO, Ratio, given_ratio, ratio_of_reference
from .read_run import READER_VERSION, Conditions, Reading, RunLog, read_run
from .ribbon import Ribbon, ribbon
from .spot_check import (
    LEAST_S,
    MOVED_ABOUT,
    SPOT_MINUTES,
    SPOT_MINUTES_USUAL,
    Spot,
    again_asked,
    drift_said,
    spot,
    spot_seems,
)
from .standby import Habits, check_habits
from .throttling import throttle_verdict
from .verdict import CAUSES, Cause

__all__ = [
    "CAUSES",
    "LEAST_S",
    "MOVED_ABOUT",
    "NO_DIP",
    "READER_VERSION",
    "SPOT_MINUTES",
    "SPOT_MINUTES_USUAL",
    "USUAL_RATIO",
    "Cause",
    "Conditions",
    "Decision",
    "Dip",
    "Habits",
    "Limits",
    "Ratio",
    "Reading",
    "Ribbon",
    "RunLog",
    "Spot",
    "adapter_share",
    "again_asked",
    "along_chain",
    "chain_stages",
    "check_habits",
    "check_overruling",
    "drift_said",
    "given_ratio",
    "known_limits",
    "ratio_of_reference",
    "read_run",
    "ribbon",
    "spot",
    "spot_seems",
    "throttle_verdict",
]
