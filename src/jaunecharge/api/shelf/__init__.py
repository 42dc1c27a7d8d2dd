"""The shelf by its API: kit, and the chains that can be made of it."""

from . import chains, kit

ROUTERS = (kit.router, chains.router)

__all__ = ["ROUTERS"]
