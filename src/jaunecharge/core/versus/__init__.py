"""Runs against each other: one window, repeats as one, fair pairs, ranks, effects of single factors, claims, energy and
price.
"""

from .carry_over import CARRY_UNCERTAINTY, carry_over, estimate, most_w
from .claims import Checked, check_cell, check_pair, read_claim, verdict_said
from .compare import Pair, Timed, Versus, to_milestones, versus, worth_telling
from .contender import Contender, Course, Power, Warm, course_of
from .copies import copies, copy_said, without_copies
from .cost import PRICED, Charge, against_least, bargains, best_said, cell_charge, currencies
from .curves import Align, curves, longest, shift
from .factor_effects import effects
from .fair_offers import distinct, missing_said, nearest
from .heat_table import CONDITIONS, unlike, usual_conditions, usual_levels, usual_room
from .pairing import previous_ends
from .phone_table import TableCell, phone_column, phone_table
from .ranking import place_said
from .repeats import grouped, shared_by_all
from .run_names import around_said, effect_said, is_wired, shared_said, told_apart
from .sentences import (
    besides_said,
    cell_energy,
    gap_said,
    hottest,
    lost_minutes,
    mean_lap,
    noise_said,
    pair_words,
    short_said,
    spread_said,
    summary_said,
    warnings_said,
    window_said,
)
from .window import Lap, Window, span, worthwhile_windows

__all__ = [
    "CARRY_UNCERTAINTY",
    "CONDITIONS",
    "PRICED",
    "Align",
    "Charge",
    "Checked",
    "Contender",
    "Course",
    "Lap",
    "Pair",
    "Power",
    "TableCell",
    "Timed",
    "Versus",
    "Warm",
    "Window",
    "against_least",
    "around_said",
    "bargains",
    "besides_said",
    "best_said",
    "carry_over",
    "cell_charge",
    "cell_energy",
    "check_cell",
    "check_pair",
    "copies",
    "copy_said",
    "course_of",
    "currencies",
    "curves",
    "distinct",
    "effect_said",
    "effects",
    "estimate",
    "gap_said",
    "grouped",
    "hottest",
    "is_wired",
    "longest",
    "lost_minutes",
    "mean_lap",
    "missing_said",
    "most_w",
    "nearest",
    "noise_said",
    "pair_words",
    "phone_column",
    "phone_table",
    "place_said",
    "previous_ends",
    "read_claim",
    "shared_by_all",
    "shared_said",
    "shift",
    "short_said",
    "span",
    "spread_said",
    "summary_said",
    "to_milestones",
    "told_apart",
    "unlike",
    "usual_conditions",
    "usual_levels",
    "usual_room",
    "verdict_said",
    "versus",
    "warnings_said",
    "window_said",
    "without_copies",
    "worth_telling",
    "worthwhile_windows",
]
