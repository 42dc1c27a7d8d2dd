"""Logs as people make them, that could make a sentence a lie: begun late, read by eye, of two causes, from a pack."""

import unittest

import numpy as np

from jaunecharge.core.log.check_ins import Battery
from jaunecharge.core.log.placement import GIVEN, RISE, find_placement, latest_rise, placed_said
from jaunecharge.core.log.temperatures import facts, heat_log, is_phone, is_room
from jaunecharge.core.log.trace import power_trace, unmetered
from jaunecharge.core.reading.read_run import Conditions, RunLog, read_run
from jaunecharge.core.report.cautions import warnings
from jaunecharge.core.report.figures import figures
from jaunecharge.core.report.sentences import headline, sentences
from jaunecharge.core.versus.heat_table import unlike, usual_conditions
from tests.cases import checkins, reading, steps
from tests.core.small_runs import FULL, PLACED, TAPER, cycles, falling, follow, read, rising


def said(run, **more):
    return {s.key: f"{s.plain} | {s.basis}" for s in sentences(run, **more)}


def climbing(from_w, to_w, tau_s, then_s=3600):
    """A log that begins as the phone is placed: power climbs to its level."""
    at = np.arange(float(then_s))
    return power_trace(at, to_w - (to_w - from_w) * np.exp(-at / tau_s))


class NoLoad(unittest.TestCase):
    def test_a_log_that_climbs_from_its_first_row_has_none(self):
        for from_w, tau_s in ((5.5, 8.0), (0.2, 6.0), (1.0, 20.0), (2.5, 120.0), (0.5, 600.0)):
            with self.subTest(from_w=from_w, tau_s=tau_s):
                trace = climbing(from_w, 12.0, tau_s)
                found = find_placement(trace, None, checkins((0, 10), (30, 40)))
                self.assertIsNone(found.no_load)
                self.assertEqual(found.at_s, 0.0)
                run = read_run(RunLog(trace, checkins((0, 10), (30, 40))), Conditions())
                self.assertNotIn("no_load", said(run))

    def test_a_phone_that_lay_there_before_a_stated_placing_has_none(self):
        for watts in (17.0, 3.0):
            run = reading(steps((3600, watts)), checkins((1, 10), (31, 30), (59, 45)), placed_s=100.0)
            self.assertIsNone(run.no_load)
            self.assertEqual(run.judged.outcome, "")

    def test_a_dead_phone_that_wakes_at_two_watts_is_no_charger_alone(self):
        trace = steps((300, 2.2), (3600, 12.0))
        run = reading(trace, checkins((0, 0), (15, 12), (45, 45)))
        self.assertIsNone(run.no_load)
        self.assertEqual((run.placed_s, run.judged.phases[0].kind), (0.0, "wake"))
        awake = reading(trace, checkins((5, 10), (15, 22), (45, 55)))
        self.assertEqual(awake.placement.how, RISE)

    def test_a_stop_at_the_beginning_of_a_late_log_is_no_lead(self):
        trace = steps((300, 0.5), (1800, 12.0))
        found = find_placement(trace, None, checkins((0, 40), (2, 42), (4, 42), (30, 60)))
        self.assertIsNone(found.no_load)
        self.assertIn("first check-in", found.how)

    def test_some_seconds_and_a_high_draw_show_none(self):
        self.assertIsNone(reading(steps((6, 0.4), (3600, 12.0)), placed_s=6.0).no_load)
        self.assertIsNone(reading(steps((300, 5.5), (3600, 17.0)), placed_s=300.0).no_load)
        self.assertAlmostEqual(reading(steps((60, 3.0), (3600, 17.0))).no_load.watts, 3.0)

    def test_the_phone_taken_off_and_placed_again_is_placed_then(self):
        trace = steps((600, 17.0), (60, 0.4), (300, 17.0))
        self.assertEqual(latest_rise(trace), 660.0)
        self.assertIsNone(latest_rise(steps((600, 17.0))))
        self.assertEqual(latest_rise(steps((60, 0.4), (4, 6.0), (3, 0.5), (300, 17.0))), 67.0)

    def test_a_year_is_told_only_of_a_level_seen_for_ten_minutes(self):
        for seconds, told in ((120, False), (900, True)):
            run = reading(steps((seconds, 0.4), (3600, 12.0)), checkins((16, 20), (70, 80)))
            self.assertEqual("kWh" in said(run)["no_load"], told)
            self.assertEqual("year" in {f.key for f in figures(run)}, told)
            self.assertNotIn("Regulation", said(run)["no_load"])


