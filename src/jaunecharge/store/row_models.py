"""Tables that hold logs row by row, as all runs had theirs once: what is left in them is packed in the background."""

from sqlalchemy import Boolean, Column, Float, ForeignKey, Table, Text
from sqlalchemy.dialects.postgresql import UUID

from .models import Base


def _table(name: str, *columns: Column, of_run: bool = True) -> Table:
    """Rows of runs, keyed by run first; the big ones never referred to the table of runs."""
    owner = [ForeignKey("runs.id", ondelete="CASCADE")] if of_run else []
    return Table(name, Base.metadata, Column("run_id", UUID(as_uuid=True), *owner, primary_key=True), *columns)


def _key(name: str = "t_s") -> Column:
    return Column(name, Float if name == "t_s" else Text, primary_key=True)


def _figure(name: str, nullable: bool = False) -> Column:
    return Column(name, Float, nullable=nullable)


def _meter() -> tuple[Column, ...]:
    return _key(), _figure("watts"), _figure("volts", True), _figure("amps", True)


ROWS = {
    "samples": _table("power_samples", *_meter(), of_run=False),
    "socket_samples": _table("socket_samples", *_meter(), of_run=False),
    "checkins": _table("checkins", _key(), _figure("percent")),
    "temperatures": _table("temperatures", _key("position"), _key(), _figure("celsius")),
    "ambients": _table("ambients", _key(), _figure("celsius")),
    "phone_watts": _table("phone_watts", _key(), _figure("watts")),
    "humidities": _table("humidities", _key(), _figure("percent")),
    "charging": _table("charging", _key(), Column("charges", Boolean, nullable=False)),
    "lights": _table("lights", _key(), Column("lit", Boolean, nullable=False)),
}
"""Table of each series."""
