"""Kit on the shelf: each kind as one frozen dataclass with its limits, its fields in words, the one line that it is
typed in; what adapters offer, what standards give.
"""

from .fields import FIELDS, Flawed, host_and_port, item_from, texts_of
from .items import (
    MOST_MAH,
    OWN_SOURCE,
    Adapter,
    Cable,
    Capacity,
    Case,
    Charger,
    Flaw,
    Kit,
    Meter,
    Pack,
    Pad,
    Phone,
    Probe,
    as_charger,
    flaws,
    transmits,
)
from .one_line import GRAMMAR, item_of, kit_from_line, typed_kit
from .standards import TRANSFER_WATTS
from .summary import in_words
from .supply import MOST_A, offers, parts, supply_profiles
from .transfer import MOST_TRANSFER_W, Transfer, phone_limit_w, transfers

__all__ = [
    "FIELDS",
    "GRAMMAR",
    "MOST_A",
    "MOST_MAH",
    "MOST_TRANSFER_W",
    "OWN_SOURCE",
    "TRANSFER_WATTS",
    "Adapter",
    "Cable",
    "Capacity",
    "Case",
    "Charger",
    "Flaw",
    "Flawed",
    "Kit",
    "Meter",
    "Pack",
    "Pad",
    "Phone",
    "Probe",
    "Transfer",
    "as_charger",
    "flaws",
    "host_and_port",
    "in_words",
    "item_from",
    "item_of",
    "kit_from_line",
    "offers",
    "parts",
    "phone_limit_w",
    "supply_profiles",
    "texts_of",
    "transfers",
    "transmits",
    "typed_kit",
]
