"""Comparisons by their API."""

from . import routes

ROUTERS = (routes.router,)

__all__ = ["ROUTERS"]
