"""A short simulated charge for stand-ins, and a clock that the test turns."""

from jaunecharge.core.chain.check import Chain
from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.core.simulator.circumstances import Circumstances
from jaunecharge.core.simulator.scenario import prepare

CHAIN = Chain(
    kit_from_line("adapter Plug 20 20W"), None, kit_from_line("puck Cairn disc mpp claims 15W asks 9V2.22A"),
    kit_from_line("phone Ostrel Max 4620mAh mpp wired 25W large magnets"),
)  # fmt: skip


def scenario(around=Circumstances()):
    return prepare(CHAIN, around).scenario


class Turned:
    """A clock that stands still until it is turned."""

    def __init__(self):
        self.now = 100.0

    def __call__(self):
        return self.now
