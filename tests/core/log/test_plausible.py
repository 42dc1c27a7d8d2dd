import unittest

import numpy as np

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.log.clock import ClockKind, Timeline
from jaunecharge.core.log.plausible import refuse_no_level, refuse_no_supply, refuse_no_temperature

SOURCE = Timeline(ClockKind.ELAPSED, np.arange(3.0), file="m.csv", rows=np.array([2, 4, 7]))


def values(*found):
    return np.array(found, dtype=float)


class Refusals(unittest.TestCase):
    def refused(self, words, refuse, *arguments):
        with self.assertRaises(CannotRead) as caught:
            refuse(*arguments, SOURCE)
        self.assertIn(words, str(caught.exception))
        self.assertTrue(caught.exception.mend)

    def test_what_no_supply_gives(self):
        good = values(9, 9, 9)
        self.refused("m.csv, row 7: 1000 V", refuse_no_supply, values(9, 9, 1000), None, None)
        self.refused("m.csv, row 4: 54.3 A", refuse_no_supply, good, values(1, 54.3, 1), None)
        self.refused("m.csv, row 2: -500 W", refuse_no_supply, None, None, values(-500, 1, 1))

    def test_what_no_battery_and_no_bench_shows(self):
        self.refused("row 4: 140 %", refuse_no_level, values(5, 140, 7))
        self.refused("row 2: -1 %", refuse_no_level, values(-1, 14, 7))
        self.refused("row 7: 900 °C", refuse_no_temperature, values(25, 26, 900))

    def test_the_extremes_that_can_be_are_let_through(self):
        refuse_no_supply(values(0, 48, 60), values(0, -5, 20), values(0, 240, 400), SOURCE)
        refuse_no_level(values(0, 50, 100), SOURCE)
        refuse_no_temperature(values(-40, 0, 150), SOURCE)

    def test_a_cell_without_a_reading_is_no_reason(self):
        refuse_no_supply(values(np.nan, 9, 9), None, None, SOURCE)
