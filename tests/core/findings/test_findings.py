"""Findings by rules: answers, ties, what heat forbids, claims, what was not tested, which run to make next."""

import unittest
from dataclasses import replace

from jaunecharge.core.findings import (
    Asker,
    ClaimTyped,
    Foreign,
    Material,
    OutputSeen,
    PackSeen,
    WantedRun,
    advice,
    blocks_of,
    draft,
    read_question,
)
from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.core.measured import Measured, Part
from jaunecharge.core.packs.charges import Bounds
from jaunecharge.core.packs.overview import HeldPower, PhoneCharges, overview
from jaunecharge.core.packs.rating import rating
from jaunecharge.core.versus.contender import Warm
from tests.core.contenders import charger, powered, steady

PHONES = {
    "ostrel max": kit_from_line("phone Ostrel Max 4620mAh mpp"), "quill": kit_from_line("phone Quill 3840mAh bpp"),
}  # fmt: skip
CHARGERS = {
    "disc": kit_from_line("charger Disc mpp claims 15W"), "dock": kit_from_line("charger Dock mpp claims 15W"),
    "pad": kit_from_line("charger Pad magnet-only claims 15W"),
}  # fmt: skip
PRICES = {"Disc": 45.0, "Dock": 79.0, "Pad": 19.0}


def run(name, minutes, n=0, hottest=None, watts=None, **more):
    course = {}
    if hottest is not None:
        course["warm"] = Warm(hottest, hottest - 23.0, minutes * 0.4)
    if watts is not None:
        course["power"] = powered(watts, minutes * 1.2)
    ambient = more.pop("ambient_c", 23.0)
    factors = more.pop("factors", charger(name, phone=more.pop("phone", "Ostrel Max")))
    price = more.pop("price", PRICES.get(name))
    return steady(
        f"{name} {n}", minutes, every=5.0, phase=0.7 * n, course=course, factors=factors, ambient_c=ambient,
        key=f"{name} {n} {factors.get('phone')} {factors.get('case')}",
        prices={} if price is None else {"charger": (price, "EUR")}, **more,
    )  # fmt: skip


def material(runs, question="Which is fastest to 80 %?", audience="buyer", **more):
    return Material(read_question(question), audience, runs, PHONES, CHARGERS, **more)


def repeated(name, minutes, times=3, **more):
    return [run(name, minutes * (1 + 0.01 * n), n, **more) for n in range(times)]


class Questions(unittest.TestCase):
    def test_name_how_far_and_how_hot(self):
        for text, to, limit in (
            ("fastest to 80 % and under 43 °C", 80, 43), ("fastest until it is full", 100, None),
            ("reaches 60 % soonest", 60, None), ("stays below 104 °F", 80, 40), ("cooler than 200 °C?", 80, None),
            ("at most 41,5C", 80, 41.5), ("", 80, None),
        ):  # fmt: skip
            found = read_question(text)
            self.assertEqual((found.to, found.limit_c), (to, limit), text)


