"""Runs by their API: files sent and read, readings and decisions, series, notes and pictures, exports."""

from . import exports, many, readings, remarks, routes, series, uploads

ROUTERS = (uploads.router, many.router, routes.router, series.router, remarks.router, readings.router, exports.router)

__all__ = ["ROUTERS"]
