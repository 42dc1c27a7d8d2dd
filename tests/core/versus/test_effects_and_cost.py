"""Effects of single factors, money and watt-hours, another phone, and the table of phones and chargers."""

import unittest

import numpy as np

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.kit.items import Phone
from jaunecharge.core.kit.transfer import Transfer
from jaunecharge.core.measured import Measured, Part
from jaunecharge.core.reading.standby import Habits, check_habits
from jaunecharge.core.versus.carry_over import CARRY_UNCERTAINTY, carried_lap, estimate, most_w, tier_said
from jaunecharge.core.versus.compare import versus
from jaunecharge.core.versus.cost import (
    against_least,
    bargains,
    best_said,
    cell_charge,
    charge,
    currencies,
    price_apart,
)
from jaunecharge.core.versus.factor_effects import effects
from jaunecharge.core.versus.phone_table import phone_table
from jaunecharge.core.versus.run_names import charger_name, effect_said
from tests.core.contenders import charger, powered, steady


def run(label, minutes, factors, **more):
    return steady(label, minutes, every=1, chamber=True, factors=factors, key=label, **more)


class Effects(unittest.TestCase):
    def test_each_fair_pair_isolates_one(self):
        found = effects(versus([
            run("still", 140, charger("Serac")),
            run("fan", 100, charger("Serac", airflow="charger's own fan")),
            run("case", 170, charger("Serac", case="Rubber case")),
        ]))  # fmt: skip
        self.assertEqual([(e.factor, e.from_level, e.to_level) for e in found],
                         [("case", "none", "Rubber case"), ("airflow", "still air", "charger's own fan")])  # fmt: skip
        case, fan = found
        self.assertAlmostEqual(fan.less_time_percent, 100 * (1 - 100 / 140), delta=0.5)
        self.assertEqual((fan.verdict, case.verdict), ("less time", "more time"))
        self.assertTrue(fan.low_percent < fan.less_time_percent < fan.high_percent)
        self.assertEqual(fan.contrasts[0].where, "Ostrel Max × Serac")
        self.assertIsNone(fan.alike)

    def test_the_same_contrast_on_several_phones_is_put_together(self):
        runs = []
        for phone, minutes in (("Ostrel Max", 140), ("Tarn 9", 180), ("Fen 5", 200)):
            runs.append(run(f"{phone} off", minutes, charger("Serac", phone=phone)))
            fan = charger("Serac", phone=phone, airflow="fan on the phone")
            runs.append(run(f"{phone} on", minutes * 0.8, fan))
        found = versus(runs)
        (fan,) = [e for e in effects(found) if e.factor == "airflow"]
        self.assertEqual(len(fan.contrasts), 3)
        self.assertIs(fan.alike, True)
        self.assertAlmostEqual(fan.less_time_percent, 20, delta=1)
        single = next(e for e in effects(versus(runs[:2])) if e.factor == "airflow")
        self.assertLess(fan.high_percent - fan.low_percent, (single.high_percent - single.low_percent) / 1.5)

    def test_contrasts_that_do_not_agree_are_said_to(self):
        runs = []
        for phone, on in (("Ostrel Max", 70), ("Tarn 9", 190)):
            runs.append(run(f"{phone} off", 150, charger("Serac", phone=phone)))
            runs.append(run(f"{phone} on", on, charger("Serac", phone=phone, airflow="fan on the phone")))
        (fan,) = [e for e in effects(versus(runs)) if e.factor == "airflow"]
        self.assertIs(fan.alike, False)

    def test_contrasts_that_share_a_cell_count_its_error_twice(self):
        # One wired run against three chargers that take the same time: its own error does not average out.
        runs = [run("w", 100, charger("wired")), *(run(n, 150, charger(n)) for n in "abc")]
        found = versus(runs)
        (wired,) = [e for e in effects(found) if e.factor == "wired"]
        (single,) = [e for e in effects(versus(runs[:2])) if e.factor == "wired"]
        self.assertEqual(len(wired.contrasts), 3)
        shrunk = (wired.high_percent - wired.low_percent) / (single.high_percent - single.low_percent)
        # var of a mean of three that share half their variance: (1 + 1/3) / 2 of that of one.
        self.assertAlmostEqual(shrunk, np.sqrt(2 / 3), delta=0.03)

    def test_wired_against_wireless_and_places_of_a_dual_pad(self):
        found = effects(versus([
            run("w", 60, charger("wired")),
            run("l", 140, charger("Twin", place="left")),
            run("r", 180, charger("Twin", place="right")),
        ]))  # fmt: skip
        self.assertEqual([e.factor for e in found], ["wired", "charger", "place"])
        self.assertEqual(len(found[0].contrasts), 2)
        self.assertEqual((effect_said("wired"), effect_said("place")), ("by wire or not", "place on a multi-charger"))

    def test_rooms_are_told_by_their_degrees(self):
        rooms = [run(f"{c}", m, charger("Serac", ambient=""), ambient_c=c) for c, m in ((22.0, 100), (30.0, 150))]
        (room,) = effects(versus(rooms))
        self.assertEqual((room.from_level, room.to_level), ("22 °C", "30 °C"))

    def test_bundles_unknown_and_warm_starts_count_for_nothing(self):
        warm = {"start_c": 33.0, "room_c": 24.0}
        cool = {"start_c": 24.0, "room_c": 24.0}
        self.assertEqual(effects(versus([run("a", 100, charger("a")), run("b", 150, charger("b", case="Thin"))])), [])
        self.assertEqual(effects(versus([run("a", 100, charger("a")), run("b", 150, charger("b", case=""))])), [])
        runs = [run("a", 100, charger("a"), course=warm), run("b", 150, charger("b"), course=cool)]
        self.assertEqual(effects(versus(runs)), [])


