"""Phases, dips and causes on small runs whose every second is known."""

import unittest
from itertools import pairwise

import numpy as np

from jaunecharge.core.log.trace import power_trace
from jaunecharge.core.reading.read_run import Conditions, RunLog, read_run
from jaunecharge.core.reading.thermal_node import node_course
from tests.cases import checkins
from tests.core.small_runs import FULL, PLACED, TAPER, cycles, falling, follow, read, rising


class Phases(unittest.TestCase):
    def kinds(self, run):
        return [p.kind for p in run.judged.phases]

    def test_a_plain_run_has_each_phase_once_in_order_and_without_a_gap(self):
        run = read([PLACED, (3600, 12.0), *TAPER, (1200, 1.2), FULL], rising(140))
        self.assertEqual(self.kinds(run), ["no_load", "plateau", "taper", "trickle", "full"])
        phases = run.judged.phases
        for before, after in pairwise(phases):
            self.assertAlmostEqual(before.end_s, after.start_s, delta=0.01)
        self.assertAlmostEqual(phases[0].start_s, 0.0, delta=1)
        self.assertAlmostEqual(phases[-1].end_s, run.log.trace.end_s, delta=1)

    def test_bounds_and_mean_watts(self):
        run = read([PLACED, (3600, 12.0), *TAPER, (1200, 1.2), FULL], rising(140))
        plateau, taper = (next(p for p in run.judged.phases if p.kind == k) for k in ("plateau", "taper"))
        self.assertAlmostEqual(plateau.start_s, 60, delta=30)
        self.assertAlmostEqual(taper.start_s, 3720, delta=60)
        self.assertAlmostEqual(plateau.mean_w, 12.0, delta=0.05)

    def test_stages_are_plateaus_of_their_own_and_no_dips(self):
        run = read(
            [PLACED, (900, 19.0), (1200, 15.0), (1500, 12.0), (1800, 8.0), *falling(40, 8, 1), FULL], rising(130)
        )
        plateaus = [p for p in run.judged.phases if p.kind == "plateau"]
        self.assertEqual([round(p.mean_w) for p in plateaus], [19, 15, 12, 8])
        for plateau, start in zip(plateaus, (60, 960, 2160, 3660), strict=True):
            self.assertAlmostEqual(plateau.start_s, start, delta=60)
        self.assertEqual(run.judged.dips, ())

    def test_a_dead_phone_wakes_before_it_ramps(self):
        run = read([PLACED, (300, 4.0), (3600, 12.0), *TAPER, FULL], [(1, 0), (16, 8), (31, 25), (61, 60), (91, 90)])
        self.assertEqual(self.kinds(run)[:2], ["no_load", "wake"])
        self.assertAlmostEqual(run.judged.phases[1].end_s, 360, delta=60)

    def test_a_wake_not_far_below_the_first_level_is_one_too(self):
        for watts, minutes in ((5.0, 4), (6.5, 6), (2.2, 5)):
            with self.subTest(watts):
                levels = [PLACED, (minutes * 60, watts), (3600, 9.0), *falling(60, 9, 1), FULL]
                run = read(levels, [(1, 1), (16, 6), (31, 20), (61, 60), (91, 85)])
                self.assertEqual(self.kinds(run)[1], "wake")
                self.assertAlmostEqual(run.judged.phases[1].end_s, 60 + 60 * minutes, delta=60)
                self.assertAlmostEqual(run.sustained.watts, 9.0, delta=0.3)

    def test_contact_lost_early_is_no_wake(self):
        levels = [PLACED, (200, 12.0), (90, 0.5), (3600, 12.0), *TAPER, FULL]
        run = read(levels, [(1, 2), (16, 12), (31, 28), (61, 60), (91, 90)], follow(levels, 0.6))
        self.assertNotIn("wake", self.kinds(run))
        self.assertEqual([d.cause for d in run.judged.dips], ["contact"])

    def test_a_slow_start_from_half_full_is_no_wake(self):
        run = read([PLACED, (300, 4.0), (3600, 12.0), *TAPER, FULL], [(1, 50), (31, 70), (61, 85)])
        self.assertNotIn("wake", self.kinds(run))

    def test_sampling_every_five_seconds_moves_no_bound_by_a_minute(self):
        levels = [PLACED, (1800, 15.0), (1800, 11.0), *falling(60, 11, 1), FULL]
        fine, coarse = (read(levels, rising(120), step_s=s).judged.phases for s in (1.0, 5.0))
        self.assertEqual([p.kind for p in fine], [p.kind for p in coarse])
        for a, b in zip(fine, coarse, strict=True):
            self.assertAlmostEqual(a.start_s, b.start_s, delta=60)

    def test_noise_adds_no_phase(self):
        calm = read([PLACED, (3600, 12.0), *TAPER, (1200, 1.2), FULL], rising(140))
        rng = np.random.default_rng(3)
        trace = calm.log.trace
        noisy = power_trace(trace.time_s, trace.power_w * (1 + rng.normal(0, 0.02, len(trace.time_s))), trace.volts)
        again = read_run(RunLog(noisy, calm.log.readings), calm.conditions)
        self.assertEqual([p.kind for p in again.judged.phases], [p.kind for p in calm.judged.phases])
        self.assertEqual(again.judged.dips, ())

    def test_a_top_up_after_full_does_not_end_it(self):
        run = read([PLACED, (3600, 12.0), *TAPER, (1800, 0.6), (200, 5.0), (1800, 0.6)], rising(110))
        self.assertEqual(self.kinds(run)[-1], "full")
        self.assertEqual(run.judged.dips, ())

    def test_shared_watts_are_not_judged(self):
        self.assertIsNone(read([PLACED, (3600, 12.0)], rising(60), shared_with="another phone").judged)


