"""Heavy work, done by workers: on this machine or on any other that has the same database."""

from .niceness import set_back
from .rereading import again, deal_out
from .worker import Worker

__all__ = ["Worker", "again", "deal_out", "set_back"]
