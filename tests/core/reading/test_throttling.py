"""What heat cost, and what a charger delivers and wastes."""

import unittest

import numpy as np

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.measured import Measured, Part, total
from jaunecharge.core.reading.decisions import Decision, check_overruling
from jaunecharge.core.reading.grid import series
from jaunecharge.core.reading.output import (
    USUAL_RATIO,
    by_account,
    by_idle,
    by_ratio,
    classify,
    given_ratio,
    prevented,
    ratio_of_reference,
)
from jaunecharge.core.reading.phone_temperature import warmth
from jaunecharge.core.reading.read_run import read_run
from jaunecharge.core.reading.standby import Habits, standby
from jaunecharge.core.reading.thermal_node import fit_node
from jaunecharge.core.report.cautions import warnings
from jaunecharge.core.report.sentences import headline, sentences
from tests.core.small_runs import FULL, PLACED, cycles, falling, follow, read, rising


def throttled(hours=1.4, **more):
    """A run that throttles between 42 and 40 °C, from 15 to 8 W."""
    levels = [PLACED, *cycles(15.0, 8.0, hours=hours), *falling(50, 15, 1), FULL]
    return read(levels, rising(150), follow(levels), **more)


class Throttled(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.run_ = throttled()

    def test_first_throttle_minutes_and_cycles(self):
        found, dips = self.run_.throttle, self.run_.judged.dips
        self.assertEqual(found.cycles, len(dips))
        self.assertAlmostEqual(found.first.onset_c, 42.0, delta=0.2)
        until = self.run_.milestone(80).estimate_s
        wanted = sum(max(0.0, min(d.end_s, until) - d.start_s) for d in dips) / 60
        self.assertAlmostEqual(found.minutes, wanted, places=6)

    def test_the_cost_is_the_lack_over_what_a_minute_is_worth(self):
        found = self.run_.throttle
        # 15 → 8 W with 0.5 W no-load: each throttled minute lacks 7 of 14.5 W.
        self.assertAlmostEqual(found.cost_min.value, found.minutes * 7.0 / 14.5, delta=0.03 * found.cost_min.value)
        self.assertAlmostEqual(found.shortfall_wh, found.minutes / 60 * 7.0, delta=0.03 * found.shortfall_wh)
        self.assertGreater(found.cost_min.expanded, 0.1 * found.cost_min.value)

    def test_a_cool_run_costs_nothing(self):
        levels = [PLACED, (3600, 12.0), *falling(60, 12, 1.2), FULL]
        found = read(levels, rising(120), follow(levels, 0.7)).throttle
        self.assertEqual((found.first, found.minutes, found.cycles, found.cost_min.value), (None, 0.0, 0, 0.0))

    def test_without_temperatures_nothing_is_said_of_throttling(self):
        levels = [PLACED, *cycles(15.0, 8.0), *falling(50, 15, 1), FULL]
        self.assertIsNone(read(levels, rising(150)).throttle)

    def test_sentences_stand_on_these_figures(self):
        said = {s.key: s for s in sentences(self.run_)}
        self.assertIn("Heat slowed it: ", said["throttle"].plain)
        self.assertIn("°C", said["throttle"].plain)
        self.assertEqual(len(said["throttle"].places), len(self.run_.judged.dips))
        self.assertRegex(said["heat_cost"].plain, r"Heat cost about \d+ ± \d+ min before 80 %")
        self.assertTrue(headline(self.run_).startswith("heat cost *"))
        self.assertIn("°F", {s.key: s for s in sentences(self.run_, fahrenheit=True)}["throttle"].plain)

    def test_the_node_says_where_it_would_have_gone(self):
        # 24 °C and 1.5 K a watt: 46.5 °C at 15 W.
        self.assertAlmostEqual(self.run_.node.steady_c.value, 46.5, delta=0.5)
        self.assertAlmostEqual(self.run_.node.tau_s.value, 700, delta=60)
        self.assertIn("forecast", {s.key for s in sentences(self.run_)})


class Warm(unittest.TestCase):
    def test_between_sparse_readings_the_course_follows_the_power(self):
        levels = [PLACED, *[(400, 12.0), (400, 5.0)] * 8]
        dense, sparse = follow(levels, every_s=10), follow(levels, every_s=600)
        run = read(levels, heat=sparse)
        course = warmth(run.log.heat.surfaces[0], series(run.log.trace))
        true = np.interp(series(run.log.trace).time_s, *dense)
        known = np.isfinite(course.celsius)
        straight = np.interp(series(run.log.trace).time_s, *sparse)
        self.assertTrue(course.modelled)
        self.assertLess(np.abs(course.celsius - true)[known].max(), 0.4)
        self.assertGreater(np.abs(straight - true).max(), 1.5)

    def test_far_from_any_reading_nothing_is_said(self):
        levels = [PLACED, (9000, 12.0)]
        at, celsius = follow(levels)
        run = read(levels, heat=(at[:20], celsius[:20]))
        course = run.judged.warmth
        self.assertIsNone(course.at(len(course.celsius) - 1))
        self.assertIsNotNone(course.at(10))

    def test_a_node_needs_readings_and_length(self):
        self.assertIsNone(fit_node("back", np.arange(3.0) * 300, np.array([25.0, 30, 33])))
        self.assertIsNone(fit_node("back", np.arange(5.0) * 30, np.array([25.0, 26, 27, 28, 29])))


class Outputs(unittest.TestCase):
    drawn = Measured(18.8, (Part("meter gain", 0.05),))

    def test_the_usual_ratio_has_its_spread(self):
        found = by_ratio(self.drawn, USUAL_RATIO).watts
        self.assertAlmostEqual(found.value, 15.04)
        self.assertAlmostEqual(found.expanded, 2 * np.hypot(0.05 / 1.25, 15.04 * 0.06 / 1.25))

    def test_a_reference_of_ones_own_narrows_it(self):
        own = ratio_of_reference(self.drawn, 15.0, "Kar on the reference pad")
        self.assertLess(by_ratio(self.drawn, own).watts.expanded, by_ratio(self.drawn, USUAL_RATIO).watts.expanded)
        self.assertIn("Kar on the reference pad", by_ratio(self.drawn, own).numbers)
        for impossible in (0.0, 19.0):
            with self.assertRaises(ValueError):
                ratio_of_reference(self.drawn, impossible, "x")

    def test_a_bare_ratio_still_has_an_uncertainty(self):
        self.assertGreater(by_ratio(self.drawn, given_ratio(1.3)).watts.expanded, 0.2)

    def test_the_meters_gain_does_not_count_twice_in_a_difference(self):
        idle = Measured(3.0, (Part("meter gain, volts", 0.01), Part("meter counts, amps", 0.05)))
        sources = [p.source for p in by_idle(self.drawn, idle, "no-load").watts.parts]
        self.assertNotIn("meter gain, volts", sources)
        self.assertIn("meter counts, amps", sources)

    def test_the_account_is_energy_over_time_at_the_battery(self):
        found = by_account(Measured(8.0), 3600.0, (10, 60))
        self.assertEqual((found.watts.value, found.point), (8.0, "battery"))

    def test_two_classes_that_cannot_be_told_apart_are_both_said(self):
        found = classify(Measured(11.0, (Part("x", 0.6),)), None)
        self.assertEqual((found.watts, found.also_possible, found.fits), (10.0, (12.0,), True))
        self.assertIsNone(found.claim_met)

    def test_none_that_fits_is_said_with_the_nearest(self):
        found = classify(Measured(17.4, (Part("x", 0.5),)), None)
        self.assertEqual((found.watts, found.fits, found.also_possible), (15.0, False, ()))

    def test_a_claim_is_met_where_the_interval_reaches_it(self):
        for value, met in ((15.2, True), (14.2, True), (13.8, False)):
            self.assertIs(classify(Measured(value, (Part("x", 0.5),)), 15.0).claim_met, met)

    def test_what_prevented_the_test_leaves_it_undecided(self):
        found = classify(Measured(7.5, (Part("x", 0.3),)), 15.0, "the phone takes 7.5 W at most")
        self.assertIsNone(found.claim_met)
        self.assertIn("7.5 W", found.undecided)
        reached = classify(Measured(15.0, (Part("x", 0.3),)), 15.0, "the phone takes 7.5 W at most")
        self.assertTrue(reached.claim_met)

    def test_phone_adapter_and_heat_prevent_a_test(self):
        self.assertEqual(prevented(15.0, 9.0, None, None, False), "")
        self.assertIn("5.0 V", prevented(15.0, 5.0, None, None, False))
        self.assertEqual(prevented(5.0, 5.0, None, None, False), "")
        self.assertIn("hot", prevented(15.0, 9.0, None, 20.0, False))
        self.assertEqual(prevented(15.0, 9.0, None, 900.0, False), "")
        self.assertIn("7.5 W", prevented(15.0, 9.0, 7.5, None, False))
        self.assertIn("adapter", prevented(15.0, 9.0, None, None, True))
        self.assertEqual(prevented(None, 5.0, 7.5, 20.0, True), "")

    def test_flat_and_cool_far_below_the_claim_is_a_lower_class(self):
        levels = [PLACED, (4000, 9.4), *falling(60, 9.4, 1.2), FULL]
        run = read(levels, rising(150), follow(levels, 0.6), claimed_w=15.0)
        said = {s.key: s for s in sentences(run)}["output"]
        self.assertIn("the claim of 15 W is not met", said.plain)
        self.assertIn("a lower class, not throttled", said.basis)
        self.assertEqual(headline(run), "claims 15 W, *behaves like 7.5 W*")


class Standby(unittest.TestCase):
    def test_a_night_a_year_and_its_cost(self):
        habits = Habits(night_h=8, full_h=4, tariff=0.5, currency="EUR")
        found = standby(Measured(3.0), Measured(0.5), habits)
        self.assertAlmostEqual(found.night_wh.value, 12.0)
        self.assertAlmostEqual(found.year_kwh.value, (3.0 * 4 + 0.5 * 16) * 365 / 1000)
        self.assertAlmostEqual(found.year_cost.value, found.year_kwh.value * 0.5)

    def test_a_charger_that_is_unplugged_by_day(self):
        found = standby(Measured(3.0), Measured(0.5), Habits(full_h=4, unplugged=True))
        self.assertAlmostEqual(found.year_kwh.value, 3.0 * 4 * 365 / 1000)

    def test_of_nothing_that_was_seen_nothing_is_said(self):
        self.assertIsNone(standby(None, None))

    def test_a_gain_that_is_common_adds_up_and_does_not_average_out(self):
        both = total([Measured(1.0, (Part("gain", 0.1),)), Measured(2.0, (Part("gain", 0.2), Part("own", 0.4)))])
        self.assertEqual(both.value, 3.0)
        self.assertAlmostEqual(both.standard, np.hypot(0.3, 0.4))


class Overruled(unittest.TestCase):
    def setUp(self):
        self.first = throttled()
        self.dip = self.first.judged.dips[0]

    def again(self, *given):
        conditions = self.first.conditions.__class__(**{**vars(self.first.conditions), "overrulings": tuple(given)})
        return read_run(self.first.log, conditions)

    def one(self, **more):
        return Decision("dip", self.dip.start_s, self.dip.end_s, by="Ida", why="a guest lifted it", **more)

    def test_another_cause_counts_downstream_and_keeps_what_was_read(self):
        run = self.again(self.one(cause="contact"))
        found = run.judged.dips[0]
        self.assertEqual(found.cause, "contact")
        for words in ("read as heat", "Ida", "a guest lifted it"):
            self.assertIn(words, found.overruled)
        self.assertEqual(run.throttle.cycles, self.first.throttle.cycles - 1)
        self.assertLess(run.throttle.minutes, self.first.throttle.minutes)
        self.assertTrue(any("1 change made by hand" in w for w in warnings(run)))
        self.assertIn("contact", {s.key for s in sentences(run)})

    def test_no_dip_is_laid_aside_but_shown(self):
        run = self.again(self.one(cause="no dip"))
        self.assertEqual(len(run.judged.dips), len(self.first.judged.dips) - 1)
        self.assertEqual(len(run.judged.dismissed), 1)

    def test_what_was_laid_aside_can_be_taken_back(self):
        run = self.again(self.one(cause="no dip"), self.one(cause="heat"))
        self.assertEqual([d.cause for d in run.judged.dips], [d.cause for d in self.first.judged.dips])
        self.assertEqual(run.judged.dismissed, ())

    def test_other_bounds(self):
        run = self.again(self.one(new_end_s=self.dip.end_s - 60))
        self.assertAlmostEqual(run.judged.dips[0].end_s, self.dip.end_s - 60)
        self.assertAlmostEqual(self.first.throttle.minutes - run.throttle.minutes, 1.0, delta=0.01)

    def test_a_dip_that_was_not_read(self):
        run = self.again(Decision("dip", 300.0, 500.0, "unexplained"))
        self.assertEqual(run.judged.dips[0].start_s, 300.0)
        self.assertIn("not read as a dip", run.judged.dips[0].overruled)

    def test_where_a_phase_begins(self):
        taper = next(p for p in self.first.judged.phases if p.kind == "taper")
        run = self.again(Decision("phase", taper.start_s, taper.start_s, new_start_s=taper.start_s + 120))
        phases = run.judged.phases
        k = next(i for i, p in enumerate(phases) if p.kind == "taper")
        self.assertAlmostEqual(phases[k].start_s, taper.start_s + 120)
        self.assertAlmostEqual(phases[k - 1].end_s, taper.start_s + 120)
        self.assertLess(phases[k].mean_w, taper.mean_w)
        self.assertTrue(phases[k].overruled)

    def test_what_cannot_be_is_refused(self):
        trace = self.first.log.trace
        for wrong in (
            Decision("dip", 500.0, 400.0, "heat"),
            Decision("dip", 500.0, 1e9, "heat"),
            Decision("phase", 500.0, 500.0),
            Decision("dip", 500.0, 600.0, "moonlight"),
        ):
            with self.assertRaises(CannotRead):
                check_overruling(wrong, trace)
        check_overruling(self.one(cause="heat"), trace)


class More(unittest.TestCase):
    def test_a_start_outside_the_method_is_said(self):
        run = read([PLACED, (3600, 12.0)], [(1, 30), (31, 50)], method_start=(0.0, 12.0))
        self.assertTrue(any("starts at 30 %" in w for w in warnings(run)))
        fits = read([PLACED, (3600, 12.0)], [(1, 10), (31, 50)], method_start=(0.0, 12.0))
        self.assertFalse(any("starts at" in w for w in warnings(fits)))

    def test_a_meter_on_the_phones_side_is_suspected(self):
        levels = [PLACED, (3600, 8.0)]
        run = read(levels, [(1, 30), (31, 50)])
        self.assertFalse(any("phone's side" in w for w in warnings(run)))
        trace = run.log.trace
        low = trace.__class__(trace.time_s, trace.power_w, np.full(len(trace.time_s), 3.9), trace.amps, trace.cleaned)
        self.assertTrue(any("phone's side" in w for w in warnings(read_run(run.log.__class__(low)))))

    def test_a_meter_read_by_hand_says_what_it_cannot_show(self):
        levels = [PLACED, (1800, 12.0), (300, 0.5), (3600, 12.0)]
        coarse = read(levels, [(1, 30), (61, 60)], step_s=150.0, placed_s=60.0)
        self.assertTrue(any("read every 2 min: no phase or best minute" in w for w in warnings(coarse)))
        every_75_s = read(levels, [(1, 30), (61, 60)], step_s=75.0, placed_s=60.0)
        self.assertTrue(any("drops shorter than twice that" in w for w in warnings(every_75_s)))
        fine = read(levels, [(1, 30), (61, 60)])
        self.assertFalse(any("read every" in w for w in warnings(fine)))

    def test_a_room_that_drifts_is_said(self):
        run = throttled(hours=0.7)
        heat = run.log.heat
        at = heat.surfaces[0].time_s
        room = heat.surfaces[0].__class__("room", at, np.linspace(22, 26, len(at)))
        drifting = run.log.__class__(run.log.trace, run.log.readings, heat.__class__(heat.surfaces, room))
        self.assertTrue(any("room drifted" in w for w in warnings(read_run(drifting))))
        self.assertFalse(any("room drifted" in w for w in warnings(run)))


if __name__ == "__main__":
    unittest.main()
