"""Logs with more than one cause, or of which a part is missing: no more is said of them than they show."""

import unittest

import numpy as np

from jaunecharge.core.log.check_ins import Battery, make_check_ins
from jaunecharge.core.log.placement import FIRST_CHECK_IN, charging_from, find_placement
from jaunecharge.core.log.temperatures import heat_log
from jaunecharge.core.log.trace import power_trace
from jaunecharge.core.reading.read_run import Conditions, RunLog, read_run
from jaunecharge.core.report.cautions import warnings
from jaunecharge.core.report.figures import figures
from jaunecharge.core.report.sentences import sentences
from tests.cases import checkins, reading, steps
from tests.core.small_runs import FULL, PLACED, TAPER, cycles, falling, follow, read, rising


def causes(run):
    return [d.cause for d in run.judged.dips]


class Restarts(unittest.TestCase):
    def test_in_a_taper_a_watt_is_no_small_share_of_it(self):
        taper = falling(60, 12.0, 2.0)
        levels = [PLACED, (2400, 12.0), *taper[:30], (80, 1.2), *taper[30:40], (80, 1.2), *taper[40:], FULL]
        self.assertEqual(causes(read(levels, rising(100))), ["restart", "restart"])

    def small_charger(self, floor_w, lengths):
        parts = [x for s in lengths for x in ((600, 5.5), (s, floor_w))]
        return read([(60, 1.2), *parts, (900, 5.5), (300, 1.2), (900, 5.5)], rising(120, to=70))

    def test_just_above_no_load_and_all_alike_they_are_no_contacts(self):
        run = self.small_charger(1.42, (85, 80, 85, 82))
        self.assertEqual(causes(run), ["restart"] * 4 + ["contact"])
        self.assertIn("above the 1.20 W that it draws idle", run.judged.dips[0].why)

    def test_at_no_load_or_of_any_length_they_are_contacts(self):
        self.assertEqual(causes(self.small_charger(1.2, (85, 80, 85, 82))), ["contact"] * 5)
        self.assertEqual(causes(self.small_charger(1.42, (35, 130, 60, 110))), ["contact"] * 5)

    def test_with_no_lead_a_level_on_the_border_is_not_cut_into_pieces(self):
        noise = np.random.default_rng(2).normal(0, 0.04, 9000)
        watts = np.concatenate([np.full(s, w) for s, w in [(1500, 12.0), (80, 3.42)] * 4 + [(1500, 12.0)]])
        watts = watts + noise[: len(watts)]
        run = read_run(RunLog(power_trace(np.arange(len(watts)) * 1.0, watts), checkins((0, 20), (120, 80))))
        self.assertEqual(causes(run), ["restart"] * 4)
        for dip in run.judged.dips:
            self.assertAlmostEqual(dip.end_s - dip.start_s, 80, delta=10)


