"""Findings by their API: drawn up, edited, found out of date, published."""

from . import routes

ROUTERS = (routes.router,)

__all__ = ["ROUTERS"]
