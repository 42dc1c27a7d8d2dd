"""Findings by their API: drawn up, edited, found out of date, published."""

from . import files, routes

ROUTERS = (files.router, routes.router)

__all__ = ["ROUTERS"]
