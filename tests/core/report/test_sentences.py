"""What a run says, what it warns of, and the working of its figures."""

import unittest

import numpy as np

from jaunecharge.core.log.check_ins import Battery
from jaunecharge.core.log.temperatures import heat_log
from jaunecharge.core.log.trace import power_trace
from jaunecharge.core.reading.read_run import Conditions, RunLog, read_run
from jaunecharge.core.reading.ribbon import ribbon
from jaunecharge.core.report.cautions import warnings
from jaunecharge.core.report.figures import figures
from jaunecharge.core.report.sentences import headline, sentences
from tests.cases import checkins, reading, steps

FULL_RUN = ((60, 0.5), (3600, 12.0), (900, 3.0), (1200, 0.6))
SMALL = Battery(2400, 3.87)
CHECKINS = ((1, 10), (21, 40), (41, 62), (61, 84), (70, 97), (75, 100), (90, 100))


def full_run(**conditions):
    conditions.setdefault("battery", SMALL)
    return reading(steps(*FULL_RUN), checkins(*CHECKINS), **conditions)


def warm_run(celsius, ambient_c=25.0, **more):
    time_s = np.linspace(0, 5000, len(celsius))
    heat = heat_log(["back"] * len(celsius), time_s, np.array(celsius, dtype=float), ambient_c)
    return read_run(RunLog(steps(*FULL_RUN), checkins(*CHECKINS), heat), Conditions(SMALL, **more))


class Sentences(unittest.TestCase):
    def plain(self, run, **more):
        return {s.key: f"{s.plain} | {s.basis}" for s in sentences(run, **more)}

    def test_time_to_eighty_comes_first_with_its_interval(self):
        said = sentences(full_run())
        self.assertEqual(said[0].key, "to_80")
        self.assertEqual(said[0].plain, "80 % after 57 min")
        self.assertEqual(said[0].basis, "from 10 %; between 40 min and 1 h 00, read about every 18 min")

    def test_the_strong_words_are_the_figure(self):
        self.assertEqual(sentences(full_run())[0].text.split("*")[1::2], ["57 min"])

    def test_full_is_seen_not_estimated(self):
        self.assertIn("100 % seen at 1 h 14 | after 1 h 09", self.plain(full_run())["to_100"])

    def test_power_energy_and_efficiency(self):
        said = self.plain(full_run())
        self.assertIn("Draws 12.0 W in its best minute, 12.0 W on average to 60 %", said["power"])
        self.assertRegex(said["efficiency"], r"^Of 13\.0 Wh in, 8\.4 Wh reached the battery: 57 ± 6 %")

    def test_without_a_battery_only_the_energy_in_is_said(self):
        said = self.plain(full_run(battery=None))
        self.assertNotIn("efficiency", said)
        self.assertRegex(said["energy"], r"^Took in 12\.96 ± 0\.20 Wh \| whole log")

    def test_a_run_that_stops_short_says_how_far_it_came(self):
        run = reading(steps((60, 0.5), (2400, 6.0)), checkins((1, 20), (20, 35), (41, 52)))
        self.assertIn("From 20 to 52 % in 40 min", self.plain(run)["level"])
        self.assertEqual(headline(run), "ends at *52 %*")

    def test_a_high_draw_after_full_is_moved_up(self):
        run = reading(steps((60, 3.0), (3600, 12.0), (1200, 3.0)), checkins(*CHECKINS))
        keys = [s.key for s in sentences(run)]
        self.assertLess(keys.index("after_full"), keys.index("power"))
        self.assertEqual(headline(run), "draws *3.0 W* when full")
        usual = [s.key for s in sentences(full_run())]
        self.assertGreater(usual.index("after_full"), usual.index("power"))

    def test_heat_with_its_rise_in_either_unit(self):
        run = warm_run([25, 42.5, 30])
        self.assertIn("Hottest reading 42.5 °C, 17.5 K over the room", self.plain(run)["heat"])
        self.assertIn("Hottest reading 108.5 °F, 31.5 °F over the room", self.plain(run, fahrenheit=True)["heat"])
        self.assertIn("min at or above 40 °C", self.plain(run)["heat"])
        self.assertIn("min at or above 104 °F", self.plain(run, fahrenheit=True)["heat"])

    def test_a_cool_run_says_that_it_never_was_hot(self):
        self.assertIn("never at 40 °C", self.plain(warm_run([25, 31, 30]))["heat"])

    def test_every_stretch_lies_in_order(self):
        for said in sentences(warm_run([25, 42, 30])):
            self.assertLess(said.start_s, said.end_s, said.key)

    def test_every_sentence_but_that_of_the_levels_stands_on_a_figure_that_is_there(self):
        for run in (full_run(), full_run(battery=None), warm_run([25, 42, 30]), reading(steps((60, 0.5), (600, 12.0)))):
            known = {f.key for f in figures(run)} | {"dips", "phases"}
            for said in sentences(run):
                self.assertIn(said.figure, known, said.key)

    def test_the_meter_alone_still_says_something(self):
        run = reading(steps((60, 0.5), (600, 12.0)))
        self.assertEqual([s.key for s in sentences(run)], ["output", "power", "energy", "no_load"])
        self.assertEqual(headline(run), "settles at *12.0 W*")


