"""Shared arithmetic on arrays against NumPy's own, to the last bit."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from jaunecharge.core.arrays import median, percentile

figures = st.floats(-1e12, 1e12)


class Arrays(unittest.TestCase):
    @given(hnp.arrays(np.float64, st.integers(1, 40), elements=figures | st.just(np.nan) | st.just(np.inf)))
    def test_the_median_is_numpys(self, values):
        np.testing.assert_array_equal(median(values), np.median(values))
        np.testing.assert_array_equal(median(values.tolist()), np.median(values))

    @given(
        hnp.arrays(np.float64, st.integers(1, 40), elements=figures | st.just(np.nan)),
        st.sampled_from((2, 5, 10, 75, 95, 98, 99.5)) | st.floats(0, 100),
    )
    def test_a_percentile_is_numpys(self, values, percent):
        np.testing.assert_array_equal(percentile(values, percent), np.percentile(values, percent))
        np.testing.assert_array_equal(percentile(values.tolist(), percent), np.percentile(values, percent))

    def test_of_nothing_there_is_none(self):
        self.assertTrue(np.isnan(median([])))
        self.assertTrue(np.isnan(percentile([], 95)))
