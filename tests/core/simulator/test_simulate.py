"""The simulator: energy, heat, charging, policy, and what happens to a run."""

import unittest
from dataclasses import replace

import numpy as np

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.simulator.cell import usual_cell
from jaunecharge.core.simulator.circumstances import Event
from jaunecharge.core.simulator.engine import CUT_OUT, FULL, HOLDING, LOST, THROTTLED, WAKING
from jaunecharge.core.simulator.simulate import NEVER, Nodes, Scenario, Throttling, simulate

CELL = usual_cell(4400.0, 3.87)
NODES = Nodes(170.0, 90.0, 0.30, 0.15, 0.25)
COOL = Throttling(cut_c=NEVER)
BASE = Scenario(CELL, NODES, ((0.0, 15.0),), throttling=COOL)
HOT = Throttling(hot_c=40.0, cool_c=38.0, throttled_w=6.0)

SCENARIOS = {
    "plain": BASE,
    "from dead": replace(BASE, start_percent=0.0, wake_s=300.0),
    "throttled by hysteresis": replace(BASE, throttling=HOT),
    "held at a level": replace(BASE, throttling=Throttling(level_c=39.0)),
    "cut out": replace(BASE, throttling=Throttling(cut_c=39.0, resume_c=36.0)),
    "held at 80 %": replace(BASE, hold_percent=80.0, hold_s=3600.0),
    "slips and a restart": replace(BASE, events=(Event("slip", 900, 120), Event("restart", 3000, 40))),
    "a weaker supply": replace(BASE, events=(Event("supply", 1800, 1200, 8.0, 5.0),)),
    "off centre, in use": replace(BASE, efficiency=0.5, idle_w=1.8),
    "staged": replace(BASE, stages=((0, 15.0), (30, 12.0), (60, 8.0))),
}


class Energy(unittest.TestCase):
    def test_the_account_closes(self):
        for name, scenario in SCENARIOS.items():
            with self.subTest(name):
                account = simulate(scenario).account
                parts = account.stored + account.heat + account.idle
                self.assertLess(abs(parts / account.drawn - 1.0), 0.001)

    def test_what_is_stored_is_the_charge_under_the_open_circuit_voltage(self):
        for name, scenario in SCENARIOS.items():
            with self.subTest(name):
                found = simulate(scenario)
                at = np.linspace(0.0, 1.0, len(CELL.ocv_v))
                # The integral over charge, not over time: nothing of the loop is used again.
                reached = np.append(np.arange(found.charge[0], found.charge[-1], 1e-5), found.charge[-1])
                stored = np.trapezoid(np.interp(reached, at, CELL.ocv_v), reached) * CELL.capacity_ah
                self.assertLess(abs(found.account.stored - stored) / found.account.drawn, 0.001)

    def test_what_is_not_stored_leaves_as_heat(self):
        for name, scenario in SCENARIOS.items():
            with self.subTest(name):
                found = simulate(scenario)
                room = scenario.ambient_c
                to_air = NODES.phone_air * (found.phone_c - room) + NODES.pad_air * (found.pad_c - room)
                kept = NODES.phone_j * (found.phone_c[-1] - room) + NODES.pad_j * (found.pad_c[-1] - room)
                heat_wh = (np.trapezoid(to_air) + kept) / 3600.0
                lost = found.account.drawn - found.account.stored
                self.assertLess(abs(heat_wh - lost) / found.account.drawn, 0.001)

    def test_the_meter_sees_the_trapezoid_of_its_power(self):
        found = simulate(BASE)
        self.assertAlmostEqual(
            np.trapezoid(found.power_w) / 3600.0, found.account.drawn, delta=0.001 * found.account.drawn
        )


class Heat(unittest.TestCase):
    def test_a_step_of_heat_follows_the_exponential(self):
        # One node alone, analytic: T = T_room + P/G (1 - exp(-t G/C)).
        for joules, conductance, watts in ((170.0, 0.3, 4.0), (60.0, 0.5, 6.0), (400.0, 0.1, 2.0)):
            step, drive = Nodes(joules, 90.0, conductance, 0.2, 0.0).step()
            t = np.arange(7200.0)
            analytic = 25.0 + watts / conductance * (1.0 - np.exp(-t * conductance / joules))
            temperature, worst = np.array([25.0, 25.0]), 0.0
            for expected in analytic:
                worst = max(worst, abs(temperature[0] - expected))
                temperature = step @ temperature + drive @ np.array([watts, 0.0, 25.0])
            self.assertLess(worst, 0.1)

    def test_the_whole_loop_cools_by_the_exponential(self):
        # Warm to begin with and never placed: the phone only cools, with its own time constant.
        alone = replace(
            BASE, nodes=replace(NODES, contact=0.0), warm_k=20.0, placed_s=1e6, no_load_w=0.0, most_s=3600.0
        )
        found = simulate(alone)
        t = np.arange(len(found.phone_c))
        self.assertLess(np.abs(found.phone_c - (25.0 + 20.0 * np.exp(-t * 0.30 / 170.0))).max(), 0.1)

    def test_a_fan_cools_and_a_warm_room_heats(self):
        hottest = simulate(BASE).hottest_c
        self.assertLess(simulate(replace(BASE, nodes=replace(NODES, phone_air=0.6))).hottest_c, hottest - 3.0)
        self.assertGreater(simulate(replace(BASE, ambient_c=32.0)).hottest_c, hottest + 6.0)

    def test_three_ways_of_saving_itself(self):
        fast = simulate(BASE).minutes_to(80)
        cycling = simulate(SCENARIOS["throttled by hysteresis"])
        level = simulate(SCENARIOS["held at a level"])
        stopped = simulate(SCENARIOS["cut out"])
        for found in (cycling, level, stopped):
            self.assertGreater(found.minutes_to(80), fast + 2.0)
            self.assertLess(found.hottest_c, simulate(BASE).hottest_c)
        starts = np.flatnonzero(np.diff((cycling.state == THROTTLED).astype(int)) == 1)
        self.assertGreater(len(starts), 1)
        self.assertTrue(np.all(np.abs(cycling.phone_c[starts + 1] - 40.0) < 0.1))
        held = level.phone_c[(level.state == THROTTLED) & (level.charge < 0.8)][600:]
        self.assertLess(held.max() - held.min(), 1.0)
        self.assertLess(np.median(stopped.power_w[stopped.state == CUT_OUT]), 0.41)


