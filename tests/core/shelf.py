"""Kit for tests, built from the text that a person would type."""

from jaunecharge.core.chain.check import Chain
from jaunecharge.core.kit.items import Adapter, Cable, Case, Charger, Pad, Phone
from jaunecharge.core.kit.supply import offers, supply_profiles
from jaunecharge.core.kit.transfer import transfers


def adapter(text, **more):
    found = offers(text)
    return Adapter(
        **{"label": "adapter", "profiles": found.profiles, "pps": found.pps, "rated_w": found.rated_w, **more}
    )


def charger(gives, asks="", **more):
    needs = supply_profiles(asks) if asks else ()
    return Charger(**{"label": "charger", "pads": (Pad("", transfers(gives, "charger")),), "asks": needs, **more})


def phone(takes, **more):
    return Phone(**{"label": "phone", "capacity_mah": 4400.0, "accepts": transfers(takes, "phone"), **more})


def chain(supply, gives, takes, amps=3.0, asks="", **more):
    own = charger(gives, asks) if isinstance(gives, str) else gives
    taker = phone(takes) if isinstance(takes, str) else takes
    given = adapter(supply) if isinstance(supply, str) else supply
    return Chain(given, Cable(label="cable", amps=amps), own, taker, **more)


def case(thickness_mm, magnets=False):
    return Case(label="case", thickness_mm=thickness_mm, magnets=magnets)
