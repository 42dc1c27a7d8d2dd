"""Units that readings come in, each with its factor to the unit the core computes in."""

from types import MappingProxyType

DAY_S = 86400.0
HOUR_S = 3600.0
MINUTE_S = 60.0

FACTORS = MappingProxyType(
    {
        "time": MappingProxyType({"s": 1.0, "ms": 1e-3, "us": 1e-6, "ns": 1e-9, "min": MINUTE_S, "h": HOUR_S}),
        "volts": MappingProxyType({"V": 1.0, "mV": 1e-3}),
        "amps": MappingProxyType({"A": 1.0, "mA": 1e-3}),
        "watts": MappingProxyType({"W": 1.0, "mW": 1e-3}),
        "phone_watts": MappingProxyType({"W": 1.0, "mW": 1e-3}),
        "phone_volts": MappingProxyType({"V": 1.0, "mV": 1e-3}),
        "phone_amps": MappingProxyType({"A": 1.0, "mA": 1e-3}),
        "energy": MappingProxyType({"Wh": 1.0, "mWh": 1e-3, "kWh": 1e3, "J": 1.0 / HOUR_S}),
        "charge": MappingProxyType({"Ah": 1.0, "mAh": 1e-3}),
        "percent": MappingProxyType({"%": 1.0}),
        "celsius": MappingProxyType({"°C": 1.0, "°F": 5.0 / 9.0, "K": 1.0}),
        "position": MappingProxyType({}),
    }
)
"""Factor of each unit to the first of its quantity (s, V, A, W, Wh, Ah, %, °C)."""

OFFSETS = MappingProxyType({"°F": -32.0 * 5.0 / 9.0, "K": -273.15})
"""Offset after the factor, for the units whose zero lies elsewhere."""


def to_base(quantity: str, unit: str) -> tuple[float, float]:
    """Factor and offset that turn a reading in `unit` into the base unit of `quantity`.

    Raises
    ------
    KeyError
        If the quantity or its unit is unknown.
    """
    return FACTORS[quantity][unit], OFFSETS.get(unit, 0.0)


def fahrenheit(celsius: float) -> float:
    """Degrees Fahrenheit of a temperature in °C."""
    return celsius * 9.0 / 5.0 + 32.0


def from_fahrenheit(degrees: float) -> float:
    """Degrees Celsius of a temperature in °F."""
    return (degrees - 32.0) * 5.0 / 9.0


def battery_wh(capacity_mah: float, nominal_v: float) -> float:
    """Energy of a battery [Wh] from its capacity [mAh] and its nominal voltage [V]."""
    return capacity_mah * nominal_v / 1000.0