class Answers(unittest.TestCase):
    def answer(self, runs, *args, **more):
        return [s.plain for s in draft(material(runs, *args, **more)).answer]

    def test_one_that_is_shown_to_be_fastest(self):
        found = self.answer([*repeated("Disc", 100), *repeated("Pad", 200)])
        self.assertEqual(len(found), 1)
        self.assertRegex(
            found[0], r"^For phones that take 15 W, magnetic \(tested: Ostrel Max\): Disc is fastest, in 1 h"
        )
        self.assertRegex(found[0], r", \d+ ± \d+ min sooner than Pad$")

    def test_a_tie_is_an_answer_and_the_cheaper_is_named(self):
        found = self.answer([*repeated("Disc", 100), *repeated("Dock", 101)])[0]
        self.assertIn("buy Disc, no difference shown to Dock", found)
        self.assertTrue(found.endswith("at 34 EUR less"), found)

    def test_to_an_engineer_a_tie_is_told_as_one(self):
        found = self.answer([*repeated("Disc", 100), *repeated("Dock", 101)], audience="engineer")[0]
        self.assertIn("no difference shown between", found)
        self.assertNotIn("buy", found)

    def test_without_prices_nobody_is_told_to_buy(self):
        runs = [*repeated("Disc", 100), *repeated("Dock", 101, price=None)]
        found = draft(material(runs)).answer[0].plain
        self.assertNotIn("buy", self.answer([replace(r, prices={}) for r in runs])[0])
        self.assertIn("no difference shown", found)

    def test_phones_with_the_same_winner_are_told_together(self):
        other = {"ostrel max": PHONES["ostrel max"], "mini": kit_from_line("phone Mini 3000mAh mpp@12")}
        runs = [
            *repeated("Disc", 100), *repeated("Pad", 200), *repeated("Disc", 70, phone="Mini"),
            *repeated("Pad", 150, phone="Mini"),
        ]  # fmt: skip
        found = draft(replace(material(runs), phones=other)).answer
        self.assertEqual(len(found), 1)
        self.assertIn(
            "15 W, magnetic or 12 W, magnetic (tested: Ostrel Max and Mini): Disc is fastest, in", found[0].plain
        )

    def test_what_got_too_hot_is_passed_over_and_named(self):
        runs = [*repeated("Disc", 100, hottest=44.5), *repeated("Pad", 200, hottest=33.0)]
        found = self.answer(runs, "fastest to 80 %, under 43 °C")[0]
        self.assertIn("Pad", found)
        self.assertIn("Disc is faster but reached 44.5 °C", found)

    def test_none_that_stayed_cool_is_an_answer(self):
        runs = [*repeated("Disc", 100, hottest=44.5), *repeated("Pad", 200, hottest=43.5)]
        found = self.answer(runs, "fastest to 80 %, under 43 °C")[0]
        self.assertIn("none stayed under 43 °C; the coolest was Pad, 43.5 °C", found)

    def test_heat_that_nobody_logged_is_not_known(self):
        found = self.answer([*repeated("Disc", 100), *repeated("Pad", 200)], "to 80 %, under 43 °C")[0]
        self.assertIn("whether Disc stayed under 43 °C is not known: no temperature was logged", found)

    def test_one_charger_alone_is_compared_with_nothing(self):
        found = self.answer(repeated("Disc", 100, times=2))[0]
        self.assertIn("nothing to compare it with", found)
        self.assertIn("Nothing to compare yet", self.answer([])[0])

    def test_runs_in_a_case_are_no_answer_for_runs_without(self):
        bare = repeated("Disc", 100)
        cased = [run("Pad", 200, n, factors=charger("Pad", case="thick case")) for n in range(3)]
        found = draft(material([*bare, *cased]))
        self.assertEqual([b.rows for b in found.blocks], [(), ()])
        self.assertIn("nothing to compare it with", found.answer[0].plain)

    def test_a_fan_of_its_own_is_a_part_of_the_charger(self):
        fan = [run("Dock", 70, n, factors=charger("Dock", airflow="charger's own fan")) for n in range(3)]
        found = draft(material([*repeated("Disc", 100), *fan]))
        self.assertEqual([r.label for r in found.blocks[0].rows], ["Dock, own fan", "Disc"])


