"""Findings by their API: drawn up, edited, found out of date, published, shared."""

from . import files, routes, shared

ROUTERS = (files.router, routes.router, shared.router, shared.pages)

__all__ = ["ROUTERS"]
