"""The work of each kind of job."""

from .doing import Work
from .files import bring_in, store_runs, write_package, write_pdf
from .rereading import read_again
from .searching import search
from .table import make_table

WORKS: dict[str, Work] = {
    "pdf": write_pdf,
    "package": write_package,
    "bring in": bring_in,
    "table": make_table,
    "runs of a file": store_runs,
    "schedule": search,
    "runs again": read_again,
}
