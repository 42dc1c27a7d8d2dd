"""Cards, matrices, orders and what a plan can show."""

import unittest
from collections import Counter
from dataclasses import fields, replace
from itertools import pairwise
from typing import get_args, get_type_hints

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.factors import FACTORS, aliased, number_in, said_of
from jaunecharge.core.forecast.chain_forecast import forecast
from jaunecharge.core.forecast.coverage import Row
from jaunecharge.core.kit.items import as_charger
from jaunecharge.core.noise import interval_variance, resolvable
from jaunecharge.core.plan import method
from jaunecharge.core.plan.expected import (
    cool_minutes,
    cooling_minutes,
    drain_minutes,
    learned,
    still_warm_k,
)
from jaunecharge.core.plan.matrix import Choice, ambient_of, cells_of
from jaunecharge.core.plan.method import READY, SCHOOLS, Card, card_flaws, in_words, ready
from jaunecharge.core.plan.order import Turn, ordered
from jaunecharge.core.plan.plan import (
    KnownBefore,
    Ordering,
    cost_said,
    deep_drains,
    make_plan,
    resolutions,
    runs_said,
    shows_said,
    tasks_of,
    trades,
    warm_chargers,
    warnings_of,
)
from jaunecharge.core.schedule.problem import Schedule, Slot
from tests.core.shelf import adapter, case, charger, phone

TEN = ready("from ten to full")
MAX = phone("mpp", label="Ostrel Max", capacity_mah=4700.0, body="large", magnets="built in")
MINI = phone("mpp@12", label="Ostrel Mini", capacity_mah=3350.0, body="small", magnets="built in")
LITE = phone("bpp", label="Quill Lite", capacity_mah=3900.0)
CAIRN = charger("mpp", label="Cairn disc", claimed_w=15.0)
SERAC = charger("mpp", label="Serac dock", claimed_w=15.0, fan="switchable")
MORAINE = charger("magnet-only", label="Moraine pad", claimed_w=15.0)
PLUG, WEAK = adapter("20W", label="Plug 20"), adapter("5V1A", label="Old plug")


def choice(phones=(MAX, MINI), chargers=(CAIRN, MORAINE), wired=False, **more):
    rows = tuple(Row(c) for c in chargers) + ((Row(None),) if wired else ())
    return Choice(**{"phones": tuple(phones), "rows": rows, "adapters": (PLUG,), **more})


def plan(card=TEN, ordering=Ordering(), **more):
    return make_plan(choice(**more), card, ordering)


class Cards(unittest.TestCase):
    def test_every_choice_of_a_card_is_a_school_with_a_line(self):
        types, asked = get_type_hints(Card), {q.field: {s.choice for s in q.schools} for q in SCHOOLS}
        for name in ("start", "end", "ambient", "case", "phone_state", "limits", "adapter_rule", "faster", "airflow"):
            self.assertEqual(asked[name], set(get_args(types[name])), name)
        self.assertEqual(asked["output"], set(get_args(method.Output)))
        self.assertLessEqual(set(asked), {f.name for f in fields(Card)})
        self.assertTrue(all(s.good_for for q in SCHOOLS for s in q.schools))

    def test_the_ready_cards_can_be_kept(self):
        self.assertEqual(
            [c.name for c in READY],
            [
                "From ten to full", "From dead", "Spot check", "To eighty, three repeats", "Soak after full",
                "Chamber 25 °C",
            ],
        )  # fmt: skip
        for card in READY:
            self.assertEqual(card_flaws(card), [], card.name)
            self.assertTrue(card.good_for and in_words(card))
        with self.assertRaises(KeyError):
            ready("from nowhere")

    def test_what_a_card_means(self):
        dead, soak, chamber = ready("from dead"), ready("soak after full"), ready("chamber 25 °C")
        self.assertEqual((dead.starts_at, dead.deep, TEN.deep), (0.0, True, False))
        self.assertEqual((soak.tail_min, soak.ends_at, TEN.tail_min), (120.0, 100, 0.0))
        self.assertEqual((chamber.spread.assumed, TEN.spread.assumed), (0.03, 0.06))
        self.assertEqual(replace(chamber, interval_min=5.0).spread.assumed, 0.06)
        self.assertAlmostEqual(TEN.interval_var, 100.0 / 12.0)
        self.assertEqual((TEN.judged_at, chamber.judged_at, ready("spot check").judged_at), ((80, 100), (80,), ()))

    def test_flaws_name_their_field(self):
        bad = Card(name=" ", start="custom", start_percent=75.0, end="to eighty", output=())
        self.assertEqual({f.field for f in card_flaws(bad)}, {"name", "start_percent", "output"})


