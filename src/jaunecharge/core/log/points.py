"""Points of the chain at which power can be metered."""

SOCKET, METER, PHONE = "socket", "", "phone"
POINTS = (SOCKET, METER, PHONE)
"""From the wall to the battery: before the adapter, inline before the charger, at the phone itself (its own figure)."""