class BegunLate(unittest.TestCase):
    def test_a_placing_before_the_log_counts_for_the_times_and_for_no_watts(self):
        trace = power_trace(np.arange(3600.0), np.full(3600, 12.0))
        readings = checkins((-30, 10), (0, 30), (30, 55), (59, 80))
        run = read_run(RunLog(trace, readings), Conditions(Battery(4360, 3.87), placed_s=-1800.0))
        self.assertAlmostEqual((run.milestone(80).latest_s - run.placed_s) / 60, 89.0)
        self.assertEqual([p.kind for p in run.judged.phases], ["plateau"])
        self.assertEqual((run.account.from_percent, run.account.start_s), (30.0, 0.0))
        self.assertTrue(any("begins 30 min after the placing" in w for w in warnings(run)))
        self.assertNotIn("settled after", said(run)["power"])
        self.assertNotIn("reached the battery", said(run)["efficiency"])
        self.assertEqual(
            placed_said(run.placement, 0.0, on_bench=True), "placed 30 min before the lane was opened, as logged"
        )
        self.assertEqual(run.placement.how, GIVEN)


class ReadByEye(unittest.TestCase):
    WATTS = (18.2, 18.0, 17.6, 14.1, 13.9, 12.0, 10.4, 9.1, 7.0, 5.2, 3.9, 2.8, 2.0)

    def run_(self, **more):
        trace = power_trace(np.arange(13) * 600.0, np.array(self.WATTS))
        readings = checkins(*[(10 * i, p) for i, p in enumerate((8, 20, 32, 42, 52, 61, 69, 76, 82, 87, 92, 96, 99))])
        return read_run(RunLog(trace, readings, **more), Conditions(Battery(4360, 3.87)))

    def test_its_points_are_told_and_nothing_between_them(self):
        run = self.run_()
        told = said(run)
        self.assertIn(
            "Read 18.2 W at first, 18.2 W at most, 2.0 W at the end | 13 readings, one every 10 min", told["power"]
        )
        self.assertEqual((run.judged.dips, run.judged.phases), ((), ()))
        self.assertIsNone(run.best_settled)
        self.assertIsNone(run.output)
        for text in (*told.values(), headline(run), *(f.label for f in figures(run))):
            self.assertNotRegex(text, "plateau|best minute|never|course|settled")
        self.assertIn("highest reading", {f.label for f in figures(run)})

    def test_its_energy_is_as_unsure_as_what_nobody_saw(self):
        run = self.run_()
        self.assertGreater(run.energy_in.metered.expanded, 0.05 * run.energy_in.metered.value)
        fine = reading(steps((7200, 10.0)))
        self.assertLess(fine.energy_in.metered.expanded, 0.02 * fine.energy_in.metered.value)

    def test_heat_is_not_said_to_have_done_nothing(self):
        heat = heat_log(["back"] * 13, np.arange(13) * 600.0, np.linspace(25.0, 41.0, 13))
        self.assertIsNone(self.run_(heat=heat).throttle)


class Hottest(unittest.TestCase):
    def heat(self, *celsius, every_s=30.0):
        times = np.arange(len(celsius)) * every_s
        return heat_log(["back"] * len(celsius), times, np.array(celsius, dtype=float), 24.0)

    def said(self, heat):
        return said(read_run(RunLog(steps((60, 0.5), (3600, 12.0)), heat=heat), Conditions()))["heat"]

    def test_ten_seconds_at_forty_are_under_a_minute_and_never_never(self):
        text = self.said(self.heat(*[30.0] * 40, 40.6, *[30.0] * 40))
        self.assertIn("under a minute at or above 40 °C", text)
        self.assertNotIn("never", text)

    def test_between_readings_minutes_are_an_estimate(self):
        text = self.said(self.heat(30.0, 41.0, 42.0, 35.0, every_s=600.0))
        self.assertIn("Hottest reading 42.0 °C", text)
        self.assertIn("by straight lines between readings", text)
        self.assertIn("read every 10 min", text)
        self.assertIn("never at 40 °C when read", self.said(self.heat(30.0, 36.0, 38.0, every_s=600.0)))

    def test_a_single_reading_has_no_minutes(self):
        self.assertIn("one reading, at or above 40 °C", self.said(self.heat(41.0)))

    def test_what_is_estimated_between_readings_says_so_everywhere(self):
        levels = [PLACED, *cycles(15.0, 8.0), *falling(50, 15, 1), FULL]
        run = read(levels, rising(150), follow(levels, every_s=600))
        self.assertTrue([d for d in run.judged.dips if d.estimated])
        for dip in (d for d in run.judged.dips if d.estimated):
            self.assertRegex(dip.why, r"about \d+\.\d °C .*estimated between readings")
        self.assertIn("estimated between readings", said(run)["throttle"])
        dense = read(levels, rising(150), follow(levels))
        for text in (dense.judged.dips[0].why, said(dense)["throttle"], headline(dense)):
            self.assertNotIn("estimated", text)

    def test_the_pad_is_held_to_what_a_hand_may_touch_and_the_phone_to_its_battery(self):
        at = np.arange(0.0, 3600, 30)
        both = heat_log(
            ["back"] * 120 + ["pad underside"] * 120, np.concatenate([at, at]),
            np.concatenate([np.full(120, 38.0), np.full(120, 49.5)]), 24.0,
        )  # fmt: skip
        told = " ".join(warnings(read_run(RunLog(steps((60, 0.5), (3600, 12.0)), heat=both), Conditions())))
        self.assertIn("pad underside reached 49.5 °C: held surfaces may have 48 °C", told)
        self.assertNotIn("JEITA", told)

    def test_places_are_the_phones_by_one_rule(self):
        for place in ("back", "Back", "back top", "Front (screen)", "phone", "contact face", "thermal camera max"):
            self.assertTrue(is_phone(place), place)
        for place in ("pad", "Pad underside", "charger back", "puck", "Room", "ambient", "cable"):
            self.assertFalse(is_phone(place), place)
        self.assertEqual([is_room(p) for p in ("Room", "room air", "ambient", "back")], [True, True, True, False])
        log = heat_log(["Back", "back", "ROOM"], np.array([0.0, 60.0, 0.0]), np.array([30.0, 35.0, 24.0]))
        self.assertEqual([s.position for s in log.surfaces], ["Back"])
        self.assertEqual(facts(log.phone(), log.ambient).max_c, 35.0)