class Verdicts(unittest.TestCase):
    def test_places_are_ranges_and_every_row_has_a_verdict(self):
        found = draft(material([*repeated("Disc", 100), *repeated("Dock", 101), *repeated("Pad", 200)]))
        rows = found.blocks[0].rows
        self.assertEqual([r.place for r in rows], ["1 to 2 of 3", "1 to 2 of 3", "3"])
        self.assertRegex(
            rows[0].verdict.plain, r"^No difference shown to Dock, \d+ ± \d+ min; 34 EUR less than Dock: buy"
        )
        self.assertRegex(rows[2].verdict.plain, r"^\d+ ± \d+ min later than Disc")

    def test_another_adapter_is_told(self):
        pads = [run("Pad", 200, n, factors=charger("Pad", adapter="Plug 30")) for n in range(3)]
        found = draft(material([*repeated("Disc", 100), *pads]))
        self.assertIn("adapter differs as well", found.blocks[0].rows[1].verdict.basis)

    def test_the_best_for_every_purpose_or_why_not(self):
        runs = [
            *repeated("Disc", 100, hottest=41.0, watts=16.0), *repeated("Pad", 200, hottest=33.0, watts=12.0),
        ]  # fmt: skip
        best = [s.plain for s in draft(material(runs)).blocks[0].best]
        self.assertTrue(best[0].startswith("Fastest: Disc, "), best)
        self.assertTrue(best[1].startswith("Coolest: Pad, 33.0 °C"), best)
        self.assertTrue(best[2].startswith("Thriftiest: Disc, "), best)
        self.assertTrue(best[3].startswith("For a small car battery or a solar hut: Disc, "), best)
        self.assertEqual(best[4], "Cheapest that is not shown to be slower: Disc, as all others are slower")
        bare = [s.plain for s in draft(material([*repeated("Disc", 100), *repeated("Pad", 200)])).blocks[0].best]
        self.assertIn("Coolest: cannot be told, temperatures were logged for fewer than two of them", bare)

    def test_energy_of_one_run_each_is_no_difference_where_repeats_would_spread_as_far(self):
        runs = [run("Disc", 100, watts=14.0), run("Dock", 100, watts=14.4)]
        best = draft(material(runs)).blocks[0].best[2].plain
        self.assertIn("no difference shown between", best)

    def test_a_night_counts_the_draw_after_full_only_where_it_is_known_for_all(self):
        runs = [*repeated("Disc", 100, watts=14.0), *repeated("Pad", 100, watts=14.0)]
        after = {
            r.key: OutputSeen(after_full_w=Measured(0.1 if "Disc" in r.key else 1.5, (Part("counts", 0.01),)))
            for r in runs
        }
        whole = draft(material(runs, outputs=after)).blocks[0].best[3]
        self.assertIn("Disc", whole.plain.split(":")[1])
        self.assertIn("after full", whole.basis)
        part = {k: o for k, o in after.items() if "Disc" in k}
        told = draft(material(runs, outputs=part)).blocks[0].best[3]
        self.assertIn("no difference shown", told.plain)
        self.assertIn("not metered for all", told.basis)


class Claims(unittest.TestCase):
    def rows(self, runs, **more):
        return {(c.about, c.claim, c.on): c for c in draft(material(runs, **more)).claims}

    def test_watts_of_the_shelf_by_the_best_output(self):
        runs = [*repeated("Disc", 100), *repeated("Pad", 200)]
        seen = {
            "Disc 0 Ostrel Max none": OutputSeen(Measured(14.8, (Part("k", 0.7),)), 15.0, True),
            "Pad 0 Ostrel Max none": OutputSeen(Measured(7.6, (Part("k", 0.35),)), 15.0, False),
        }
        found = self.rows(runs, outputs=seen)
        self.assertEqual(found["Disc", "15 W", "Ostrel Max"].found, "supported")
        self.assertEqual(found["Pad", "15 W", "Ostrel Max"].found, "not supported")
        bare = self.rows(runs)
        self.assertEqual(bare["Disc", "15 W", ""].found, "cannot be told")

    def test_a_range_of_percent_is_held_to_its_lower_end(self):
        runs = [*repeated("Disc", 100), *repeated("Pad", 160)]
        ask = (ClaimTyped("Disc", "20 to 35 % faster", "Pad"), ClaimTyped("Disc", "90 to 95 % faster", "Pad"))
        found = self.rows(runs, claims=ask)
        good, bad = (found["Disc", c.text, "Ostrel Max"] for c in ask)
        self.assertEqual(good.found, "supported")
        self.assertIn("35 % is reached", good.sentence.basis)
        self.assertEqual(bad.found, "not supported")

    def test_minutes_heat_and_what_says_nothing(self):
        runs = [*repeated("Disc", 90, hottest=36.0), *repeated("Pad", 200, hottest=41.5)]
        ask = (
            ClaimTyped("Disc", "80 % in 120 minutes"), ClaimTyped("Pad", "never over 38 °C"),
            ClaimTyped("Pad", "never over 42 °C"), ClaimTyped("Disc", "the best of all"),
            ClaimTyped("Larch", "30 % faster", "Disc"), ClaimTyped("Disc", "never over 40 °C"),
        )  # fmt: skip
        found = self.rows(runs, claims=ask)
        self.assertEqual(found["Disc", "80 % in 120 minutes", "Ostrel Max"].found, "supported")
        self.assertEqual(found["Pad", "never over 38 °C", "Ostrel Max"].found, "not supported")
        self.assertEqual(
            found["Pad", "never over 42 °C", "Ostrel Max"].found, "cannot be told", "a probe repeats in 2 K"
        )
        self.assertEqual(found["Disc", "never over 40 °C", "Ostrel Max"].found, "supported")
        for about, text in (("Disc", "the best of all"), ("Larch", "30 % faster")):
            self.assertEqual(found[about, text, ""].found, "cannot be told")

    def test_charges_and_watts_of_a_pack(self):
        held = HeldPower(4.05, 20.0, 100.0)
        seen = pack(
            "Trail", 27000, 60.0, [PhoneCharges("Ostrel Max", "coil", Bounds(1.8, 2.0, 2.2), 17.9, 1)], power=held
        )
        ask = (ClaimTyped("Trail", "1.5 charges"), ClaimTyped("Trail", "2 charges"), ClaimTyped("Trail", "3 charges"),
               ClaimTyped("Trail", "2 charges of Quill"))  # fmt: skip
        found = self.rows([], packs=[replace(seen, claimed_w=100.0)], claims=ask)
        told = [found["Trail", c.text, "Ostrel Max"].found for c in ask[:3]]
        self.assertEqual(told, ["supported", "cannot be told", "not supported"])
        self.assertEqual(found["Trail", "2 charges of Quill", ""].found, "cannot be told")
        self.assertEqual(found["Trail", "100 W", ""].found, "not supported")


