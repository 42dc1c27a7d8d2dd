"""Shared arithmetic on arrays against NumPy's own, to the last bit."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from jaunecharge.core.arrays import median, row_dots

figures = st.floats(-1e12, 1e12)


class Arrays(unittest.TestCase):
    @given(hnp.arrays(np.float64, st.integers(1, 40), elements=figures | st.just(np.nan) | st.just(np.inf)))
    def test_the_median_is_numpys(self, values):
        np.testing.assert_array_equal(median(values), np.median(values))
        np.testing.assert_array_equal(median(values.tolist()), np.median(values))

    def test_of_nothing_there_is_none(self):
        self.assertTrue(np.isnan(median([])))

    @given(hnp.arrays(np.float64, st.tuples(st.integers(1, 6), st.integers(1, 30)), elements=figures))
    def test_dots_of_rows_are_those_of_each_row(self, rows):
        self.assertEqual(row_dots(rows, rows).tolist(), [float(r @ r) for r in rows])
        self.assertEqual(row_dots(rows, rows[0]).tolist(), [float(r @ rows[0]) for r in rows])