class Money(unittest.TestCase):
    def test_one_charge(self):
        habits = Habits(tariff=0.5, charges_year=100, adapter_share=0.8, hut_share=0.5)
        found = charge(Measured(16.0, (Part("meter", 0.1),)), habits)
        self.assertAlmostEqual(found.wall_wh.value, 20.0)
        self.assertAlmostEqual(found.hut_wh.value, 32.0)
        self.assertAlmostEqual(found.cost, 0.01)
        self.assertAlmostEqual(found.year_cost, 1.0)
        self.assertAlmostEqual(found.year_kwh, 2.0)
        self.assertGreater(found.hut_wh.expanded, 2 * 0.1 / 0.5, "the share itself is not known exactly")

    def test_what_a_meter_at_the_socket_measured_stands_in_the_place_of_the_assumed_share(self):
        habits, seen = Habits(adapter_share=0.8, hut_share=0.6), Measured(0.9, (Part("plug", 0.009),))
        power = {"power": powered(12, 200)}
        assumed = charge(Measured(18.0), habits)
        found = charge(Measured(18.0), habits, seen)
        self.assertAlmostEqual(found.wall_wh.value, 20.0)
        self.assertAlmostEqual(found.hut_wh.value, 20.0 / 0.75)
        self.assertLess(found.wall_wh.expanded, assumed.wall_wh.expanded)
        self.assertEqual((found.wall_measured, assumed.wall_measured), (True, False))
        rows = versus([
            run("a", 100, charger("a"), course=power | {"through_adapter": seen}),
            run("b", 100, charger("b"), course=power),
        ])  # fmt: skip
        charges = [cell_charge(rows, n, habits) for n in range(2)]
        self.assertEqual([c.wall_measured for c in charges], [True, False])
        self.assertAlmostEqual(charges[0].wall_wh.value, charges[0].meter_wh.value / 0.9)

    def test_habits_that_cannot_be(self):
        for wrong in (
            {"adapter_share": 0.0},
            {"hut_share": 1.2},
            {"charges_year": -1},
            {"adapter_share": float("nan")},
        ):
            with self.subTest(wrong), self.assertRaises(CannotRead):
                check_habits(Habits(**wrong))
        check_habits(Habits())

    def test_a_row_without_a_meter_or_fed_by_a_pack_has_none(self):
        power = {"power": powered(12, 200)}
        found = versus([
            run("a", 100, charger("a"), course=power),
            run("b", 100, charger("b")),
            run("c", 100, charger("c", adapter="none (a pack)"), course=power),
        ])  # fmt: skip
        self.assertAlmostEqual(cell_charge(found, 0, Habits()).meter_wh.value, 20.0, delta=0.3)
        self.assertIsNone(cell_charge(found, 1, Habits()))
        self.assertIsNone(cell_charge(found, 2, Habits()))

    def test_what_each_takes_more_than_the_least(self):
        small = charger("d", phone="Ostrel Mini")
        found = versus([*(run(n, 100, charger(n)) for n in "abc"), run("d", 100, small)])
        made = [charge(Measured(wh), Habits()) for wh in (20.0, 25.0, 9.0)]
        more = against_least(found, [made[0], None, made[1], made[2]])
        self.assertEqual((more[0], more[1], more[3]), (0.0, None, None), "alone of its battery there is nothing to say")
        self.assertAlmostEqual(more[2], 25.0)

    def bargain(self, a_min, b_min, a=(60.0, "EUR"), b=(20.0, "EUR"), **factors):
        found = versus([
            run("a", a_min, charger("a"), prices={"charger": a} if a else {}),
            run("b", b_min, charger("b", **factors), prices={"charger": b} if b else {}),
        ])  # fmt: skip
        return found, bargains(found)

    def test_price_per_minute_saved(self):
        _, (found,) = self.bargain(100, 140)
        self.assertTrue(found.buys and found.per_minute[0] < 1.0 < found.per_minute[1])
        self.assertEqual(best_said([found]), [found.said])
        saves = r"^a costs 40 EUR more than b and saves 2\d to 5\d min from 10 to 100 %: "
        self.assertRegex(found.said, saves + r"0\.\d\d to 1\.\d\d EUR for each minute$")

    def test_minutes_that_may_be_hardly_any_have_no_price(self):
        _, (found,) = self.bargain(100, 116, (25.5, "EUR"))
        self.assertTrue(found.buys)
        self.assertIsNone(found.per_minute)
        self.assertRegex(found.said, r"^a costs 5\.50 EUR more than b and saves \d to \d\d min from 10 to 100 %$")

    def test_a_price_without_a_difference_buys_nothing(self):
        _, (found,) = self.bargain(100, 101)
        self.assertIsNone(found.per_minute)
        self.assertIn("no difference is shown", found.said)
        self.assertEqual(best_said([found]), [])
        _, (found,) = self.bargain(140, 100)
        self.assertIn("min longer", found.said)

    def test_what_is_not_known_or_in_another_currency_is_no_bargain(self):
        self.assertEqual(self.bargain(100, 140, b=None)[1], [])
        self.assertEqual(self.bargain(100, 140, b=(20.0, "CHF"))[1], [])
        self.assertEqual(currencies(self.bargain(100, 140, b=(20.0, "CHF"))[0]), ["CHF", "EUR"])
        self.assertEqual(self.bargain(100, 140, phone="Tarn 9")[1], [], "phones are not what is bought")

    def test_everything_in_which_they_differ_is_paid_for(self):
        found = versus([
            run("a", 100, charger("a", adapter="Plug 30"), prices={"charger": (60.0, "EUR"), "adapter": (30.0, "EUR")}),
            run("b", 140, charger("b"), prices={"charger": (20.0, "EUR"), "adapter": (17.0, "EUR")}),
            run("w", 60, charger("wired"), prices={"adapter": (17.0, "EUR")}),
        ])  # fmt: skip
        self.assertEqual(price_apart(found, found.pair(0, 1)), (53.0, "EUR"))
        self.assertEqual(price_apart(found, found.pair(1, 2)), (20.0, "EUR"), "by wire there is no charger to pay")
        same = versus([run("a", 1e2, charger("a")), run("b", 1e2, charger("a", airflow="fan on the phone"))])
        self.assertIsNone(price_apart(same, same.pairs[0]))


