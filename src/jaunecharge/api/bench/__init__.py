"""The bench by its API: lanes and their log, readings pushed to them, a lane in the hand, checks."""

from . import checks, hand, levels, pushed, routes

ROUTERS = (routes.router, pushed.router, hand.router, levels.router, checks.router)

__all__ = ["ROUTERS"]