def pack(label, mah, delivered=None, charges=(), power=None, price=None):
    rated = rating(mah, 3.7)
    loads = [] if delivered is None else [(Measured(delivered, (Part("meter", 0.2),)), False)]
    return PackSeen(label, rated, overview(rated, loads, list(charges), price, True, power=power),
                    None if price is None else (price, "EUR"))  # fmt: skip


class Packs(unittest.TestCase):
    def test_a_poor_one_is_called_so_and_ranges_that_overlap_are_no_order(self):
        good = pack("Col", 10000, 30.0, [PhoneCharges("Ostrel Max", "coil", Bounds(1.2, 1.3, 1.4), 17.9, 1)])
        poor = pack("Slim", 20000, 34.0, [PhoneCharges("Ostrel Max", "coil", Bounds(1.3, 1.5, 1.7), 17.9, 1)])
        told = [s.plain for s in draft(material([], packs=[good, poor, pack("New", 5000)])).packs]
        self.assertNotIn("less than it promises", told[0])
        self.assertIn("less than it promises: 34 % of its mAh at 5 V", told[1])
        self.assertEqual(told[2], "New: not tested yet")
        self.assertIn("cannot be told: the ranges of Col and Slim overlap", told[3])


class NotShown(unittest.TestCase):
    def test_what_was_planned_never_met_or_not_covered(self):
        runs = [*repeated("Disc", 100), *repeated("Pad", 200), *repeated("Disc", 120, phone="Quill", times=1)]
        wanted = [WantedRun("Quill", "Pad", True, 300.0), WantedRun("Quill", "Dock", False, 300.0)]
        found = draft(material(runs, wanted=wanted))
        told = [s.plain for s in found.not_tested]
        self.assertIn("Planned, not made yet: Quill on Pad", told)
        self.assertIn("Planned and let go: Quill on Dock", told)
        self.assertIn("Never tried: Quill on Pad", told)
        self.assertIn("Nothing is said of the charge above 80 %", told)
        self.assertEqual(found.state, "1 run to come")

    def test_runs_left_out_say_why(self):
        runs = [
            *repeated("Disc", 100), *repeated("Pad", 200), run("Dock", 90, outcome="void"),
            run("Dock", 90, 1, simulated=True),
        ]  # fmt: skip
        told = "\n".join(s.plain for s in draft(material(runs)).limits)
        self.assertIn("Left out: Dock 0: void", told)
        self.assertIn("Left out: Dock 1: simulated, not measured", told)
        self.assertIn("One phone stands for each of these: 15 W, magnetic (Ostrel Max)", told)

    def test_a_hot_phone_is_a_caution_and_figures_of_others_are_theirs(self):
        runs = [*repeated("Disc", 100, hottest=46.0), *repeated("Pad", 200, hottest=50.5)]
        theirs = [Foreign("Disc on Ostrel Max, 10 to 80 %", "58 min", "a magazine", "May 2026")]
        found = draft(material(runs, foreign=theirs))
        told = [s.plain for s in found.cautions]
        self.assertIn("reached 50.5 °C: stop and separate at 50 °C", told[0])
        self.assertIn("reached 46.0 °C: charging guidance (JEITA) ends full-rate charging at 45 °C", told[1])
        self.assertEqual((found.foreign[0].plain, found.foreign[0].basis),
                         ("Disc on Ostrel Max, 10 to 80 %: 58 min", "a magazine May 2026"))  # fmt: skip

    def test_the_next_run_is_of_what_is_not_settled(self):
        tie = [*repeated("Disc", 100, times=1), *repeated("Dock", 115, times=1)]
        told = draft(material(tie)).next[0]
        self.assertRegex(told.plain, r"^Next, run Ostrel Max on D(isc|ock), .*Disc and Dock are not told apart")
        self.assertRegex(told.plain, r"it settles that with \d+ % probability")
        shown = [*repeated("Disc", 100), *repeated("Pad", 200)]
        self.assertIn("No further run", draft(material(shown)).next[0].plain)
        hot = draft(material(shown, "to 80 %, under 43 °C")).next[0].plain
        self.assertIn("no temperature was logged", hot)

    def test_a_run_that_was_planned_and_never_made_comes_first(self):
        shown = [*repeated("Disc", 100), *repeated("Pad", 200)]
        told = draft(material(shown, wanted=[WantedRun("Quill", "Pad", True, 300.0)])).next[0].plain
        self.assertTrue(told.startswith("Next, run Quill on Pad, 5 h 00"), told)