class Matrices(unittest.TestCase):
    def cells(self, card=TEN, **more):
        return cells_of(choice(**more), card)

    def test_phones_times_chargers_times_levels(self):
        levels = (("case", ("none", "Thin")), ("ambient", ("22 °C", "30 °C")))
        found = self.cells(levels=levels, cases={"Thin": case(1.2, magnets=True)})
        self.assertEqual(len(found), 2 * 2 * 4)
        warm = next(c for c in found if "30 °C" in c.key and "Thin" in c.key)
        self.assertEqual((warm.around.ambient_c, warm.chain.case.thickness_mm), (30.0, 1.2))
        self.assertEqual((warm.factors["ambient"], warm.factors["method"]), ("30 °C", "From ten to full"))

    def test_a_pointless_pair_is_left_out_with_its_reason_and_can_be_forced(self):
        [cell] = self.cells(phones=(MAX,), chargers=(CAIRN,), adapters=(WEAK,))
        self.assertIn("does not charge", cell.pointless)
        self.assertFalse(cell.wanted)
        [forced] = self.cells(phones=(MAX,), chargers=(CAIRN,), adapters=(WEAK,), forced=frozenset({cell.key}))
        self.assertTrue(forced.wanted)
        self.assertEqual(forced.pointless, cell.pointless)

    def test_a_phone_does_not_charge_itself(self):
        giver = replace(MAX, gives_w=4.5)
        found = self.cells(phones=(giver, MINI), chargers=(as_charger(giver),))
        self.assertEqual([c.chain.phone.label for c in found], ["Ostrel Mini"])

    def test_a_cell_can_be_left_out(self):
        first = self.cells()[0]
        again = self.cells(left_out=frozenset({first.key}))
        self.assertEqual([c.wanted for c in again].count(False), 1)

    def test_a_fan_that_a_charger_does_not_have(self):
        levels = (("airflow", ("still air", "charger's own fan")),)
        found = {c.key.split("|", 1)[1]: c for c in self.cells(phones=(MAX,), chargers=(CAIRN, SERAC), levels=levels)}
        self.assertIn("no fan of its own", found["Cairn disc|airflow=charger's own fan"].pointless)
        self.assertEqual(found["Serac dock|airflow=charger's own fan"].pointless, "")

    def test_the_wired_baseline_is_run_under_one_condition(self):
        found = self.cells(phones=(MAX,), wired=True, levels=(("airflow", ("still air", "fan on the phone")),))
        wired = [c for c in found if c.row.charger is None]
        self.assertEqual([c.wanted for c in wired], [True, False])
        self.assertEqual(wired[0].factors["charger"], "wired")

    def test_each_its_best_adapter_or_one_for_all(self):
        small = charger("bpp", "5V2A", label="Gully puck")
        both = {"adapters": (PLUG, adapter("5V2A", label="Plug 10")), "chargers": (CAIRN, small), "phones": (MAX,)}
        one = self.cells(**both)
        self.assertEqual([c.factors["adapter"] for c in one], ["Plug 20", "Plug 20"])
        best = self.cells(**both, adapter_rule="each its best")
        self.assertEqual([c.factors["adapter"] for c in best], ["Plug 20", "Plug 10"])

    def test_every_factor_can_be_named_and_some_change_the_forecast(self):
        levels = tuple((f.name, ("x", "y")) for f in FACTORS if f.name in {"software", "orientation", "meter_in_line"})
        [cell, *_] = self.cells(phones=(MAX,), chargers=(CAIRN,), levels=levels)
        self.assertEqual(cell.factors["orientation"], "x")
        off = self.cells(phones=(MAX,), chargers=(CAIRN,), levels=(("alignment", ("centred", "6 mm off")),))
        self.assertEqual([c.around.offset_mm for c in off], [0.0, 6.0])
        shared = self.cells(phones=(MAX,), chargers=(CAIRN,), levels=(("shares", ("nothing", "a lamp")),))
        self.assertEqual([c.chain.chargers_on_adapter for c in shared], [1, 2])

    def test_refused_with_the_mend(self):
        bad = [
            ({"phones": ()}, "Pick at least one phone"),
            ({"chargers": ()}, "Pick at least one charger"),
            ({"phones": (replace(MAX, capacity_mah=0.0),)}, "has no capacity"),
            ({"levels": (("colour", ("red",)),)}, "is no factor"),
            ({"levels": (("phone", ("x",)),)}, "follows from kit and card"),
            ({"levels": (("airflow", ("storm",)),)}, "is no airflow"),
            ({"levels": (("ambient", ("warm",)),)}, "is no temperature"),
            ({"levels": (("ambient", ("22 °C", "22 °C")),)}, "levels of ambient"),
            ({"levels": (("orientation", ("=1+1",)),)}, "formula"),
            ({"levels": tuple((n, tuple(f"{i} °C" for i in range(12))) for n in ("ambient", "alignment", "beside"))},
             "cells"),
        ]  # fmt: skip
        for more, said in bad:
            with self.subTest(said), self.assertRaises(CannotRead) as refused:
                self.cells(**more)
            self.assertIn(said, str(refused.exception))
        with self.assertRaisesRegex(CannotRead, "every cell is left out"):
            plan(left_out=frozenset(c.key for c in self.cells()))

    def test_numbers_in_levels(self):
        self.assertEqual((number_in("−5,5 °C"), number_in("none"), ambient_of("22 °C")), (-5.5, None, 22.0))
        self.assertAlmostEqual(ambient_of("72 °F"), 22.222, places=3)
        self.assertRaises(CannotRead, ambient_of, "72 °C")


