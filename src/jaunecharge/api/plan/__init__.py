"""Plans by their API: method cards, the matrix, the schedule, and what has happened."""

from . import cards, routes

ROUTERS = (cards.router, routes.router)

__all__ = ["ROUTERS"]