class AnotherPhone(unittest.TestCase):
    def test_minutes_go_with_capacity_at_equal_percentages(self):
        found = carried_lap(120.0, 4620, 3180)
        self.assertAlmostEqual(found.estimate, 120 * 3180 / 4620)
        self.assertAlmostEqual(found.low / found.estimate, 1 - CARRY_UNCERTAINTY)
        self.assertAlmostEqual(found.high / found.estimate, 1 + CARRY_UNCERTAINTY)

    def test_what_a_phone_takes_at_most(self):
        phone = Phone(label="P", capacity_mah=4400.0, accepts=(Transfer("mpp", 15.0),), wired_w=20.0)
        pad = (Transfer("bpp", 5.0), Transfer("mpp", 15.0))
        self.assertEqual(most_w(phone, pad), 15.0)
        self.assertEqual(most_w(phone, (Transfer("bpp", 5.0),)), 5.0)
        self.assertEqual(most_w(phone, None, by_wire=True), 20.0)
        self.assertIsNone(most_w(phone, None))
        self.assertIsNone(most_w(None, pad))

    def test_only_within_one_acceptance_tier(self):
        self.assertEqual(tier_said(15.0, 15.0)[0], True)
        same, said = tier_said(15.0, 7.5)
        self.assertIs(same, False)
        self.assertIn("minutes do not carry over", said)
        self.assertIsNone(tier_said(None, 7.5)[0])
        self.assertIn("by wire the measured phone takes", tier_said(25.0, 20.0, by_wire=True)[1])

    def test_where_nothing_carries_over_it_says_why(self):
        told = estimate(120.0, 4000, 3000, 15.0, 15.0)
        self.assertEqual((told.lap.estimate, told.ratio, told.same_tier), (90.0, 0.75, True))
        self.assertIsNotNone(estimate(120.0, 4000, 3000).lap, "a tier that nobody knows is told, not refused")
        for made, said in (
            (estimate(120.0, 4000, 3000, 15.0, 7.5), "do not carry over"),
            (estimate(120.0, 4000, 4000, 15.0, 15.0, same_phone=True), "very phone"),
            (estimate(120.0, None, 3000, 15.0, 15.0), "capacity of the measured phone"),
            (estimate(None, 4000, 3000, 15.0, 15.0), "no time over this window"),
        ):
            self.assertIsNone(made.lap)
            self.assertIn(said, made.said)


