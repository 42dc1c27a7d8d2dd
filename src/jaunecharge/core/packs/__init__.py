"""Battery packs: what is printed against what they give, under a load and into phones."""

from .by_eye import SeenByEye, read_by_eye
from .charge_table import Basis, ChargeCell, charge_cells
from .charges import Bounds, InTurn, PackCharge, check_charge, full_charges, in_turn, not_believed, transfer_efficiency
from .converter import AtLoad, converter_efficiency
from .counters import counter_doubts
from .gauge import gauge_doubts
from .levels import LAMPS, PackLevel, lamp_level, percent_level, typed_level
from .load_notes import MODES, LevelSeen, LoadNotes, Restart, modes_seen, typed_loads
from .load_sentences import load_sentences, load_warnings, most_held_w
from .load_steps import LoadStep
from .load_test import LoadTest, read_load
from .overview import HeldPower, Overview, PhoneCharges, held_power, overview
from .pack_cautions import pack_cautions
from .pack_figures import charge_figures, load_figures, overview_figures, rated_figure, recharge_figures
from .pack_sentences import (
    PackSentence,
    cabin_said,
    charges_said,
    coil_and_cord_said,
    delivered_said,
    efficiency_said,
    hours_said,
    in_turn_said,
    rated_said,
)
from .phone_to_phone import PhoneToPhone, phone_to_phone
from .rating import (
    Cabin,
    Hours,
    Rating,
    cabin_class,
    check_delivered,
    hours_at_load,
    is_good,
    mah_at_usb,
    rating,
    share_of_rated_mah,
    yield_of,
)
from .refill import (
    PassThrough,
    Recharge,
    from_empty,
    lost_a_day,
    pass_through,
    passed_by_eye,
    read_recharge,
    recharge_by_eye,
    round_trip,
)
from .refill_sentences import (
    converter_said,
    pass_sentences,
    phone_to_phone_sentences,
    recharge_sentences,
    recharge_warnings,
    standby_said,
    together_sentences,
)
from .together import Together, read_together
from .turns import discharges
from .typed_moments import typed_gauge, typed_given
from .walk import Loss, Stage, Stand, Way, losses, walk

__all__ = [
    "LAMPS",
    "MODES",
    "AtLoad",
    "Basis",
    "Bounds",
    "Cabin",
    "ChargeCell",
    "HeldPower",
    "Hours",
    "InTurn",
    "LevelSeen",
    "LoadNotes",
    "LoadStep",
    "LoadTest",
    "Loss",
    "Overview",
    "PackCharge",
    "PackLevel",
    "PackSentence",
    "PassThrough",
    "PhoneCharges",
    "PhoneToPhone",
    "Rating",
    "Recharge",
    "Restart",
    "SeenByEye",
    "Stage",
    "Stand",
    "Together",
    "Way",
    "cabin_class",
    "cabin_said",
    "charge_cells",
    "charge_figures",
    "charges_said",
    "check_charge",
    "check_delivered",
    "coil_and_cord_said",
    "converter_efficiency",
    "converter_said",
    "counter_doubts",
    "delivered_said",
    "discharges",
    "efficiency_said",
    "from_empty",
    "full_charges",
    "gauge_doubts",
    "held_power",
    "hours_at_load",
    "hours_said",
    "in_turn",
    "in_turn_said",
    "is_good",
    "lamp_level",
    "load_figures",
    "load_sentences",
    "load_warnings",
    "losses",
    "lost_a_day",
    "mah_at_usb",
    "modes_seen",
    "most_held_w",
    "not_believed",
    "overview",
    "overview_figures",
    "pack_cautions",
    "pass_sentences",
    "pass_through",
    "passed_by_eye",
    "percent_level",
    "phone_to_phone",
    "phone_to_phone_sentences",
    "rated_figure",
    "rated_said",
    "rating",
    "read_by_eye",
    "read_load",
    "read_recharge",
    "read_together",
    "recharge_by_eye",
    "recharge_figures",
    "recharge_sentences",
    "recharge_warnings",
    "round_trip",
    "share_of_rated_mah",
    "standby_said",
    "together_sentences",
    "transfer_efficiency",
    "typed_gauge",
    "typed_given",
    "typed_level",
    "typed_loads",
    "walk",
    "yield_of",
]
