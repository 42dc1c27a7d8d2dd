"""Runs by their API: files sent and read, readings and decisions, series, notes and pictures, exports."""

from . import exports, lists, many, mappings, readings, remarks, routes, series, uploads

ROUTERS = (
    uploads.router,
    many.router,
    mappings.router,
    lists.router,
    routes.router,
    series.router,
    remarks.router,
    readings.router,
    exports.router,
)

__all__ = ["ROUTERS"]
