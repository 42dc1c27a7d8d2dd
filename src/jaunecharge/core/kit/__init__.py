"""Kit on the shelf: each kind as one frozen dataclass with its limits, its fields in words, the one line that it is
typed in; what adapters offer, what standards give.
"""

from .addresses import Mqtt, Serial, Tcp, address_of
from .fields import FIELDS, Flawed, item_from, texts_of
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
from .roles import ROLES, Role, role_of
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
    "ROLES",
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
    "Mqtt",
    "Pack",
    "Pad",
    "Phone",
    "Probe",
    "Role",
    "Serial",
    "Tcp",
    "Transfer",
    "address_of",
    "as_charger",
    "flaws",
    "in_words",
    "item_from",
    "item_of",
    "kit_from_line",
    "offers",
    "parts",
    "phone_limit_w",
    "role_of",
    "supply_profiles",
    "texts_of",
    "transfers",
    "transmits",
    "typed_kit",
]