class TwoCauses(unittest.TestCase):
    def test_contact_lost_while_heat_steps_to_half_power_is_contact(self):
        """A phone that throttles at 42 °C to half its power, and is lifted for four minutes at about 41.5 °C."""
        levels = cycles(15.0, 8.0)
        (first, watts), *rest = levels[2:]
        lifted = [levels[0], levels[1], (first - 60, watts), (240, 0.5), (400, 15.0), *rest]
        course = [PLACED, *lifted, *falling(50, 15, 1), FULL]
        run = read(course, rising(150), follow(course))
        lows = [d for d in run.judged.dips if d.low]
        self.assertEqual([d.cause for d in lows], ["contact"])
        self.assertGreater(lows[0].onset_c, 40.0)
        self.assertIn("heat", {d.cause for d in run.judged.dips})
        self.assertNotIn("full power", lows[0].why)

    def test_full_power_at_higher_temperatures_adds_up(self):
        """Lifted twice at some 39 °C; in between and after it runs full at over 40 °C, five minutes at a time."""
        levels = [PLACED, (1150, 12.0), (240, 0.5), (700, 12.0), (240, 0.5)]
        for _ in range(6):
            levels += [(1150, 12.0), (280, 6.0)]
        levels += [*falling(40, 12, 1), FULL]
        run = read(levels, rising(220), follow(levels, 1.6, tau_s=500))
        lows = [d for d in run.judged.dips if d.low]
        self.assertEqual([d.cause for d in lows], ["contact", "contact"])

    def test_stops_alike_where_no_load_was_not_logged_are_not_called_contact(self):
        once = [(400, 12.0), (70, 1.3)]
        levels = [(600, 12.0), *once * 5, (1500, 12.0), *TAPER]
        run = read(levels, [(0, 10), (30, 40), (60, 65)], follow(levels, 0.7))
        self.assertEqual({d.cause for d in run.judged.dips}, {"restart"})
        self.assertIn("Log the no-load", run.judged.dips[0].settle)

    def test_one_event_makes_heat_probable_only(self):
        levels = [PLACED, (1500, 16.0), (3600, 11.0), *falling(60, 11, 1), FULL]
        run = read(levels, rising(150), follow(levels, 1.25, tau_s=900))
        self.assertIn("Heat probably slowed it: one lasting cut", said(run)["throttle"])
        self.assertIn("repeat it with a fan", said(run)["throttle"])
        self.assertIn("If it was heat", said(run)["heat_cost"])
        self.assertTrue(headline(run).startswith("*probably heat*"))

    def test_a_step_that_could_be_heat_is_not_never(self):
        levels = [PLACED, (1500, 16.0), (300, 10.0), (3300, 11.0), *falling(60, 11, 1), FULL]
        hot = read(levels, rising(150), follow(levels, 1.5, tau_s=500))
        self.assertTrue(hot.throttle.perhaps or hot.throttle.first is not None)
        cool = read(levels, rising(150), follow(levels, 0.5))
        self.assertEqual((cool.throttle.first, cool.throttle.perhaps), (None, False))