class HeatAndMore(unittest.TestCase):
    def test_a_stop_in_a_cut_by_heat_is_a_contact_and_costs_no_minutes_of_heat(self):
        levels = [PLACED, (2400, 15.0), (1500, 9.0), (300, 0.5), (1500, 9.0), (600, 0.5), (1800, 15.0)]
        at, celsius = follow(levels, hot_w_k=1.2, tau_s=500.0)
        # The phone stays as hot while it is limited, as one does that regulates itself.
        held = (at > 2460) & (at < 3960)
        celsius = np.where(held, celsius[at <= 2460][-1], celsius)
        run = read(levels, [(1, 10), (41, 45), (135, 75)], (at, celsius))
        self.assertEqual(causes(run)[0], "heat")
        self.assertIn("contact", causes(run))
        self.assertNotIn("heat_cutout", causes(run))
        heat = [d for d in run.judged.dips if d.throttle]
        self.assertAlmostEqual(run.throttle.minutes, sum(d.minutes for d in heat), delta=0.5)

    def test_a_lasting_cut_leaves_out_the_minutes_of_a_stop_in_it(self):
        levels = [PLACED, (2400, 15.0), (1200, 9.0), (300, 0.5), (2400, 9.0)]
        at, celsius = follow(levels, hot_w_k=1.2, tau_s=500.0)
        hottest = celsius[at <= 2460][-1]
        celsius = np.where(at > 2460, np.maximum(celsius, hottest - 0.5), celsius)
        percents = [(1, 10), (41, 50), (61, 60), (104, 78)]
        run = read(levels, percents, (at, celsius))
        cut = next(d for d in run.judged.dips if d.lasting)
        self.assertEqual(cut.cause, "heat")
        self.assertAlmostEqual(run.throttle.minutes, cut.minutes - 5.0, delta=0.6)

    def test_what_holds_as_long_as_the_stops_by_heat_is_no_charge_limit(self):
        levels = cycles(15.0, 0.5, hot_c=42.0, cool_c=38.0, hours=3.2)
        at, celsius = follow([PLACED, *levels, (600, 15.0)])
        minutes = np.cumsum([s for s, _ in [PLACED, *levels]]) / 60.0
        stops = [i for i, (_, w) in enumerate(levels) if w < 1.0]
        # One of them happens at 80 %, and lasts a quarter of an hour.
        mid = minutes[stops[2]]
        percents = [(1, 20), (mid, 80), (mid + 8, 80), (minutes[-1], 90)]
        run = read([PLACED, *levels, (600, 15.0)], percents, (at, celsius))
        self.assertEqual(set(causes(run)), {"heat_cutout"})

    def test_a_phone_that_cools_far_in_its_taper_is_not_held_by_heat(self):
        levels = [PLACED, (2400, 15.0), *falling(50, 9.0, 1.2), FULL]
        at, celsius = follow(levels, hot_w_k=1.6, tau_s=400.0)
        run = read(levels, rising(95), (at, celsius))
        self.assertNotIn("heat", causes(run))

    def test_volts_that_fall_later_did_not_take_the_power(self):
        levels = [PLACED, (2400, 15.0), (4200, 8.0)]
        at, celsius = follow(levels, hot_w_k=1.2, tau_s=500.0)
        celsius = np.where(at > 2460, celsius[at <= 2460][-1], celsius)
        trace = steps(*levels)
        later = trace.time_s > 60 + 2400 + 900
        volts = np.where(later, 5.0, 9.0)
        log = RunLog(
            power_trace(trace.time_s, trace.power_w, volts, trace.power_w / volts),
            checkins((1, 10), (41, 50), (110, 75)),
            heat_log(["back"] * len(at), at, celsius, 24.0),
        )
        self.assertEqual(causes(read_run(log, Conditions(battery=Battery(4400, 3.87)))), ["heat"])

    def test_hot_dips_in_a_log_begun_late_are_heat_however_warm_it_began(self):
        levels = cycles(15.0, 0.5, hot_c=39.5, cool_c=36.0, hours=3.0)
        at, celsius = follow([PLACED, *levels])
        begin = PLACED[0] + levels[0][0] - 400
        trace = steps(PLACED, *levels)
        late, warm = trace.time_s >= begin, at >= begin
        log = RunLog(
            power_trace(trace.time_s[late], trace.power_w[late]),
            make_check_ins(np.array([begin + 60.0, 10000.0]), np.array([30.0, 70.0])),
            heat_log(["back"] * int(warm.sum()), at[warm], celsius[warm], 24.0),
        )
        self.assertEqual(set(causes(read_run(log))), {"heat_cutout"})


class ByHand(unittest.TestCase):
    def read(self, watts, celsius=None, every_s=180.0, percents=((0, 10), (60, 60)), volts=None):
        at = np.arange(len(watts)) * every_s
        heat = None if celsius is None else heat_log(["back"] * len(at), at, np.array(celsius, float), 24.0)
        v = None if volts is None else np.array(volts, float)
        w = np.array(watts, float)
        return read_run(RunLog(power_trace(at, w, v, None if v is None else w / v), checkins(*percents), heat))

    def test_three_readings_show_a_drop_and_two_do_not(self):
        full, part = [15.0], [9.0]
        for low, dips in ((2, 0), (3, 1), (5, 1)):
            with self.subTest(low):
                run = self.read(full * 9 + part * low + full * 8, [30.0] * (17 + low))
                self.assertEqual(causes(run), ["unexplained"] * dips)

    def test_a_stop_that_began_hot_is_not_told_from_heat(self):
        watts = [15.0] * 9 + [0.4] * 4 + [15.0] * 8
        warm = [30, 33, 35, 37, 39, 40, 41, 41.5, 42, 41, 39, 38, 37.5, 38, 39, 40, 40.5, 41, 41.2, 41.4, 41.5]
        run = self.read(watts, warm)
        self.assertEqual(causes(run), ["unexplained"])
        self.assertIn("lost contact or a stop by heat", run.judged.dips[0].why)
        self.assertEqual(causes(self.read(watts, [28.0] * len(watts))), ["contact"])

    def test_volts_tell_a_supply_by_hand_too(self):
        watts = [15.0] * 9 + [9.0] * 4 + [15.0] * 8
        run = self.read(watts, [30.0] * 21, volts=[9.0] * 9 + [5.0] * 4 + [9.0] * 8)
        self.assertEqual(causes(run), ["supply"])

    def test_its_times_are_no_sharper_than_its_readings(self):
        hot = [30 + 1.4 * i for i in range(9)]
        watts = ([15.0] * 9 + [7.0] * 6 + [15.0] * 6) + ([7.0] * 6 + [15.0] * 6) * 2
        warm = [*hot, *([41.2, 40.6, 40.0, 39.5, 39.1, 38.8, 39.5, 40.2, 40.8, 41.2, 41.6, 42.0] * 3)]
        run = self.read(watts, warm[: len(watts)], percents=((0, 10), (130, 70)))
        self.assertEqual(set(causes(run)), {"heat"})
        first = next(f for f in figures(run) if f.key == "first_throttle")
        self.assertAlmostEqual(first.high - first.low, 3.0, places=2)
        self.assertIn("between readings", " ".join(p.source for p in run.throttle.cost_min.parts))
        self.assertEqual(run.judged.phases, ())
        self.assertTrue(any("3 readings in a row" in w for w in warnings(run)))

    def test_power_that_comes_and_goes_faster_than_it_is_read_is_not_cut_for_good(self):
        watts = [15.0, 15.0, 9.0, 15.0, 9.0, 15.0, 15.0, 9.0, 15.0, 15.0, *([9.0] * 12)]
        warm = np.minimum(43.0, 34.0 + np.arange(22) * 0.9)
        self.assertNotIn("heat", causes(self.read(watts, warm)))


