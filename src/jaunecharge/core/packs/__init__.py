"""Battery packs: what is printed against what they give, under a load and into phones."""

from .charges import Bounds, InTurn, PackCharge, check_charge, full_charges, in_turn, not_believed, transfer_efficiency
from .levels import LAMPS, PackLevel, lamp_level, percent_level, typed_level
from .load_steps import LoadStep
from .load_test import LoadTest, read_load
from .overview import Overview, PhoneCharges, overview
from .pack_sentences import (
    PackSentence,
    cabin_said,
    charges_said,
    delivered_said,
    efficiency_said,
    hours_said,
    load_sentences,
    load_warnings,
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
from .refill import PassThrough, Recharge, lost_a_day, pass_through, read_recharge, round_trip
from .walk import Loss, Stage, Stand, losses, walk

__all__ = [
    "LAMPS",
    "Bounds",
    "Cabin",
    "Hours",
    "InTurn",
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
    "Stage",
    "Stand",
    "cabin_class",
    "cabin_said",
    "charges_said",
    "check_charge",
    "check_delivered",
    "delivered_said",
    "efficiency_said",
    "full_charges",
    "hours_at_load",
    "hours_said",
    "in_turn",
    "is_good",
    "lamp_level",
    "load_sentences",
    "load_warnings",
    "losses",
    "lost_a_day",
    "mah_at_usb",
    "not_believed",
    "overview",
    "pass_through",
    "percent_level",
    "phone_to_phone",
    "rated_said",
    "rating",
    "read_load",
    "read_recharge",
    "round_trip",
    "share_of_rated_mah",
    "transfer_efficiency",
    "typed_level",
    "walk",
    "yield_of",
]
