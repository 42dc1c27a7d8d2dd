"""Load tests: 200 random packs of a generator that is not the product's, and small logs whose every second is known."""

import unittest

import numpy as np
from scipy import stats

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.log.energy import MeterSpec
from jaunecharge.core.log.trace import power_trace
from jaunecharge.core.packs import LoadNotes, load_sentences, load_warnings, rating, read_load, thinned_heat
from jaunecharge.core.packs.load_test import straight_line
from tests.other_packs import KINDS, made_pack

PACK = rating(10_000, 3.7)
FINE = MeterSpec(0.1, 0.001, 0.001)


def test_of(*pieces, step_s=1.0, rated=PACK, meter=FINE):
    """A load test of (seconds, volts, amps) pieces."""
    volts = np.concatenate([np.full(round(s / step_s), float(v)) for s, v, _ in pieces])
    amps = np.concatenate([np.full(round(s / step_s), float(a)) for s, _, a in pieces])
    return read_load(power_trace(np.arange(len(volts)) * step_s, volts * amps, volts, amps), rated, meter)


class Random(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.read = []
        for seed in range(4000, 4200):
            made = made_pack(seed)
            trace = power_trace(made.time_s, made.volts * made.amps, made.volts, made.amps)
            spec = MeterSpec(made.gain_percent, 0.001, 0.0005)
            cls.read.append((made, read_load(trace, rating(made.rated_mah, made.cell_v), spec), trace.step_s))

    def share(self, inside):
        told = [inside(made, found, step_s) for made, found, step_s in self.read]
        told = [x for x in told if x is not None]
        return sum(told) / len(told)

    def test_what_it_delivered_lies_in_what_is_stated(self):
        share = self.share(lambda m, f, _: abs(f.delivered_wh.value - m.wh) <= f.delivered_wh.expanded)
        self.assertTrue(0.93 <= share <= 0.99, share)
        self.assertGreaterEqual(
            self.share(lambda m, f, _: abs(f.delivered_ah.value - m.ah) <= f.delivered_ah.expanded), 0.93
        )

    def test_its_resistance_lies_in_what_is_stated(self):
        def inside(made, found, _):
            if "step" not in made.kind and "profile" not in made.kind:
                return None
            r = found.line.resistance_ohm
            return abs(r.value - made.resistance_ohm) <= r.expanded

        self.assertTrue(0.9 <= self.share(inside) <= 0.99, self.share(inside))

    def test_cut_off_and_where_it_lets_go_lie_in_what_is_stated(self):
        def cut_off(made, found, _):
            if made.cut_off_s is None or found.cut_off is None:
                return None
            true = (made.cut_off_s - made.start_s) / 3600
            return abs(found.cut_off.value - true) <= found.cut_off.expanded

        def lets_go(made, found, _):
            if found.trip_a is None or made.lets_go_a is None:
                return None
            return abs(found.trip_a.value - made.lets_go_a) <= found.trip_a.expanded

        self.assertTrue(0.92 <= self.share(cut_off) <= 0.99, self.share(cut_off))
        self.assertTrue(0.9 <= self.share(lets_go) <= 1.0, self.share(lets_go))

    def test_cut_off_protection_sleep_and_profiles(self):
        def cut_off(made, found, step_s):
            if made.cut_off_s is None:
                return found.cut_off_s is None and found.at_least
            return found.cut_off_s is not None and abs(found.cut_off_s - made.cut_off_s) <= 2 * step_s

        def trip(made, found, _):
            if made.trip_a is None:
                return found.trip is None
            held, let_go = made.trip_a
            told = found.trip
            return (
                told is not None
                and abs(told.held_a / held - 1) < 0.03
                and (told.tripped_at_a is None or abs(told.tripped_at_a / let_go - 1) < 0.03)
            )

        self.assertGreaterEqual(self.share(cut_off), 0.98)
        self.assertGreaterEqual(self.share(trip), 0.98)
        self.assertEqual(self.share(lambda m, f, _: bool(f.sleeps) == (m.sleep_s is not None)), 1.0)
        self.assertEqual(self.share(lambda m, f, _: len(f.profile_changes) == m.changes), 1.0)
        self.assertEqual({m.kind for m, _, _ in self.read}, set(KINDS))


class Lines(unittest.TestCase):
    def test_against_scipy(self):
        # scipy.stats.linregress, the outside check of the slope and its standard error.
        rng = np.random.default_rng(3)
        for n in (3, 5, 12):
            x, y = rng.uniform(0, 3, n), rng.normal(5, 0.1, n)
            slope, level, error = straight_line(x, y)
            outside = stats.linregress(x, y)
            np.testing.assert_allclose(
                (slope, level, error), (outside.slope, outside.intercept, outside.stderr), rtol=1e-9
            )
        self.assertIsNone(straight_line(np.array([0.0, 1.0]), np.array([5.0, 4.9]))[2])

    def test_two_points_have_the_doubt_of_the_meter(self):
        found = test_of((30, 5.1, 0), (600, 5.0, 2.0), (60, 0, 0))
        self.assertAlmostEqual(found.line.resistance_ohm.value, 0.05)
        self.assertAlmostEqual(found.sag_v, 0.1)
        self.assertGreater(found.line.resistance_ohm.expanded, 0)
        self.assertIsNone(test_of((600, 5.0, 2.0), (60, 0, 0)).line)


class Small(unittest.TestCase):
    def test_temperatures_are_thinned_to_the_hottest(self):
        t = np.arange(50_000.0)
        c = 25 + 20 * t / t[-1]
        c[7], c[31_234] = np.nan, 61.0
        thin = thinned_heat(t, c)
        self.assertEqual(len(thin), 1000)
        self.assertIn((31_234.0, 61.0), thin)
        self.assertEqual(thinned_heat(t[:3], c[:3]), [(0.0, 25.0), (1.0, float(c[1])), (2.0, float(c[2]))])

    def test_a_discharge_to_the_end(self):
        found = test_of((30, 5.1, 0), (3600, 5.0, 2.0), (60, 0, 0))
        self.assertAlmostEqual(found.delivered_wh.value, 10.0, delta=0.01)
        self.assertAlmostEqual(found.delivered_ah.value, 2.0, delta=0.002)
        self.assertEqual((found.cut_off_s, found.at_least), (3630.0, False))
        self.assertAlmostEqual(found.no_load_v.value, 5.1)
        self.assertAlmostEqual(found.yield_.value, 10.0 / 37.0, delta=0.001)
        said = " ".join(s.text for s in load_sentences(PACK, found))
        self.assertIn("Cut off after 1 h 00 under load", said)
        self.assertIn("27 % of what is printed", said)
        self.assertIn("under the half that a good pack gives", said)

    def test_a_log_that_ends_before_it_is_empty_says_at_least(self):
        found = test_of((30, 5.1, 0), (3600, 5.0, 2.0))
        self.assertTrue(found.at_least)
        said = load_sentences(PACK, found)[0].text
        self.assertIn("Delivered at least 10.0", said)
        self.assertNotIn("a good pack", said)
        self.assertTrue(any("Log until the output goes off" in w for w in load_warnings(PACK, found)))

    def test_a_load_switched_off_is_no_cut_off(self):
        self.assertTrue(test_of((30, 5.1, 0), (3600, 5.0, 2.0), (60, 5.1, 0)).at_least)

    def test_protection_comes_back(self):
        found = test_of(
            (30, 5.1, 0), (300, 5.0, 1), (300, 4.95, 2), (3, 4.9, 2.6), (60, 0, 0), (900, 5.0, 1), (30, 5.1, 0)
        )
        self.assertAlmostEqual(found.trip.held_a, 2.0)
        self.assertAlmostEqual(found.trip.tripped_at_a, 2.6)
        self.assertIsNotNone(found.trip.back_s)
        self.assertIsNone(found.cut_off_s)
        self.assertIn(
            "held 2.00 A, let go at 2.60 A; it was back", " ".join(s.text for s in load_sentences(PACK, found))
        )

    def test_protection_that_tries_again_by_itself(self):
        tries = [(1, 4.9, 2.6), (4, 0, 0)] * 5
        found = test_of((30, 5.1, 0), (300, 5.0, 1), (300, 4.95, 2), *tries, (60, 0, 0))
        self.assertEqual(found.trip.again, 4)
        said = " ".join(s.text for s in load_sentences(PACK, found))
        self.assertIn("let go at 2.60 A; it tried again 4 times by itself, about every 5 s", said)

    def test_the_volts_of_a_long_load_are_no_resistance(self):
        # Over two hours they fall by 0.6 V with what was taken; the load itself costs 0.1 V.
        pieces = [(10, 5.0 - 0.6 * n / 720, 2.0) for n in range(720)]
        found = test_of((60, 5.1, 0), *pieces, (60, 0, 0))
        self.assertAlmostEqual(found.line.resistance_ohm.value, 0.05, delta=0.006)

    def test_gone_long_before_it_can_be_empty_is_doubted(self):
        found = test_of((30, 5.1, 0), (3600, 5.0, 1.0), (60, 0, 0))
        self.assertTrue(any("if the cord was pulled out" in w for w in load_warnings(PACK, found)))
        whole = test_of((30, 5.1, 0), (15_000, 5.0, 1.4), (60, 0, 0))
        self.assertFalse(any("pulled out" in w for w in load_warnings(PACK, whole)))

    def test_it_goes_to_sleep_under_a_small_load(self):
        found = test_of((30, 5.1, 0), (300, 5.0, 1), (45, 5.09, 0.07), (60, 0, 0), (300, 5.0, 1))
        [sleep] = found.sleeps
        self.assertAlmostEqual(sleep.amps, 0.07)
        self.assertAlmostEqual(sleep.after_s, 45, delta=2)
        self.assertIsNone(found.cut_off_s)

    def test_an_hour_under_a_small_load_is_no_sleep(self):
        found = test_of((30, 5.1, 0), (3600, 5.0, 0.1), (60, 0, 0))
        self.assertEqual((found.sleeps, found.cut_off_s), ((), 3630.0))

    def test_another_profile(self):
        found = test_of((30, 5.1, 0), (300, 5.0, 1), (300, 8.9, 1), (60, 0, 0))
        [change] = found.profile_changes
        self.assertEqual((change.at_s, round(change.from_v, 1), round(change.to_v, 1)), (330.0, 5.0, 8.9))

    def test_it_gives_less_under_the_same_load(self):
        found = test_of((30, 9.1, 0), (1200, 9.0, 2.0), (1200, 8.2, 1.5), (60, 0, 0))
        [fold] = found.folded
        self.assertEqual((round(fold.from_w), round(fold.to_w, 1)), (18, 12.3))
        self.assertEqual(test_of((30, 9.1, 0), (1200, 9.0, 2.0), (1200, 9.02, 1.5), (60, 0, 0)).folded, ())

    def test_less_by_heat_or_hardly(self):
        found = test_of((30, 5.1, 0), (3600, 5.0, 3.0), (1800, 4.3, 2.0))
        [fold] = found.folded
        at = fold.at_s - found.start_s

        def said(*heat):
            lines = load_sentences(PACK, found, LoadNotes(heat=heat))
            return " ".join(s.text for s in lines if s.key in {"folded", "hottest"})

        self.assertIn("48.0 °C, 23 K warmer than at first: heat may be why", said((0, 25.0), (at + 60, 48.0)))
        self.assertIn("Hottest 48.0 °C, after 1 h 01", said((0, 25.0), (at + 60, 48.0)))
        # Warm, but it was so from the first; cool; read long before: none of these speaks for heat.
        self.assertIn("hardly by heat", said((0, 41.0), (at, 42.0)))
        self.assertIn("hardly by heat", said((0, 24.0), (at, 31.0)))
        self.assertIn("do not show", said((0, 25.0), (at - 1200, 48.0)))
        self.assertIn("do not show", said())

    def test_a_stop_that_nothing_explains_is_said(self):
        found = test_of((30, 5.1, 0), (900, 5.0, 2.0), (60, 0, 0), (900, 5.0, 2.0), (30, 5.1, 0))
        self.assertEqual(found.interruptions, ((930.0, 990.0),))
        self.assertTrue(any("for no reason that the log shows" in w for w in load_warnings(PACK, found)))

    def test_what_is_no_load_test_is_refused(self):
        at = np.arange(100.0)
        with self.assertRaisesRegex(CannotRead, "nothing was drawn"):
            read_load(power_trace(at, at * 0, at * 0 + 5.1, at * 0), PACK)
        with self.assertRaisesRegex(CannotRead, "log volts and amps"):
            read_load(power_trace(at, at * 0 + 5), PACK)

    def test_more_than_is_printed_is_doubted(self):
        found = test_of((30, 5.1, 0), (16_000, 5.0, 2.0), (60, 0, 0))
        self.assertTrue(any("more than is printed" in w for w in load_warnings(PACK, found)))

    def test_a_meter_of_unknown_accuracy_states_no_uncertainty(self):
        found = test_of((30, 5.1, 0), (3600, 5.0, 2.0), (60, 0, 0), meter=MeterSpec(None))
        self.assertIsNone(found.delivered_wh.stated)
        self.assertTrue(any("accuracy is not known" in w for w in load_warnings(PACK, found)))


if __name__ == "__main__":
    unittest.main()
