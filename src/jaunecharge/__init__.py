"""Jaunecharge: measure wireless chargers against phones, and say what the figures allow."""

__version__ = "0.1.0"
