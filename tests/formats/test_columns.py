"""Columns as bytes: back to the last bit, whatever stands in them, and short where a meter wrote them."""

import io
import unittest

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from jaunecharge.formats.columns import packed, unpacked

ROWS = 65_536


def bits(values):
    return np.ascontiguousarray(values, dtype=float).view(np.int64).tolist()


class Columns(unittest.TestCase):
    def assert_comes_back(self, **columns):
        again = unpacked(packed(columns))
        self.assertEqual(list(again), list(columns))
        for name, values in columns.items():
            self.assertEqual(bits(again[name]), bits(values), name)

    @given(hnp.arrays(np.float64, st.integers(0, 60), elements=st.floats(width=64)))
    def test_any_doubles_come_back_to_the_last_bit(self, values):
        self.assert_comes_back(a=values)

    @settings(max_examples=200)
    @given(
        st.lists(st.integers(-(10**9), 10**9), max_size=60),
        st.integers(0, 9),
        st.sampled_from(("over", "times", "text", "minutes")),
    )
    def test_decimals_come_back_however_they_were_made(self, numbers, decimals, made):
        whole = np.array(numbers, dtype=float)
        values = {
            "over": whole / 10.0**decimals,
            "times": whole * 10.0**-decimals,
            "text": np.array([float(f"{n}e-{decimals}") for n in numbers]),
            "minutes": whole / 10.0**decimals * 60.0,
        }[made]
        self.assert_comes_back(a=values, b=-values)

    def test_what_no_meter_writes_comes_back_too(self):
        self.assert_comes_back(
            odd=np.array([0.0, -0.0, np.nan, np.inf, -np.inf, 5e-324, 1.7e308, 2.0**53, 2.0**53 + 2, 0.1 + 0.2]),
        )
        self.assert_comes_back(large=np.array([2.0**31, -(2.0**31) - 1, 2.0**52, 0.0]))
        self.assert_comes_back(none=np.empty(0), neither=np.empty(0))
        nan = np.array([0x7FF8000000000001, 0x7FF0000000000001], dtype=np.int64).view(np.float64)
        self.assert_comes_back(which=nan)

    def size(self, decimals):
        """Bytes a sample of a noisy meter's volts and amps, a sample a second."""
        rng = np.random.default_rng(8)
        volts = np.round(9.0 + rng.normal(0, 0.005, ROWS), decimals)
        amps = np.round(1.5 + rng.normal(0, 0.003, ROWS), decimals)
        columns = {"t_s": np.arange(ROWS, dtype=float), "volts": volts, "amps": amps}
        self.assert_comes_back(**columns)
        return len(packed(columns)) / ROWS

    def test_a_meters_samples_take_few_bytes(self):
        self.assertLess(self.size(4), 2.2)
        self.assertLess(self.size(2), 0.6)

    def test_times_that_were_added_up_take_next_to_nothing(self):
        for name, times in {
            "tenths": np.arange(ROWS) / 10, "added": np.arange(ROWS) * 0.1, "milliseconds": np.arange(ROWS) * 1e-3,
            "of the epoch": 1_790_000_000.25 + np.arange(ROWS) * 0.5, "minutes": np.arange(ROWS) / 60,
        }.items():  # fmt: skip
            with self.subTest(name):
                self.assert_comes_back(t_s=times)
                self.assertLess(len(packed({"t_s": times})) / ROWS, 0.2)

    def test_any_reader_of_parquet_opens_it(self):
        table = pq.read_table(io.BytesIO(packed({"t_s": np.array([0.0, 0.5]), "amps": np.array([1.25, 1.5])})))
        self.assertEqual(table.to_pydict(), {"t_s": [0, 5], "amps": [125, 150]})

    def test_other_parquet_is_refused(self):
        out = io.BytesIO()
        pq.write_table(pa.table({"t_s": [0.0]}), out)
        with self.assertRaises(ValueError):
            unpacked(out.getvalue())
