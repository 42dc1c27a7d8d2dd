"""Packs by their API: every pack of the shelf with what came of it, its tests kept and read."""

from . import files, plan, routes

ROUTERS = (files.router, plan.router, routes.router)

__all__ = ["ROUTERS"]