class LowLevel(unittest.TestCase):
    def test_with_no_lead_a_stop_shows_what_is_drawn_idle(self):
        levels = [(2400, 15.0), (240, 1.2), (2400, 15.0), (120, 1.2), (1200, 15.0)]
        run = reading(steps(*levels), checkins((0, 10), (100, 70)))
        self.assertIsNone(run.no_load)
        self.assertEqual([(d.cause, d.low) for d in run.judged.dips], [("contact", True)] * 2)
        self.assertAlmostEqual(run.judged.low_w, 1.5, delta=0.1)

    def test_a_level_of_the_charge_that_comes_again_is_no_lead(self):
        levels = [(260, 3.2), *([(400, 7.0), (600, 3.2)] * 5), (600, 7.0), (1800, 0.4)]
        run = reading(steps(*levels), checkins((5, 20), (120, 80)))
        self.assertIsNone(run.no_load)
        self.assertEqual(run.placement.how, FIRST_CHECK_IN)
        lead = reading(steps((260, 3.2), (3600, 7.0)), checkins((5, 20), (60, 60)))
        self.assertAlmostEqual(lead.no_load.watts, 3.2)


class BegunLate(unittest.TestCase):
    def test_a_log_that_begins_in_the_charge_is_judged_from_its_first_row(self):
        trace = steps((300, 15.0), (200, 0.5), (3000, 15.0), *TAPER, FULL)
        found = find_placement(trace, None, checkins((40, 50), (80, 90)))
        self.assertEqual(found.how, FIRST_CHECK_IN)
        self.assertEqual(charging_from(trace, found), 0.0)
        run = read_run(RunLog(trace, checkins((40, 50), (80, 90))))
        self.assertEqual([(d.cause, round(d.start_s, -2)) for d in run.judged.dips], [("contact", 300.0)])

    def test_what_came_before_the_first_check_in_is_said_to(self):
        trace = steps((300, 15.0), (200, 0.5), (3000, 15.0), *TAPER, FULL)
        run = read_run(RunLog(trace, checkins((20, 40), (50, 70), (80, 90))), Conditions(Battery(4400, 3.87)))
        told = " ".join(s.plain + s.basis for s in sentences(run)) + " ".join(f.numbers for f in figures(run))
        self.assertIn("Lost contact once, 3 min in all, first at 15 min before t = 0", told)
        self.assertNotRegex(told, r"(?<![\w.])-\d")
        self.assertNotIn("settled after", told)
        self.assertTrue(any("charging when the log began, 20 min before that" in w for w in warnings(run)))

    def test_check_ins_after_the_log_place_nothing(self):
        found = find_placement(steps((600, 12.0)), None, checkins((30, 40), (60, 60)))
        self.assertEqual((found.at_s, found.how[:16]), (0.0, "start of the log"))

    def test_a_stop_before_the_first_check_in_may_be_no_placing(self):
        # Nobody had read the phone when it stopped; that another one was put on then nothing shows.
        found = find_placement(steps((600, 12.0), (90, 0.4), (5400, 12.0)), None, checkins((12, 30), (100, 80)))
        self.assertEqual((found.how, found.no_load), (FIRST_CHECK_IN, None))

    def test_a_placing_that_was_seen_or_stated_stays(self):
        trace = steps(PLACED, (3600, 15.0))
        seen = find_placement(trace, None, checkins((1, 10), (60, 60)))
        self.assertEqual(charging_from(trace, seen), seen.at_s)
        given = find_placement(trace, 600.0, checkins((10, 10), (60, 60)))
        self.assertEqual(charging_from(trace, given), 600.0)


if __name__ == "__main__":
    unittest.main()