class Orders(unittest.TestCase):
    def order(self, rule, keys="abc", repeats=3, seed=7, close=True, phones="PQ"):
        return ordered([(p, list(keys)) for p in phones], repeats, rule, seed, close)

    def test_every_order_runs_each_cell_once_a_round(self):
        for rule in ("randomised", "balanced", "as listed"):
            for own in self.order(rule).turns:
                for r in (1, 2, 3):
                    self.assertEqual(sorted(t.key for t in own if t.repeat == r), ["a", "b", "c"])
                self.assertEqual(own[-1], Turn(own[0].phone, own[0].key, 4, closing=True))

    def test_the_lot_can_be_drawn_again_from_its_seed(self):
        self.assertEqual(self.order("randomised"), self.order("randomised"))
        others = {self.order("randomised", seed=s).turns for s in range(10)}
        self.assertGreater(len(others), 5)
        self.assertIn("seed 7", self.order("randomised").why)

    def test_a_balanced_order_has_each_chain_equally_often_at_each_place_and_after_each_other(self):
        [own] = self.order("balanced", "abcd", repeats=4, close=False, phones="P").turns
        rounds = [[t.key for t in own if t.repeat == r] for r in range(1, 5)]
        for place in range(4):
            self.assertEqual(len({r[place] for r in rounds}), 4)
        pairs = Counter(pair for r in rounds for pair in pairwise(r))
        self.assertEqual(set(pairs.values()), {1})
        self.assertEqual(len(pairs), 12)
        [odd] = self.order("balanced", "abc", repeats=6, close=False, phones="P").turns
        threes = Counter(p for r in range(1, 7) for p in pairwise([t.key for t in odd if t.repeat == r]))
        self.assertEqual(set(threes.values()), {2})

    def test_phones_do_not_begin_alike_in_a_balanced_order(self):
        first, second = self.order("balanced", repeats=1).turns
        self.assertNotEqual(first[0].key, second[0].key)

    def test_a_drawn_round_never_begins_with_what_the_last_one_ended_with(self):
        for seed in range(50):
            [own] = self.order("randomised", "ab", 6, seed, False, "P").turns
            self.assertTrue(all(own[i].key != own[i + 1].key for i in range(len(own) - 1)))

    def test_one_chain_alone_is_not_repeated_for_drift(self):
        self.assertEqual(len(self.order("randomised", "a", 1, phones="P").turns[0]), 1)