class Table(unittest.TestCase):
    def setUp(self):
        self.runs = [
            run("1", 100, charger("Larch"), ambient_c=23.0),
            run("2", 108, charger("Larch"), ambient_c=23.5),
            run("3", 180, charger("Moraine"), ambient_c=23.0),
            run("4", 60, charger("Larch", airflow="fan on the phone"), ambient_c=23.0),
            run("5", 110, charger("Larch"), ambient_c=31.0),
            steady("6", 100, start=50.0, factors=charger("Cairn"), ambient_c=23.0, key="6"),
            run("7", 150, charger("Larch", phone="Tarn 9", place="left"), ambient_c=23.0),
            run("8", 150, {"phone": "Tarn 9"}),
            run("9", 20, charger("Moraine"), ambient_c=23.0, outcome="void"),
            run("10", 20, charger("Moraine"), ambient_c=23.0, simulated=True),
        ]
        self.table = phone_table(self.runs)

    def field(self, name, phone="Ostrel Max"):
        return self.table.fields[name, phone]

    def test_medians_and_spread_under_like_conditions(self):
        larch = self.field("Larch")
        self.assertEqual([r.label for r in larch.runs], ["1", "2"])
        self.assertAlmostEqual(larch.median, 0.777 * 104, delta=1)
        self.assertLess(larch.spread[0], larch.spread[1])
        self.assertIsNone(self.field("Moraine").spread)

    def test_what_is_unlike_stands_apart_and_says_in_what(self):
        apart = {r.label: why for r, why in self.field("Larch").others}
        self.assertIn("fan on the phone", apart["4"])
        self.assertIn("31 °C", apart["5"])
        self.assertIn("covers 50 to 100 %", dict((r.label, why) for r, why in self.field("Cairn").others)["6"])
        self.assertEqual(self.field("Cairn").place, "")

    def test_places_are_of_one_phone(self):
        self.assertEqual((self.field("Larch").place, self.field("Moraine").place), ("1", "2"))
        self.assertEqual(self.field("Larch, left", "Tarn 9").place, "", "alone it has no place")

    def test_only_runs_that_were_measured_and_name_both(self):
        listed = [r.label for f in self.table.fields.values() for r in (*f.runs, *(o for o, _ in f.others))]
        self.assertEqual(sorted(listed, key=int), ["1", "2", "3", "4", "5", "6", "7"])
        self.assertEqual([c.phone for c in self.table.columns], ["Ostrel Max", "Tarn 9"])

    def test_the_window_ends_at_eighty(self):
        self.assertEqual(self.table.columns[0].window, (10, 80))
        self.assertEqual(self.table.columns[0].timed, 2)

    def test_a_place_is_named_once(self):
        self.assertEqual(charger_name(run("x", 1e2, charger("Larch twin, left", place="left"))), "Larch twin, left")

    def test_no_runs(self):
        self.assertEqual(phone_table([]).chargers, ())


if __name__ == "__main__":
    unittest.main()
