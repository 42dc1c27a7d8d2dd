"""Data packages by their API: written with progress, handed out, brought in, conflicts told."""

from . import routes

ROUTERS = (routes.router,)

__all__ = ["ROUTERS"]