class Warnings(unittest.TestCase):
    def test_a_plain_run_warns_of_the_unknown_health_and_that_it_is_alone(self):
        said = warnings(full_run())
        self.assertEqual(len(said), 2)
        self.assertIn("health is not known", said[0])
        self.assertIn("One run only", said[1])
        self.assertEqual(warnings(full_run(battery=Battery(2400, 3.87, 0.95)), repeats=1), [])

    def test_more_than_can_be_asks_for_the_battery(self):
        said = warnings(full_run(battery=Battery(4400, 3.87)))
        self.assertTrue(any("105 % of the energy in cannot have reached the battery" in w for w in said))

    def test_what_cleaning_did_is_counted(self):
        time_s = np.concatenate(([0.0, 1, 1, 3, 2], np.arange(4.0, 400), np.arange(500.0, 900)))
        run = reading(power_trace(time_s, np.full(len(time_s), 9.0)), placed_s=0.0)
        said = " ".join(warnings(run))
        for words in ("1 row shared a time", "1 row out of order", "2 min of the log are missing, in 1 hole"):
            self.assertIn(words, said)
        self.assertEqual(headline(run), "*11 %* of the log missing")

    def test_watts_alone(self):
        run = reading(power_trace(np.arange(600.0), np.full(600, 9.0)), placed_s=0.0)
        self.assertTrue(any(w.startswith("Only watts were logged") for w in warnings(run)))

    def test_falls_and_doubts_are_asked_about(self):
        run = reading(steps((60, 0.5), (7000, 9.0)), checkins((1, 10), (20, 30), (40, 25), (60, 50)))
        self.assertTrue(any("fell from 30 to 25 %" in w for w in warnings(run)))
        odd = reading(
            steps((60, 0.5), (7000, 9.0)), checkins((1, 10), (11, 18), (21, 26), (31, 44), (41, 42), (51, 50))
        )
        self.assertTrue(any("44 % at 30 min does not fit its neighbours" in w for w in warnings(odd)))

    def test_a_placing_that_no_rise_shows(self):
        run = reading(steps((3600, 12.0)), checkins((2, 10), (30, 40)))
        self.assertTrue(any("first check-in" in w for w in warnings(run)))

    def test_check_ins_after_the_log(self):
        run = reading(steps((60, 0.5), (1200, 12.0)), checkins((1, 10), (90, 70)))
        self.assertTrue(any("go on after the meter's log ends" in w for w in warnings(run)))
        self.assertIsNone(run.efficiency)

    def test_heat_that_can_hurt(self):
        self.assertTrue(any("JEITA" in w for w in warnings(warm_run([25, 46, 30]))))
        self.assertTrue(any("stop and separate" in w for w in warnings(warm_run([25, 51, 30]))))
        self.assertTrue(any("122 °F" in w for w in warnings(warm_run([25, 51, 30]), fahrenheit=True)))
        self.assertFalse(any("stop and separate" in w for w in warnings(warm_run([25, 44, 30]))))


class Figures(unittest.TestCase):
    def test_every_budget_makes_up_its_uncertainty(self):
        for figure in figures(full_run()):
            if figure.expanded is not None:
                combined = sum(p.standard**2 for p in figure.budget) ** 0.5
                self.assertAlmostEqual(figure.expanded, 2 * combined, msg=figure.key)

    def test_every_figure_says_how_and_from_where(self):
        for figure in figures(warm_run([25, 42, 30])):
            for text in (figure.formula, figure.numbers, figure.source, figure.point, figure.unit):
                self.assertTrue(text, figure.key)

    def test_a_milestone_shows_its_interval_not_a_spread(self):
        eighty = next(f for f in figures(full_run()) if f.key == "to_80")
        self.assertEqual((eighty.low, eighty.high, eighty.expanded), (40, 60, None))

    def test_the_bridged_energy_stands_apart(self):
        time_s = np.concatenate((np.arange(400.0), np.arange(500.0, 900)))
        keys = [f.key for f in figures(reading(power_trace(time_s, np.full(800, 9.0)), placed_s=0.0))]
        self.assertIn("energy_bridged", keys)
        self.assertNotIn("energy_bridged", [f.key for f in figures(full_run())])

    def test_points_of_the_chain_are_never_mixed(self):
        points = {f.key: f.point for f in figures(full_run())}
        self.assertEqual(points["energy_in"], "meter side")
        self.assertEqual(points["energy_battery"], "battery side")

    def test_temperatures_in_fahrenheit(self):
        hottest = next(f for f in figures(warm_run([25, 42.5, 30]), True) if f.key == "hottest_back")
        self.assertEqual((hottest.unit, round(hottest.value, 1)), ("°F", 108.5))


class Ribbons(unittest.TestCase):
    def test_begins_at_the_placing_and_keeps_the_energy(self):
        run = full_run()
        band = ribbon(run)
        self.assertAlmostEqual(band.minutes, run.duration_s / 60)
        wh = float(np.sum(band.watts)) * band.step_min / 60
        self.assertAlmostEqual(wh, run.energy_in.metered.value - 60 * 0.5 / 3600, delta=0.02)

    def test_a_hole_is_no_power(self):
        time_s = np.concatenate((np.arange(1000.0), np.arange(2000.0, 3000)))
        band = ribbon(reading(power_trace(time_s, np.full(2000, 9.0)), placed_s=0.0))
        self.assertTrue(np.isnan(band.watts[150]))
        self.assertAlmostEqual(band.watts[20], 9.0)

    def test_has_a_tick_every_ten_percent(self):
        self.assertEqual([p for p, _ in ribbon(full_run()).ticks], [20, 30, 40, 50, 60, 70, 80, 90, 100])

    def test_temperature_is_not_made_up_where_nobody_measured(self):
        heat = heat_log(["back"] * 20, np.arange(0.0, 600, 30), np.full(20, 30.0))
        band = ribbon(read_run(RunLog(steps(*FULL_RUN), None, heat)))
        self.assertFalse(np.isnan(band.celsius[:25]).any())
        self.assertTrue(np.isnan(band.celsius[150:]).all())
        self.assertIsNone(ribbon(full_run()).celsius)
