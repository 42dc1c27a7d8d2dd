"""The walk of energy, filling a pack, keeping it, power passed through it, and a phone as the pack."""

import unittest

import numpy as np

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.log.trace import power_trace
from jaunecharge.core.measured import Measured, Part
from jaunecharge.core.packs import (
    Bounds,
    lamp_level,
    losses,
    lost_a_day,
    pass_through,
    percent_level,
    phone_to_phone,
    rating,
    read_recharge,
    round_trip,
    walk,
)
from tests.cases import checkins, steps
from tests.other_packs import made_pack

PACK = rating(10_000, 3.7)
GAVE = Measured(29.2, (Part("meter", 0.1),))


class Walk(unittest.TestCase):
    def test_measured_stages_stand_as_measured_and_the_rest_as_estimated(self):
        told = walk(PACK, GAVE, charges=Bounds(0.85, 0.88, 0.92), phone_wh=17.19)
        self.assertEqual([s.key for s in told], ["rated", "socket", "coil", "phone"])
        self.assertEqual([s.stand for s in told], ["printed", "measured", "estimated", "measured"])
        self.assertAlmostEqual(told[1].low, 29.0)
        self.assertAlmostEqual(told[3].wh, 0.88 * 17.19)
        self.assertTrue(told[3].wh < told[2].wh < told[1].wh)

    def test_nothing_measured_is_all_estimated_and_by_cord_there_is_no_coil(self):
        told = walk(PACK, way="cord")
        self.assertEqual([(s.key, s.stand) for s in told],
                         [("rated", "printed"), ("socket", "estimated"), ("phone", "estimated")])  # fmt: skip
        self.assertTrue(all(s.low <= s.wh <= s.high for s in told))

    def test_a_test_that_ended_early_leaves_the_upper_end_open(self):
        socket = walk(PACK, GAVE, at_least=True)[1]
        self.assertEqual((socket.at_least, socket.high), (True, PACK.wh))

    def test_more_in_the_phone_than_at_the_socket_leaves_the_coil_unknown(self):
        told = walk(PACK, GAVE, charges=Bounds(1.8, 1.9, 2.0), phone_wh=17.19)
        self.assertEqual(told[2].stand, "unknown")
        self.assertLess(min(x.wh for x in losses(told)), 0)

    def test_the_steps_add_up_to_the_rated_energy(self):
        for seed in range(200):
            made = made_pack(seed % 40, "one load")
            rng = np.random.default_rng(seed)
            rated = rating(made.rated_mah, made.cell_v)
            gave = Measured(made.wh, (Part("meter", 0.01 * made.wh),)) if rng.random() < 0.7 else None
            charges = Bounds(0.5, 0.6, 0.7) if rng.random() < 0.5 else None
            told = walk(rated, gave, way=str(rng.choice(["coil", "cord"])), charges=charges, phone_wh=17.0)
            steps_wh = sum(x.wh for x in losses(told)) + told[-1].wh
            self.assertAlmostEqual(steps_wh / rated.wh, 1.0, places=6)
            self.assertAlmostEqual(sum(x.share for x in losses(told)) + told[-1].wh / rated.wh, 1.0, places=6)

    def test_only_losses_between_measured_stages_are_measured(self):
        told = losses(walk(PACK, GAVE, way="cord", charges=Bounds(1.2, 1.3, 1.4), phone_wh=17.19))
        self.assertEqual([(x.from_key, x.to_key, x.measured) for x in told],
                         [("rated", "socket", True), ("socket", "phone", True)])  # fmt: skip
        self.assertFalse(losses(walk(PACK))[0].measured)