class Advice(unittest.TestCase):
    def told(self, runs, packs=(), **asker):
        made = material(runs, packs=packs)
        return [s.plain for s in advice(blocks_of(made).blocks, made, Asker(**asker))]

    def test_by_budget_and_fan(self):
        fan = [run("Dock", 70, n, factors=charger("Dock", airflow="charger's own fan")) for n in range(3)]
        runs = [*repeated("Disc", 100), *repeated("Pad", 200), *fan]
        self.assertRegex(self.told(runs)[0], r"Dock, own fan, .* sooner than Disc")
        quiet = self.told(runs, quiet=True)[0]
        self.assertRegex(quiet, r"\): Disc, .* sooner than Pad; Dock, own fan would be \d+ ± \d+ min sooner")
        cheap = self.told(runs, budget=20.0, currency="EUR")[0]
        self.assertRegex(cheap, r"\): Pad, ")
        self.assertIn("none of those compared suits", self.told(runs, budget=5.0)[0])

    def test_a_tie_says_buy_the_cheaper(self):
        found = self.told([*repeated("Disc", 100), *repeated("Dock", 101)])[0]
        self.assertIn("a tie of Disc and Dock: buy the cheaper, Disc, at 34 EUR less", found)

    def test_on_the_way_packs_are_told(self):
        col = pack("Col", 10000, 30.0, [PhoneCharges("Ostrel Max", "coil", Bounds(1.2, 1.3, 1.4), 17.9, 1)], price=69.0)
        found = self.told([*repeated("Disc", 100), *repeated("Pad", 200)], [col], where="on the way")
        self.assertIn("Col: 1.2 to 1.4 charges of Ostrel Max by coil; 69 EUR", found[0])

    def test_for_a_phone_that_nobody_tested_there_is_none(self):
        self.assertIn("no advice", self.told(repeated("Disc", 100), tier="25 W, magnetic")[0])
