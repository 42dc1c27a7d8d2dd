"""Jobs over the web: what runs, waits and has failed."""

from . import routes

ROUTERS = (routes.router,)