class Plans(unittest.TestCase):
    def test_runs_drains_and_tasks(self):
        p = plan(ordering=Ordering(repeats=2))
        self.assertEqual(len(p.runs), 2 * (2 * 2 + 1))
        self.assertEqual(runs_said(p), "2 chargers × 2 phones, 2 rounds, 10 runs")
        tasks = tasks_of(p)
        self.assertEqual([i for own in p.sequences() for i in own], [t.id for t in tasks])
        first = tasks[0]
        self.assertEqual((first.adapter, first.attended_min), ("Plug 20", first.minutes))
        self.assertEqual(first.drain_min, drain_minutes(MAX, TEN))

    def test_a_slot_holds_the_forecast_and_the_spread_of_one_run(self):
        p = plan(phones=(MAX,), chargers=(CAIRN,), ordering=Ordering(close=False))
        run = p.runs[0]
        likely = forecast(run.cell.chain, run.cell.around).to[100].likely
        self.assertGreaterEqual(run.expected.minutes, likely * 1.06)
        self.assertLess(run.expected.minutes, likely * 1.06 + 5.0)
        self.assertEqual(run.expected.ribbon.minutes, run.expected.minutes)
        self.assertGreater(run.expected.ribbon.watts[5], run.expected.ribbon.watts[-1])
        drawn = float(run.expected.ribbon.watts.sum()) * run.expected.ribbon.step_min / 60.0
        self.assertAlmostEqual(drawn, run.expected.drawn_wh, delta=0.06 * drawn)

    def test_a_soak_is_left_alone_and_a_first_run_is_not(self):
        soak = plan(ready("soak after full"), phones=(MAX,), chargers=(CAIRN,)).runs[0].expected
        self.assertAlmostEqual(soak.minutes - soak.attended_min, 120.0)
        chamber = ready("chamber 25 °C")
        first = make_plan(choice(), chamber, Ordering())
        self.assertEqual({r.expected.attended_min > 0 for r in first.runs}, {True})
        self.assertTrue(any("somebody stays there" in w for w in warnings_of(first, choice(), Ordering())))
        later = make_plan(choice(), chamber, Ordering(), KnownBefore(frozenset({"Cairn disc", "Moraine pad"})))
        self.assertEqual({r.expected.attended_min for r in later.runs}, {0.0})

    def test_a_spot_check_needs_no_drain_and_shows_no_minutes(self):
        p = plan(ready("spot check"))
        self.assertEqual(set(p.drains.values()), {0.0})
        self.assertEqual({r.expected.minutes for r in p.runs}, {5.0})
        self.assertEqual(resolutions(p), [])
        self.assertIn("watts, not minutes", shows_said(p))
        self.assertEqual(trades(p), [])
        self.assertIn("No drains", cost_said(p))

    def test_what_it_shows_is_the_rule_run_forward(self):
        p = plan(ordering=Ordering(repeats=3, close=False), wired=True)
        found = next(r for r in resolutions(p) if r.phone == "Ostrel Max" and r.percent == 80)
        own = [c for c in p.cells if c.chain.phone is MAX and c.row.charger]
        minutes = sum(p.expected[c.key].to[80] for c in own) / len(own)
        self.assertAlmostEqual(found.minutes, minutes)
        cells = len(p.expected)
        self.assertAlmostEqual(found.single, resolvable(minutes, 3, interval_variance(10.0), measured_dof=cells * 2.0))
        self.assertEqual(found.single, found.ranking, "two chargers are one pair")
        self.assertRegex(shows_said(p), r"Would detect a difference of \*\d+ min\* to 80 % \(\d+ on Ostrel Mini\)")

    def test_a_ranking_of_three_shows_less_than_a_pair(self):
        found = resolutions(plan(chargers=(CAIRN, SERAC, MORAINE)))[0]
        self.assertGreater(found.ranking, found.single)

    def test_how_it_changes_with_repeats_and_interval(self):
        p = plan(ordering=Ordering(repeats=2))
        table = {(t.repeats, t.interval_min): t.difference_min for t in trades(p)}
        self.assertEqual(len(table), 20)
        self.assertLess(table[3, 10.0], table[2, 10.0])
        self.assertLess(table[2, 5.0], table[2, 15.0])
        worst = max(resolutions(p), key=lambda r: (r.percent == 80, r.minutes))
        self.assertAlmostEqual(table[2, 10.0], worst.single)

    def test_one_charger_has_nothing_to_be_compared_with(self):
        self.assertIn("nothing to compare", shows_said(plan(chargers=(CAIRN,))))

    def test_a_charger_that_would_still_be_warm_is_told(self):
        p = plan(chargers=(CAIRN,), ordering=Ordering(close=False))
        first, second = p.runs
        for gap, count in ((0.0, 1), (240.0, 0)):
            slots = (
                Slot(first.id, 0.0, 0.0, 100.0, 120.0), Slot(second.id, 0.0, 100.0 + gap, 200.0 + gap, 220.0 + gap),
            )  # fmt: skip
            found = warm_chargers(p, Schedule(slots, 200.0, 0.0, False, 0.0))
            self.assertEqual(len(found), count)
        self.assertRegex(
            warm_chargers(
                p, Schedule((Slot(first.id, 0, 0, 100, 120), Slot(second.id, 0, 101, 200, 220)), 200, 0, False, 0)
            )[0],
            "Cairn disc is still [0-9]+ K warm from Ostrel Max when Ostrel Mini begins on it",
        )

    def test_drains_to_dead_are_counted(self):
        dead = plan(ready("from dead"), Ordering(close=False))
        self.assertEqual(deep_drains(dead), {"Ostrel Max": 2, "Ostrel Mini": 2})
        self.assertIn("deep discharges", cost_said(dead))
        self.assertEqual(set(deep_drains(plan()).values()), {0})
        self.assertIn("none to dead", cost_said(plan()))

    def warnings(self, card=TEN, ordering=Ordering(), **more):
        made = choice(**more)
        return " ".join(warnings_of(make_plan(made, card, ordering), made, ordering))

    def test_two_things_that_always_change_together(self):
        fan = (("airflow", ("still air", "charger's own fan")),)
        cells = cells_of(choice(chargers=(CAIRN, SERAC), levels=fan), TEN)
        still_serac = frozenset(c.key for c in cells if "Serac" in c.key and "still" in c.key)
        said = self.warnings(chargers=(CAIRN, SERAC), levels=fan, left_out=still_serac)
        self.assertIn("always change together: Cairn disc and airflow “still air”", said)
        self.assertIn("Add one run of Cairn disc with another airflow", said)
        self.assertNotIn("always change together", self.warnings(chargers=(CAIRN, SERAC), levels=fan))

    def test_what_is_mixed_up_on_one_phone_only_says_so(self):
        fan = (("airflow", ("still air", "fan on the phone")),)
        cells = cells_of(choice(chargers=(CAIRN, SERAC), levels=fan), TEN)
        out = {c.key for c in cells if c.chain.phone is MINI and ("Serac" in c.key) == ("still" in c.key)}
        said = self.warnings(chargers=(CAIRN, SERAC), levels=fan, left_out=frozenset(out))
        self.assertIn("On Ostrel Mini: Two things always change together", said)
        self.assertNotIn("On Ostrel Max", said)

    def test_each_its_best_adapter_is_a_bundle(self):
        small = charger("bpp", "5V2A", label="Gully puck")
        both = {"adapters": (PLUG, adapter("5V2A", label="Plug 10")), "chargers": (CAIRN, small), "phones": (MAX,)}
        said = self.warnings(**both, adapter_rule="each its best")
        self.assertIn("Charger and adapter change together on Ostrel Max", said)
        self.assertNotIn("Two things", said)
        self.assertNotIn("change together", self.warnings(**both))

    def test_a_phone_with_a_charger_of_its_own_cannot_be_told_from_it(self):
        cells = cells_of(choice(chargers=(CAIRN, SERAC, MORAINE)), TEN)
        out = {c.key for c in cells if (c.chain.phone is MAX) == ("Serac" in c.key)}
        said = self.warnings(chargers=(CAIRN, SERAC, MORAINE), left_out=frozenset(out))
        self.assertIn("Ostrel Mini and Serac dock", said)

    def test_more_warnings(self):
        listed = self.warnings(ordering=Ordering("as listed", close=False))
        self.assertIn("Charger and time of day", listed)
        self.assertIn("a drift of room", listed)
        self.assertIn("spread of a run is assumed, 6 %", listed)
        self.assertNotIn("is assumed", self.warnings(ordering=Ordering(repeats=3)))
        self.assertIn("Charge limits are left on", self.warnings(replace(TEN, limits="left on")))
        key = next(c.key for c in cells_of(choice(phones=(MAX,), adapters=(WEAK,)), TEN) if "Cairn" in c.key)
        forced = self.warnings(phones=(MAX,), adapters=(WEAK,), forced=frozenset({key}))
        self.assertIn("is run although does not charge", forced)
        self.assertIn("not expected to get to 100 %", forced)
        hot = self.warnings(replace(TEN, ambient_c=45.0))
        self.assertIn("may reach", hot)
        self.assertIn("stop and separate", hot)


