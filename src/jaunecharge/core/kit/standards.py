"""Standards of supply and transfer: profiles of a rating, currents of ports, watts of profiles.

References
----------
USB Power Delivery Specification Revision 3.1, section 10.2 "Source Power Rules", table "Normative Voltages and Minimum
Currents"; USB Type-C Specification, section 4.5.2.3 "Type-C current"; Battery Charging Specification 1.2, dedicated
charging port. The figures are from memory of these documents unless a test names its table.
"""

from types import MappingProxyType

from .supply import SupplyProfile

PD_STEPS = ((5.0, 15.0), (9.0, 27.0), (15.0, 45.0), (20.0, 100.0))
"""Volts of each fixed supply of USB PD's standard range, and the rated watts up to which it is the highest."""

PD_AMPS = 3.0
"""Current of a source at every voltage below its highest one [A]; over this a cable must say that it carries 5 A."""

PORT_AMPS = MappingProxyType(
    {"usb2": 0.5, "usb3": 0.9, "bc1.2": 1.5, "type-c 0.5": 0.5, "type-c 0.9": 0.9, "type-c 1.5": 1.5, "type-c 3": 3.0}
)
"""Amps at 5 V of ports that negotiate no voltage, a computer's among them."""

TRANSFER_WATTS = MappingProxyType({"bpp": 5.0, "epp": 15.0, "mpp": 15.0, "mpp25": 25.0, "magnet-only": 7.5})
"""Watts that each transfer profile delivers to a phone; a maker's own profile states its watts."""

CLASSES_W = (5.0, 7.5, 10.0, 12.0, 15.0, 20.0, 25.0, 30.0, 40.0, 50.0)
"""Classes of output that chargers are sorted into [W] (common practice)."""

REFERENCE_RATIO = 1.25
"""Watts drawn at the meter per watt delivered, where no reference of one's own is known (common practice: 18.8 W
drawn for 15 W delivered)."""

REFERENCE_RATIO_U = 0.06
"""Its standard uncertainty (common practice: 1.20 to 1.29 is usual)."""


def pd_profiles(rated_w: float) -> tuple[SupplyProfile, ...]:
    """Fixed supplies that the power rules of USB PD ask of a source with this rating.

    Parameters
    ----------
    rated_w : float
        Rated power of one port [W].

    Returns
    -------
    tuple of SupplyProfile
        Lowest voltage first. Above 100 W the standard range's own, up to 20 V 5 A; 12 V is optional and left out.

    Raises
    ------
    ValueError
        If the rating is not above 0.

    References
    ----------
    USB PD 3.1, section 10.2.
    """
    if not rated_w > 0:
        raise ValueError("a rating is above 0 W")
    profiles = []
    for (volts, highest_w), (_, below_w) in zip(PD_STEPS, ((0.0, 0.0), *PD_STEPS), strict=False):
        if volts > 5.0 and rated_w <= below_w:
            break
        top = rated_w <= highest_w or volts == PD_STEPS[-1][0]
        amps = min(rated_w / volts, highest_w / volts) if top else PD_AMPS
        profiles.append(SupplyProfile(volts, round(amps + 1e-9, 2)))
    return tuple(profiles)