class Limits(unittest.TestCase):
    LEVELS = (PLACED, (3600, 12.0), (2400, 0.6))
    PERCENTS = ((1, 20), (21, 42), (41, 63), (61, 80), (81, 79), (101, 80))

    def run_(self, **more):
        return read(list(self.LEVELS), list(self.PERCENTS), follow(self.LEVELS, 0.7), **more)

    def test_a_limit_that_was_seen_off_explains_nothing(self):
        run = self.run_(limits="seen off")
        self.assertEqual([d.cause for d in run.judged.dips], ["unexplained"])
        self.assertIn("Stopped at 80 % for 40 min with limits off: unexplained", said(run)["unexplained"])
        self.assertIn("Look into the phone's settings again", said(run)["unexplained"])
        self.assertNotIn("charge limit", " ".join(said(run).values()))

    def test_one_that_the_method_forbids_is_asked_about(self):
        self.assertIn("was one left on?", said(self.run_(limits="off"))["hold"])
        self.assertNotIn("left on?", said(self.run_(limits="left on"))["hold"])
        self.assertNotIn("left on?", said(self.run_())["hold"])

    def test_a_point_less_while_it_is_held_is_nobodys_doing(self):
        for limits in ("", "seen off"):
            self.assertFalse(any("fell from" in w for w in warnings(self.run_(limits=limits))))
        moved = read([PLACED, (6000, 12.0)], [(1, 20), (21, 42), (41, 41), (61, 60)])
        self.assertTrue(any("fell from 42 to 41" in w for w in warnings(moved)))


class Claims(unittest.TestCase):
    def test_a_claim_that_holds_for_some_minutes_is_met_and_not_kept_up(self):
        levels = [PLACED, (660, 18.8), (4700, 10.0), *falling(60, 10, 1), FULL]
        run = read(levels, rising(150), claimed_w=15.0)
        group = run.output.group
        self.assertEqual((group.claim_met, group.claim_kept), (True, False))
        self.assertRegex(
            said(run)["output"], r"the claim of 15 W is met at its best, not kept up: 1[01] of \d+ min to 80 %"
        )

    def test_one_that_lasts_is_met(self):
        levels = [PLACED, (5400, 18.8), *falling(60, 18.8, 1), FULL]
        self.assertIn(
            "the claim of 15 W is met, and kept up to 60 %", said(read(levels, rising(150), claimed_w=15.0))["output"]
        )

    def test_a_simulated_run_says_nothing_of_a_claim(self):
        levels = [PLACED, (4000, 9.4), *falling(60, 9.4, 1.2), FULL]
        run = read(levels, rising(150), claimed_w=15.0, simulated=True)
        self.assertNotIn("claim", said(run)["output"])
        self.assertNotIn("claim", headline(run))


class FromAPack(unittest.TestCase):
    LEVELS = (PLACED, (900, 0.5), (1500, 12.0), (1500, 0.5))

    def test_a_pack_has_no_year_of_standby(self):
        run = read([(900, 0.4), (3600, 12.0)], [(16, 20), (70, 80)], own_source=True)
        self.assertNotIn("no_load", said(run))
        self.assertNotIn("year", {f.key for f in figures(run)})

    def test_one_is_not_asked_whether_it_was_empty_when_that_cannot_be(self):
        percents = [(1, 20), (21, 42), (26, 45), (51, 45)]
        levels = [PLACED, (1500, 12.0), (1500, 0.5)]
        for wh, asked in ((37.0, False), (8.0, True), (None, True)):
            dip = read(levels, percents, own_source=True, source_wh=wh).judged.dips[-1]
            self.assertEqual("run empty" in dip.settle, asked, dip)
        self.assertNotIn("run empty", read(levels, percents).judged.dips[-1].settle)

    def test_its_missing_adapter_is_no_odd_condition(self):
        runs = [{"adapter": "Plug 20", "case": "none"}] * 3 + [{"adapter": "none (a pack)", "case": "none"}]
        usual, room = usual_conditions(runs, [None] * 4)
        self.assertEqual(unlike(runs[3], None, usual, room), [])


class WithoutAMeter(unittest.TestCase):
    def test_the_headline_says_what_there_is(self):
        readings = checkins((0, 10), (30, 40))
        heat = heat_log(["back"] * 3, np.array([0.0, 600, 1200]), np.array([25.0, 30, 33]))
        times = RunLog(unmetered(0.0, 1800.0), readings)
        both = RunLog(unmetered(0.0, 1800.0), readings, heat)
        self.assertEqual(headline(read_run(times, Conditions())), "no meter: *1.00 points/min*")
        self.assertEqual(headline(read_run(both, Conditions())), "no meter: *1.00 points/min*")
        held = checkins((0, 50), (30, 80), (60, 80), (90, 80))
        self.assertEqual(
            headline(read_run(RunLog(unmetered(0.0, 5400.0), held), Conditions())), "no meter: stands still at *80 %*"
        )
        alone = RunLog(unmetered(0.0, 1200.0), None, heat)
        self.assertEqual(headline(read_run(alone, Conditions())), "no meter: *temperatures only*")


if __name__ == "__main__":
    unittest.main()