class Aliases(unittest.TestCase):
    def said(self, *runs):
        return [a.said for a in aliased([dict(zip(("charger", "airflow", "adapter"), r, strict=True)) for r in runs])]

    def test_a_full_cross_has_none(self):
        runs = [(c, a, "P") for c in "XY" for a in ("still", "fan")]
        self.assertEqual(self.said(*runs), [])

    def test_each_pair_is_told_once(self):
        self.assertEqual(len(self.said(("X", "still", "P"), ("Y", "fan", "P"))), 1)
        self.assertEqual(len(self.said(("X", "still", "P"), ("Y", "fan", "P"), ("Z", "still", "P"))), 1)
        self.assertEqual(len(self.said(("X", "still", "P"), ("Y", "fan", "Q"))), 3)

    def test_a_place_is_a_part_of_its_charger(self):
        runs = [{"charger": "Twin", "place": "left"}, {"charger": "Disc"}]
        self.assertEqual(aliased(runs), [])

    def test_said_with_the_words_of_the_factor(self):
        self.assertEqual(said_of("phone_state"), "phone state")
        [only] = self.said(("X", "still", "P"), ("Y", "fan", "P"))
        self.assertIn("X and airflow “still”", only)


class Times(unittest.TestCase):
    def test_a_drain_takes_hours_and_deeper_ones_longer(self):
        ten, dead = drain_minutes(MAX, TEN), drain_minutes(MAX, ready("from dead"))
        self.assertTrue(120 <= ten <= 240, ten)
        self.assertGreater(dead, ten)
        eighty = drain_minutes(MAX, ready("to eighty, three repeats"))
        self.assertLess(eighty, ten)
        self.assertEqual(ten % 5, 0)

    def test_cooling_by_hand(self):
        # 8 K above the room with τ = 10 min: 10 ln(8/2) min until 2 K are left.
        self.assertAlmostEqual(cooling_minutes(8.0, 10.0), 13.863, places=3)
        self.assertEqual(cooling_minutes(1.5, 10.0), 0.0)
        self.assertAlmostEqual(still_warm_k(8.0, 10.0, 13.863), 2.0, places=3)
        self.assertEqual(cool_minutes(MAX, []), 0.0)

    def test_what_happened_is_learned(self):
        self.assertEqual(learned(150.0, []), 150.0)
        self.assertEqual(learned(150.0, [210.0]), 180.0)
        self.assertEqual(learned(150.0, [100.0] * 9), 105.0)