class DoesNotCharge(unittest.TestCase):
    def test_never_above_no_load_is_an_outcome(self):
        run = read([PLACED, (1800, 0.55)], [(1, 20), (31, 20)], placed_s=60)
        self.assertEqual(run.judged.outcome, "does not charge")
        self.assertIsNone(run.output.group)

    def test_half_a_watt_that_gains_nothing_counts_too_where_no_load_was_not_logged(self):
        run = read([(1800, 0.5)], [(0, 20), (30, 20)], placed_s=0)
        self.assertEqual(run.judged.outcome, "does not charge")

    def test_a_weak_charger_that_gains_points_charges(self):
        self.assertEqual(read([(3600, 1.0)], [(0, 20), (60, 24)], placed_s=0).judged.outcome, "")


class Causes(unittest.TestCase):
    def one(self, run):
        self.assertEqual(len(run.judged.dips), 1, run.judged.dips)
        return run.judged.dips[0]

    def causes(self, run):
        return [d.cause for d in run.judged.dips]

    def test_power_lost_while_cool_is_contact(self):
        levels = [PLACED, (1500, 12.0), (70, 0.5), (2500, 12.0), *TAPER, FULL]
        dip = self.one(read(levels, rising(130), follow(levels, 0.7)))
        self.assertEqual(dip.cause, "contact")
        self.assertAlmostEqual(dip.start_s, 1560, delta=10)
        self.assertAlmostEqual(dip.end_s, 1630, delta=10)

    def test_in_the_taper_as_well(self):
        levels = [PLACED, (3000, 12.0), *TAPER[:20], (90, 0.5), *TAPER[22:], FULL]
        self.assertEqual(self.one(read(levels, rising(120), follow(levels, 0.7))).cause, "contact")

    def test_under_twenty_seconds_is_no_dip(self):
        levels = [PLACED, (1500, 12.0), (12, 0.5), (2500, 12.0), *TAPER, FULL]
        self.assertEqual(read(levels, rising(130)).judged.dips, ())

    def test_a_fall_by_a_tenth_is_no_dip(self):
        levels = [PLACED, (1500, 12.0), (600, 10.8), (2500, 12.0), *TAPER, FULL]
        self.assertEqual(read(levels, rising(130)).judged.dips, ())

    def test_falls_that_begin_hot_at_one_level_and_end_cooler_are_heat(self):
        levels = [PLACED, *cycles(15.0, 8.0), *falling(50, 15, 1), FULL]
        run = read(levels, rising(150), follow(levels))
        self.assertGreaterEqual(len(run.judged.dips), 3)
        self.assertEqual(set(self.causes(run)), {"heat"})

    def test_the_same_without_temperatures_is_never_called_heat(self):
        levels = [PLACED, *cycles(15.0, 8.0), *falling(50, 15, 1), FULL]
        run = read(levels, rising(150))
        self.assertEqual(set(self.causes(run)), {"unexplained"})
        self.assertIn("Measure the back of the phone", run.judged.dips[0].settle)

    def test_sparse_temperatures_show_it_as_well(self):
        levels = [PLACED, *cycles(15.0, 8.0), *falling(50, 15, 1), FULL]
        for every in (300, 600):
            with self.subTest(every):
                self.assertEqual(set(self.causes(read(levels, rising(150), follow(levels, every_s=every)))), {"heat"})

    def test_stops_that_begin_hot_and_end_cooler_are_cut_outs(self):
        levels = [PLACED, *cycles(15.0, 0.5, 43.0, 40.0), *falling(50, 15, 1), FULL]
        self.assertEqual(set(self.causes(read(levels, rising(150), follow(levels)))), {"heat_cutout"})

    def test_a_fall_in_part_while_cool_is_unexplained(self):
        levels = [PLACED, (1500, 12.0), (400, 7.0), (2500, 12.0), *TAPER, FULL]
        dip = self.one(read(levels, rising(130), follow(levels, 0.7)))
        self.assertEqual(dip.cause, "unexplained")
        self.assertIn("not hot", dip.why)

    def test_hot_falls_after_which_it_goes_on_hotter_are_not_heat(self):
        levels = [PLACED, (1800, 12.0), (300, 7.0), (3600, 12.0), *TAPER, FULL]
        dip = self.one(read(levels, rising(160), follow(levels)))
        self.assertGreater(dip.onset_c, 39)
        self.assertEqual(dip.cause, "unexplained")

    def test_no_load_at_eighty_for_long_is_a_hold(self):
        levels = [PLACED, (3600, 12.0), (2400, 0.6)]
        percents = [(1, 20), (21, 42), (41, 63), (61, 80), (81, 80), (101, 80)]
        run = read(levels, percents, follow(levels, 0.7))
        dip = self.one(run)
        self.assertEqual(dip.cause, "hold")
        self.assertEqual([p.kind for p in run.judged.phases][-1], "hold")

    def test_the_same_at_sixty_four_is_none(self):
        levels = [PLACED, (3600, 12.0), (2400, 0.6)]
        percents = [(1, 20), (21, 35), (41, 50), (61, 64), (81, 64), (101, 64)]
        dip = self.one(read(levels, percents, follow(levels, 0.7)))
        self.assertEqual(dip.cause, "unexplained")
        self.assertEqual(dip.settle, "Was it taken off? A note would say.")

    def test_a_limit_that_the_log_ends_in_is_not_called_one_yet(self):
        levels = [PLACED, (3600, 12.0), (600, 0.6)]
        dip = self.one(read(levels, [(1, 20), (31, 50), (61, 80), (71, 80)], follow(levels, 0.7)))
        self.assertEqual(dip.cause, "unexplained")
        self.assertIn("quarter of an hour", dip.settle)

    def test_many_stops_at_one_level_under_38_degrees_are_heat_too(self):
        levels = [PLACED, *cycles(15.0, 0.5, 36.5, 33.5), *falling(50, 15, 1), FULL]
        run = read(levels, rising(150), follow(levels))
        self.assertGreaterEqual(len(run.judged.dips), 4)
        self.assertEqual(set(self.causes(run)), {"heat_cutout"})

    def test_a_phone_taken_off_at_the_end_is_no_dip(self):
        levels = [PLACED, (3600, 12.0), (600, 0.5)]
        self.assertEqual(read(levels, [(1, 20), (31, 50), (60, 78)]).judged.dips, ())

    def test_short_falls_to_a_watt_that_come_back_are_restarts(self):
        once = [(400, 12.0), (60, 1.2), (15, 6.0)]
        levels = [PLACED, (600, 12.0), *once, *once, *once, (1500, 12.0), *TAPER, FULL]
        self.assertEqual(self.causes(read(levels, rising(120), follow(levels, 0.7))), ["restart"] * 3)

    def supply(self, volts_after, watts_after, seconds=900):
        levels = [PLACED, (1500, 12.0), (seconds, watts_after), (1500, 12.0), *TAPER, FULL]
        watts = np.concatenate([np.full(s, w) for s, w in levels])
        volts = np.full(len(watts), 9.0)
        volts[1560 : 1560 + seconds] = volts_after
        trace = power_trace(np.arange(len(watts), dtype=float), watts, volts, watts / np.maximum(volts, 0.1))
        return read_run(RunLog(trace, checkins(*rising(130))), Conditions())

    def test_volts_that_fall_with_it_are_the_supply(self):
        dip = self.one(self.supply(5.0, 7.0))
        self.assertEqual(dip.cause, "supply")
        self.assertIn("9.00 to 5.00 V", dip.why)

    def test_an_adapter_pulled_out_is_the_supply(self):
        self.assertEqual(self.one(self.supply(0.0, 0.0, 120)).cause, "supply")

    def test_watts_alone_cannot_show_it(self):
        levels = [PLACED, (1500, 12.0), (900, 7.0), (1500, 12.0), *TAPER, FULL]
        watts = np.concatenate([np.full(s, w) for s, w in levels])
        run = read_run(RunLog(power_trace(np.arange(len(watts), dtype=float), watts)), Conditions())
        self.assertEqual(self.causes(run), ["unexplained"])

    def test_a_lasting_cut_at_the_hottest_moment_is_heat_to_the_taper(self):
        levels = [PLACED, (1500, 16.0), (3600, 11.0), *falling(60, 11, 1), FULL]
        run = read(levels, rising(150), follow(levels, 1.25, tau_s=900))
        dip = self.one(run)
        self.assertEqual(dip.cause, "heat")
        self.assertAlmostEqual(dip.start_s, 1560, delta=60)
        self.assertAlmostEqual(dip.end_s, 1560 + 3600, delta=90)

    def test_the_same_step_while_cool_is_a_stage(self):
        levels = [PLACED, (1500, 16.0), (3600, 11.0), *falling(60, 11, 1), FULL]
        self.assertEqual(read(levels, rising(150), follow(levels, 0.6)).judged.dips, ())

    def test_a_note_that_it_was_moved_settles_it(self):
        levels = [PLACED, *cycles(15.0, 0.5, 43.0, 40.0), *falling(50, 15, 1), FULL]
        bare = read(levels, rising(150))
        first = bare.judged.dips[0]
        self.assertEqual(first.cause, "unexplained")
        noted = read(levels, rising(150), notes=((first.start_s + 30, "moved it by accident"),))
        self.assertEqual(noted.judged.dips[0].cause, "contact")
        self.assertIn("moved it by accident", noted.judged.dips[0].why)

    def test_single_wild_readings_are_no_dip(self):
        run = read([PLACED, (3600, 12.0), *TAPER, FULL], rising(120))
        watts = run.log.trace.power_w.copy()
        watts[[700, 1300, 2900]] = (0.0, 40.0, 0.0)
        again = read_run(RunLog(power_trace(run.log.trace.time_s, watts), run.log.readings), run.conditions)
        self.assertEqual(again.judged.dips, ())


class Course(unittest.TestCase):
    def test_the_node_of_the_helper_is_the_analytic_one(self):
        at, celsius = follow([(3000, 10.0)])
        self.assertLess(np.abs(celsius - node_course(at + 1, 39.0, 24.0, 700.0)).max(), 0.03)


if __name__ == "__main__":
    unittest.main()