class Refill(unittest.TestCase):
    def test_a_recharge_to_full(self):
        found = read_recharge(steps((60, 0.0), (3600, 18.0), (1800, 9.0), (900, 0.1)))
        self.assertAlmostEqual(found.taken_wh.value, 18.0 + 4.5, delta=0.02)
        self.assertAlmostEqual(found.best_w, 18.0)
        self.assertAlmostEqual(found.at_v, 9.0)
        self.assertEqual((found.full, round(found.seconds)), (True, 5401))
        self.assertAlmostEqual(round_trip(Measured(18.0), found.taken_wh).value, 0.8, delta=0.001)

    def test_a_log_that_ends_while_it_fills(self):
        self.assertFalse(read_recharge(steps((60, 0.0), (3600, 18.0))).full)
        with self.assertRaisesRegex(CannotRead, "took nothing"):
            read_recharge(steps((600, 0.05)))

    def test_power_passed_through(self):
        found = pass_through(steps((1800, 18.0)), steps((600, 0.0), (1200, 10.0), (600, 10.0)))
        self.assertAlmostEqual(found.in_wh.value, 9.0, delta=0.02)
        self.assertAlmostEqual(found.out_wh.value, 1200 * 10 / 3600, delta=0.02)
        self.assertAlmostEqual(found.share.value, found.out_wh.value / found.in_wh.value)
        self.assertAlmostEqual(found.kept_wh, found.in_wh.value - found.out_wh.value)
        apart = power_trace(np.arange(5000.0, 6000.0), np.full(1000, 5.0))
        with self.assertRaisesRegex(CannotRead, "no minute in common"):
            pass_through(steps((1800, 18.0)), apart)
        with self.assertRaisesRegex(CannotRead, "nothing went through"):
            pass_through(steps((1800, 18.0)), steps((1800, 0.0)))

    def test_what_it_loses_by_itself_from_two_readings(self):
        week = 7 * 86400.0
        found = lost_a_day(percent_level(100), percent_level(93), week).bounds
        self.assertAlmostEqual(found.value, 1.0)
        self.assertTrue(found.low < 1.0 < found.high)
        lamps = lost_a_day(lamp_level(4), lamp_level(4), week).bounds
        self.assertEqual((lamps.low, lamps.value), (0.0, 0.0))
        self.assertAlmostEqual(lamps.high, 25 / 7)
        with self.assertRaisesRegex(CannotRead, "less than a day"):
            lost_a_day(percent_level(100), percent_level(99), 3600.0)
        with self.assertRaisesRegex(CannotRead, "rose from 50 % to 80 %"):
            lost_a_day(percent_level(50), percent_level(80), week)


class PhoneGives(unittest.TestCase):
    GIVER = ((0, 80), (20, 70), (40, 60), (60, 50), (80, 40), (100, 31), (110, 30), (120, 30), (130, 30))
    TAKER = ((0, 10), (20, 15), (40, 20), (60, 25), (80, 30), (100, 34), (110, 34), (120, 34), (130, 34))

    def test_points_energy_and_where_it_stopped(self):
        found = phone_to_phone(checkins(*self.GIVER), checkins(*self.TAKER), 18.0, 17.0)
        self.assertEqual((found.given.value, found.gained.value), (50.0, 24.0))
        self.assertAlmostEqual(found.a_point.value, 0.48)
        self.assertTrue(found.a_point.low < 0.48 < found.a_point.high)
        self.assertAlmostEqual(found.arrived.value, 0.24 * 17 / (0.5 * 18))
        self.assertEqual(found.stopped_at, 30.0)

    def test_it_has_not_stopped_or_the_taker_was_full(self):
        self.assertIsNone(phone_to_phone(checkins(*self.GIVER[:6]), checkins(*self.TAKER[:6])).stopped_at)
        full = [(m, min(100, 70 + m)) for m in range(0, 140, 10)]
        giver = [(m, 90 - min(m, 40)) for m in range(0, 140, 10)]
        self.assertIsNone(phone_to_phone(checkins(*giver), checkins(*full)).stopped_at)

    def test_what_cannot_be_is_refused(self):
        with self.assertRaisesRegex(CannotRead, "not read at the same time"):
            phone_to_phone(checkins((0, 80), (10, 70)), checkins((50, 10), (60, 20)))
        with self.assertRaisesRegex(CannotRead, "lost nothing"):
            phone_to_phone(checkins((0, 70), (10, 75)), checkins((0, 10), (10, 12)))

    def test_without_batteries_no_energy_is_said(self):
        found = phone_to_phone(checkins(*self.GIVER), checkins(*self.TAKER))
        self.assertIsNone(found.arrived)


if __name__ == "__main__":
    unittest.main()
