"""Temperatures at which a person is warned: of a phone that charges, and of a surface that a hand may touch."""

WARN_C = 45.0
"""Charging guidance ends full-rate charging here (JEITA, from memory)."""

THRESHOLDS_C = (40, 43, 45, 48, 50)
"""Minutes at or above these are told (common practice)."""

STOP_C = 50.0
"""At the phone: stop and separate (common practice)."""

TOUCH_C = 48.0
"""Held surfaces: IEC 62368-1, touch temperature limits (from memory)."""
