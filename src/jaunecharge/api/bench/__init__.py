"""The bench by its API: lanes and their log, readings pushed to them, a lane in the hand, checks."""

from . import checks, hand, pushed, routes

ROUTERS = (routes.router, pushed.router, hand.router, checks.router)

__all__ = ["ROUTERS"]