class Charging(unittest.TestCase):
    def test_constant_current_then_voltage_then_full(self):
        found = simulate(BASE)
        full = np.flatnonzero(found.state == FULL)
        self.assertGreater(found.charge[full[0]], 0.98)
        self.assertTrue(np.all(found.shown[full] == 100.0))
        late = found.battery_w[(found.shown >= 85) & (found.shown < 100)]
        self.assertLess(late[-1], 0.25 * late[0])
        self.assertTrue(np.all(np.diff(found.charge) >= -1e-9))

    def test_what_arrives_and_what_the_meter_sees(self):
        found = simulate(BASE)
        settled = slice(300, 1200)
        self.assertAlmostEqual(found.delivered_w[settled].mean(), 15.0, places=2)
        # Common practice: 18.8 W drawn for 15 W delivered; 0.55 to 0.65 of the meter side in the battery.
        self.assertAlmostEqual(found.power_w[settled].mean(), 18.7, delta=0.3)
        self.assertTrue(0.55 < found.account.stored / found.account.drawn < 0.65)

    def test_no_load_before_and_little_after(self):
        found = simulate(BASE)
        self.assertTrue(np.allclose(found.power_w[:55], 0.4))
        after = found.power_w[found.state == FULL][120:]
        self.assertTrue(0.4 < after.mean() < 0.8)

    def test_a_limit_on_the_battery_holds_and_then_lets_go(self):
        found = simulate(SCENARIOS["held at 80 %"])
        held = found.state == HOLDING
        self.assertAlmostEqual(held.sum(), 3600, delta=2)
        self.assertTrue(np.all(np.abs(found.charge[held] - 0.8) < 0.02))
        self.assertEqual(found.shown[-1], 100.0)
        for_good = simulate(replace(BASE, hold_percent=80.0, most_s=20_000.0))
        self.assertLess(for_good.charge.max(), 0.81)

    def test_a_slip_drops_to_no_load_and_drains_a_little(self):
        found = simulate(SCENARIOS["slips and a restart"])
        off = np.flatnonzero(found.state == LOST)
        self.assertEqual((off[0], len(off)), (900, 120))
        self.assertAlmostEqual(found.power_w[off[20]], 0.4, places=3)
        self.assertLess(found.charge[off[-1]], found.charge[off[0]])

    def test_a_dead_phone_wakes_first(self):
        found = simulate(SCENARIOS["from dead"])
        waking = found.state == WAKING
        self.assertEqual(waking.sum(), 300)
        self.assertTrue(2.0 < found.power_w[waking][60:].mean() < 7.0)

    def test_a_weaker_supply_is_over_when_it_is_said_to_be_even_between_two_seconds(self):
        found = simulate(replace(BASE, events=(Event("supply", 1800.0, 600.4, 8.0, 5.0),)))
        self.assertLessEqual(found.power_w[2300], 8.0 + 1e-9)
        self.assertGreater(found.power_w[2500], 12.0)

    def test_a_weaker_supply_caps_the_meter(self):
        found = simulate(SCENARIOS["a weaker supply"])
        self.assertLessEqual(found.power_w[1830:2990].max(), 8.01)

    def test_more_watts_are_never_slower(self):
        minutes = [
            simulate(replace(BASE, stages=((0.0, w),), most_s=80_000.0)).minutes_to(80) for w in (5, 7.5, 10, 15, 20)
        ]
        self.assertEqual(minutes, sorted(minutes, reverse=True))
        self.assertGreater(minutes[0], 2.5 * minutes[3])

    def test_it_is_deterministic(self):
        one, two = simulate(SCENARIOS["cut out"]), simulate(SCENARIOS["cut out"])
        self.assertTrue(np.array_equal(one.power_w, two.power_w))

    def test_nonsense_is_refused(self):
        for wrong in (
            {"start_percent": 100.0},
            {"start_percent": -1.0},
            {"stages": ()},
            {"stages": ((0, -5.0),)},
            {"efficiency": 0.0},
            {"receiver": 1.5},
            {"ambient_c": 900.0},
            {"most_s": 1e9},
            {"idle_w": -1.0},
        ):
            with self.subTest(wrong):
                self.assertRaises(CannotRead, simulate, replace(BASE, **wrong))
        self.assertRaises(CannotRead, usual_cell, -1.0, 3.87)
