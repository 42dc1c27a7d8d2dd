"""Shared arithmetic on arrays against NumPy's own, to the last bit."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from jaunecharge.core.arrays import median

figures = st.floats(-1e12, 1e12)


class Arrays(unittest.TestCase):
    @given(hnp.arrays(np.float64, st.integers(1, 40), elements=figures | st.just(np.nan) | st.just(np.inf)))
    def test_the_median_is_numpys(self, values):
        np.testing.assert_array_equal(median(values), np.median(values))
        np.testing.assert_array_equal(median(values.tolist()), np.median(values))

    def test_of_nothing_there_is_none(self):
        self.assertTrue(np.isnan(median([])))
