"""Runs against each other: window, times, noise, places, gaps; repeats folded; words and warnings."""

import unittest
from dataclasses import replace

import numpy as np

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.log.check_ins import CheckIns, looked_every
from jaunecharge.core.log.fingerprint import Recording, levels_mark
from jaunecharge.core.versus.compare import versus, worth_telling
from jaunecharge.core.versus.contender import Warm, window_energy
from jaunecharge.core.versus.copies import copies
from jaunecharge.core.versus.phone_table import phone_table
from jaunecharge.core.versus.ranking import holm, place_said, ranks
from jaunecharge.core.versus.repeats import fold, grouped
from jaunecharge.core.versus.run_names import around_said, shared_said, told_apart
from jaunecharge.core.versus.sentences import (
    besides_said,
    cell_energy,
    energy_said,
    gap_said,
    heat_said,
    mean_lap,
    noise_said,
    pair_words,
    short_said,
    spread_said,
    summary_said,
    warnings_said,
)
from jaunecharge.core.versus.window import checked_window, crossing, lap, shared_window, span, worthwhile_windows
from tests.cases import practice
from tests.core.contenders import charger, checked, powered, practice_run, steady


class Window(unittest.TestCase):
    def test_the_widest_that_all_share(self):
        self.assertEqual(shared_window([(5, 100), (10, 95), (8, 100)]), (10, 95))

    def test_where_not_all_share_one_that_of_the_most_runs(self):
        self.assertEqual(shared_window([(5, 100), (10, 90), (0, 4)]), (10, 90))
        self.assertEqual(shared_window([(0, 40), (50, 100), (45, 90), (20, 45)]), (50, 90))

    def test_none_where_no_two_share_any(self):
        self.assertIsNone(shared_window([(0, 40), (50, 100)]))
        self.assertIsNone(shared_window([(0, 40), None]))
        self.assertIsNone(shared_window([]))

    def test_windows_worth_offering_say_how_many_runs_cover_them(self):
        spans = [(10, 100)] * 9 + [(10, 80)] * 2 + [(35, 81)]
        found = dict(worthwhile_windows(spans))
        self.assertEqual(found, {(10, 80): 11, (35, 80): 12, (10, 100): 9})
        self.assertEqual(worthwhile_windows(spans)[0][0], (10, 100), "the most points of the most runs")

    def test_a_run_covers_from_its_first_to_its_highest(self):
        self.assertEqual(span(checked([(0, 12), (10, 30), (20, 28)]).course.readings), (12, 30))
        self.assertIsNone(span(checked([(0, 12)]).course.readings))
        self.assertIsNone(span(checked([(0, 12), (10, 12), (20, 9)]).course.readings))
        self.assertIsNone(span(None))

    def test_a_window_that_cannot_be(self):
        for start, end in ((50, 20), (-1, 50), (10, 101), (30, 30), (float("nan"), 50)):
            with self.subTest(window=(start, end)), self.assertRaises(CannotRead):
                checked_window(start, end)


class Times(unittest.TestCase):
    seen = checked([(0, 5), (15, 22), (30, 33), (45, 50)])

    def test_a_start_that_was_read_is_known(self):
        self.assertEqual(crossing(self.seen.course.readings, 5).width, 0.0)

    def test_a_crossing_lies_between_two_check_ins(self):
        found = crossing(self.seen.course.readings, 30)
        self.assertEqual((found.earliest, found.latest, found.middle), (15, 30, 22.5))
        self.assertTrue(15 < found.estimate < 30)

    def test_below_the_first_and_above_the_last_there_is_none(self):
        self.assertIsNone(crossing(self.seen.course.readings, 4))
        self.assertIsNone(crossing(self.seen.course.readings, 51))
        self.assertIsNone(lap(self.seen.course.readings, 4, 50))

    def test_a_lap_between_two_intervals(self):
        found = lap(self.seen.course.readings, 10, 50)
        self.assertEqual((found.earliest, found.latest), (15, 45))
        self.assertTrue(30 < found.estimate < 45)
        self.assertAlmostEqual(found.variance, (15**2 + 15**2) / 12)

    def test_energy_over_a_window_is_that_of_its_minutes(self):
        run = steady("a", 120, course={"power": powered(12, 140)})
        found = window_energy(run.course, (0.0, 0.0), (60.0, 10.0))
        self.assertAlmostEqual(found.value, 12.0)
        parts = {p.source: p.standard for p in found.parts}
        self.assertAlmostEqual(parts["meter"], 0.06)
        self.assertAlmostEqual(parts["when it ended"], 12 * (10 / 60) / 12**0.5)
        self.assertIsNone(window_energy(steady("b", 100).course, (0.0, 0.0), (1.0, 0.0)))

    def test_a_hole_in_the_power_is_bridged(self):
        power = powered(12, 100)
        power.watts[30:50] = np.nan
        self.assertAlmostEqual(power.between(0, 100), 20.0)

    def test_what_a_log_does_not_reach_has_no_energy(self):
        power = powered(12, 100)
        power.watts[:30] = np.nan  # The meter was started half an hour late.
        self.assertIsNone(power.between(0, 100))
        self.assertAlmostEqual(power.between(40, 90), 10.0)
        self.assertIsNone(power.between(40, 140))
        self.assertIsNone(window_energy(steady("a", 100, course={"power": power}).course, (0.0, 0.0), (60.0, 10.0)))
        self.assertIsNone(powered(float("nan"), 100).between(0, 50))


class Copies(unittest.TestCase):
    """The same recording read twice is one run."""

    def made(self, label, minutes, of="", made=0.0, **more):
        run = steady(label, minutes, every=5, factors=charger("a"), **more)
        mark = Recording(of or label, levels_mark(run.course.readings))
        return replace(run, recording=mark, made=made)

    def test_a_copy_is_no_repeat_and_lowers_no_noise(self):
        first, other = self.made("first", 100), steady("b", 130, every=5, factors=charger("b"))
        copy = self.made("again", 100, of="first", made=1.0)
        alone, found = (versus(grouped(runs)) for runs in ([first, other], [first, copy, other]))
        self.assertEqual(found.pairs[0].difference, alone.pairs[0].difference)
        self.assertEqual([(a.key, b.key) for a, b in found.copied], [("again", "first")])
        self.assertIn("first is a copy: the same file, read twice. It is left out.", warnings_said(found))
        repeated = versus(grouped([first, self.made("second", 100, made=1.0), other]))
        self.assertLess(
            repeated.pairs[0].difference.verdict.noise.minutes, alone.pairs[0].difference.verdict.noise.minutes
        )

    def test_the_one_that_was_read_first_stays(self):
        late, early = self.made("late", 100, of="x", made=9.0), self.made("early", 100, of="x", made=2.0)
        self.assertEqual({k: v.label for k, v in copies([late, early]).items()}, {"late": "early"})

    def test_alone_with_its_copy_a_run_is_still_shown_and_it_is_said(self):
        found = versus([self.made("a", 100, of="x"), self.made("b", 100, of="x", made=1.0)])
        self.assertEqual(found.pairs[0].verdict, "no difference shown")
        self.assertIn("b is a copy of a: the same file, read twice. They cannot differ.", warnings_said(found))

    def test_two_runs_cut_from_one_log_are_no_copies(self):
        a, b = self.made("a", 100, of="x"), self.made("b", 100, of="x", made=1.0)
        later = replace(b, recording=replace(b.recording, placed_min=95.0, levels="others"))
        self.assertEqual(copies([a, later]), {})

    def test_two_phones_on_one_meter_are_no_copies(self):
        a = self.made("a", 100, of="x")
        b = replace(self.made("b", 130, of="x", made=1.0), factors=charger("a", phone="Tarn 9"))
        self.assertEqual(copies([a, b]), {})

    def test_the_same_check_ins_without_the_meter_are_a_copy_and_few_may_agree_by_chance(self):
        a, b = self.made("a", 100), self.made("b", 100, made=1.0)
        bare = replace(b, recording=replace(b.recording, meter=""))
        self.assertEqual(list(copies([a, bare])), ["b"])
        few = [
            replace(checked([(0, 10), (40, 50), (80, 90)], key, made=float(n)), recording=Recording())
            for n, key in enumerate("ab")
        ]
        self.assertEqual(copies(few), {})
        self.assertEqual(levels_mark(few[0].course.readings), "")

    def test_a_table_of_phones_and_chargers_counts_a_run_once(self):
        runs = [self.made("a", 100), self.made("b", 100, of="a", made=1.0), steady("c", 120, factors=charger("c"))]
        (field,) = (f for f in phone_table(runs).fields.values() if f.charger == "a")
        self.assertEqual(len(field.runs), 1)


class HeatAndEnergy(unittest.TestCase):
    """What is ranked is comparable: rooms, batteries, and differences beyond what a probe repeats."""

    def warm(self, label, hottest, room, **more):
        rise = None if room is None else hottest - room
        course = {"warm": Warm(hottest, rise), "room_c": room}
        return steady(label, 100, every=5, factors=charger(label, ambient=""), course=course, ambient_c=room, **more)

    def said(self, *runs):
        (heat,) = heat_said(versus(runs))
        return heat

    def test_where_rooms_differ_heat_is_told_over_the_room(self):
        told = self.said(self.warm("a", 38.0, 22.0), self.warm("b", 40.0, 27.0))
        self.assertEqual(told, "Hottest from 10 to 100 %: a, *16.0 K over its room*; coolest: b, 13.0 K over its room")
        alike = self.said(self.warm("a", 38.0, 23.0), self.warm("b", 41.0, 24.0))
        self.assertEqual(alike, "Hottest from 10 to 100 %: b, *41.0 °C*; coolest: a, 38.0 °C")

    def test_within_what_a_probe_repeats_there_is_no_difference(self):
        self.assertIn("*no difference shown*", self.said(self.warm("a", 38.0, 23.0), self.warm("b", 39.5, 23.0)))
        self.assertIn("*no difference shown*", self.said(self.warm("a", 38.0, 22.0), self.warm("b", 43.5, 27.0)))

    def test_where_a_room_is_not_known_nobody_is_hottest(self):
        self.assertIn("cannot be compared", self.said(self.warm("a", 38.0, 22.0), self.warm("b", 43.0, None)))
        self.assertIn("Hottest", self.said(self.warm("a", 38.0, None), self.warm("b", 43.0, None)))

    def test_energy_is_ranked_on_one_phone_only(self):
        def run(label, watts, **more):
            return steady(label, 100, every=5, factors=charger(label, **more), course={"power": powered(watts, 140)})

        both = energy_said(versus([run("a", 12.0), run("b", 15.0), run("c", 8.0, phone="Quill Lite")]))
        self.assertEqual(len(both), 1)
        self.assertIn("Least energy at the meter from 10 to 100 %: a", both[0])
        self.assertEqual(energy_said(versus([run("a", 12.0), run("c", 8.0, phone="Quill Lite")])), [])


class LookedEvery(unittest.TestCase):
    """Of three check-ins with the stated spacing between looks: the spacing bounds when each was reached."""

    few = CheckIns(np.array([0.0, 2400.0, 4200.0]), np.array([10.0, 50.0, 80.0]))

    def test_it_bounds_what_was_written_down(self):
        plain, bound = crossing(self.few, 80), crossing(looked_every(self.few, 300.0), 80)
        self.assertEqual((plain.earliest, plain.latest), (40, 70))
        self.assertEqual((bound.earliest, bound.estimate, bound.latest), (65, 70, 70))

    def test_a_percentage_in_between_lies_anywhere_in_between(self):
        found = crossing(looked_every(self.few, 300.0), 60)
        self.assertEqual((found.earliest, found.latest), (40, 70))

    def test_a_gap_in_a_list_of_all_looks_is_a_gap(self):
        at = np.array([*range(0, 61, 5), 90.0]) * 60.0
        night = CheckIns(at, np.linspace(10, 80, len(at)))
        found = crossing(looked_every(night, 300.0), 80)
        self.assertEqual((found.earliest, found.latest), (60, 90))


class Practice(unittest.TestCase):
    """Check values of practitioners: common practice, no published source (tests/data/practice.json)."""

    def test_a_newer_pack_against_an_older_one(self):
        expected = next(e for e in practice()["expect"] if e["of"].startswith("p1 against p2"))
        found = versus([practice_run("p1"), practice_run("p2")])
        (pair,) = found.pairs
        self.assertEqual(found.window, (5, 100))
        self.assertAlmostEqual(pair.difference.verdict.minutes_saved, expected["minutes_saved"])
        self.assertAlmostEqual(pair.difference.less_time_percent, expected["less_time_percent"], delta=0.05)
        self.assertAlmostEqual(pair.difference.higher_rate_percent, expected["higher_rate_percent"], delta=0.05)
        self.assertEqual(pair.verdict, expected["verdict"])
        self.assertEqual(found.rank, (1, 2))

    def test_percentages_of_time(self):
        for of, fast, slow in (("170 against 120 min", 120, 170), ("150 against 110 min", 110, 150)):
            expected = next(e for e in practice()["expect"] if e["of"] == of)
            (pair,) = versus([steady("slow", slow), steady("fast", fast)]).pairs
            self.assertAlmostEqual(pair.difference.verdict.minutes_saved, -expected["minutes_saved"])
            self.assertAlmostEqual(pair.difference.less_time_percent, expected["less_time_percent"], delta=0.05)
            self.assertAlmostEqual(pair.difference.higher_rate_percent, expected["higher_rate_percent"], delta=0.05)

    def test_ten_minutes_apart_are_noise(self):
        (pair,) = versus([steady("a", 160), steady("b", 170)]).pairs
        self.assertEqual(pair.verdict, "no difference shown")

    def test_the_same_pair_on_two_days(self):
        (pair,) = versus([steady("a", 88, every=5), steady("b", 74, every=5)]).pairs
        self.assertEqual(pair.verdict, "no difference shown", "common practice: 88 and 74 min on two days")


class Repeats(unittest.TestCase):
    def setUp(self):
        self.fast = [steady(f"f{n}", t, group="fast", factors=charger("Fast")) for n, t in enumerate((100, 110, 105))]
        self.slow = [steady(f"s{n}", t, group="slow", factors=charger("Slow")) for n, t in enumerate((140, 130, 135))]

    def test_they_are_one_row_with_their_mean(self):
        found = versus([*self.fast, *self.slow])
        self.assertEqual([c.label for c in found.cells], ["fast", "slow"])
        self.assertAlmostEqual(found.timed.sides.minutes[0], (100 + 110 + 110) / 3)
        self.assertEqual(found.timed.spreads[False].measured_dof, 4)

    def test_they_show_what_single_runs_do_not(self):
        single = versus([self.fast[0], self.slow[2]]).pairs[0]
        folded = versus([*self.fast, *self.slow]).pairs[0]
        self.assertLess(folded.difference.verdict.noise.minutes, single.difference.verdict.noise.minutes / 1.5)
        self.assertEqual(folded.verdict, "a faster")

    def test_welch_stands_beside_where_both_have_three(self):
        low, high = versus([*self.fast, *self.slow]).timed.welch(0, 1)
        self.assertTrue(0 < low < 30 < high)
        self.assertIsNone(versus([*self.fast[:2], *self.slow]).timed.welch(0, 1))

    def test_identical_results_never_make_the_spread_zero(self):
        same = [steady(f"r{n}", 100, group=g, factors=charger(g)) for n, g in enumerate("aaabbb")]
        (pair,) = versus(same).pairs
        self.assertGreater(pair.difference.verdict.noise.minutes, 3.0)

    def test_repeats_alone_are_held_against_each_other(self):
        found = versus(self.fast)
        self.assertEqual(len(found.pairs), 3)
        self.assertTrue(all(p.apart.fair == "fair" for p in found.pairs))

    def test_one_that_does_not_cover_the_window_is_left_out_and_named(self):
        short = steady("f9", 100, to=60, group="fast", factors=charger("Fast"))
        found = versus([*self.fast, short, *self.slow], 10, 100)
        self.assertEqual(len(found.cells[0].runs), 3)
        self.assertIn("f9 covers 10 to", found.dropped[0])
        self.assertTrue(any(w.startswith("A repeat is left out: f9 covers") for w in warnings_said(found)))

    def test_what_states_the_same_is_grouped(self):
        runs = [steady(f"r{n}", t, factors=charger("Larch")) for n, t in enumerate((100, 104))]
        other = steady("o", 100, factors=charger("Larch", case="Rubber case"))
        bare = [steady("b1", 100), steady("b2", 100)]
        cells = fold(grouped([*runs, other, *bare]))
        self.assertEqual([len(c.runs) for c in cells], [2, 1, 1, 1], "nobody knows whether bare runs are repeats")

    def test_repeats_in_rooms_that_count_as_equal_have_one_name(self):
        rooms = (22.0, 22.0, 22.0, 23.5, 25.0)
        runs = [steady(f"r{n}", 100, key=f"{n}", factors=charger(c, ambient=""), ambient_c=room)
                for n, (c, room) in enumerate(zip("xxxyy", rooms, strict=True))]  # fmt: skip
        cells = fold(grouped(told_apart(runs)))
        self.assertEqual([c.label for c in cells], ["x", "y"])

    def test_another_room_or_method_is_no_repeat(self):
        a = steady("a", 100, factors=charger("Larch"), ambient_c=22)
        for apart in ({"ambient_c": 27.0}, {"ambient_c": 22.0, "start": 40.0}, {"ambient_c": 22.0, "card": "Other"}):
            b = steady("b", 100, factors=charger("Larch"), **apart)
            cells = fold(grouped([a if "card" not in apart else steady("a", 100, factors=charger("Larch"), card="One",
                                                                       ambient_c=22.0), b]))  # fmt: skip
            self.assertEqual(len(cells), 2, apart)

    def test_settling_takes_fewer_repeats_of_a_larger_difference(self):
        more = []
        for slow in (104, 110, 116, 121):
            found = versus([steady("a", 100, every=5), steady("b", slow, every=5)])
            self.assertEqual(found.pairs[0].verdict, "no difference shown")
            more.append(found.timed.repeats_to_settle(0, 1))
        self.assertIsNone(more[0])
        known = [m for m in more if m is not None]
        self.assertEqual(known, sorted(known, reverse=True))
        self.assertGreater(len(known), 2)

    def test_a_chamber_with_a_continuous_log_has_a_smaller_spread(self):
        room, chamber = (
            versus([steady("a", 100, every=1, chamber=c), steady("b", 116, every=1, chamber=c)]).pairs[0]
            for c in (False, True)
        )
        self.assertEqual((room.verdict, chamber.verdict), ("no difference shown", "a faster"))
        mixed = versus([steady("a", 100, every=1, chamber=True), steady("b", 116, every=1)]).pairs[0]
        self.assertEqual(mixed.verdict, "no difference shown", "one of them was made in a room")


class Places(unittest.TestCase):
    def test_a_place_is_a_range_where_the_times_do_not_tell(self):
        self.assertEqual([place_said(1, 1, 8), place_said(2, 6, 8), place_said(0, 0, 8)], ["1", "2 to 6 of 8", "–"])
        found = versus([steady("a", 100, every=5), steady("b", 106, every=5), steady("c", 190, every=5)])
        self.assertEqual((found.rank, found.last_rank), ((1, 1, 3), (2, 2, 3)))
        # The middle one may hold any place: neither of the others is shown to differ from it.
        found = versus([steady("a", 100, every=5), steady("b", 122, every=5), steady("c", 145, every=5)])
        self.assertEqual((found.rank, found.last_rank), ((1, 1, 2), (2, 3, 3)))

    def test_of_repeats_the_one_nearest_their_mean_stands_for_the_row(self):
        runs = [steady("r", t, every=1, group="r") for t in (100, 131, 112)]
        self.assertEqual(versus([*runs, steady("b", 90, every=1)]).timed.typical(0), 2)

    def test_shared_where_nothing_is_shown(self):
        found = versus([steady("a", 100, every=5), steady("b", 106, every=5), steady("c", 190, every=5)])
        self.assertEqual(found.rank, (1, 1, 3))

    def test_holm_is_stricter_than_each_pair_by_itself(self):
        runs = [steady("a", 100, every=5), steady("b", 142, every=5)]
        self.assertEqual(versus(runs).rank, (1, 2))
        # The same two among many of their kind, which nobody picked beforehand.
        many = [*runs, *(steady(f"r{n}", 118 + n, every=5) for n in range(8))]
        found = versus(many)
        self.assertEqual(found.pair(0, 1).verdict, "a faster")
        self.assertEqual(found.rank[1], 1)

    def test_a_step_that_fails_stops_all_later_ones(self):
        self.assertEqual(holm(np.array([0.001, 0.03, 0.02, np.nan])).tolist(), [True, True, True, False])
        self.assertEqual(holm(np.array([0.001, 0.03, 0.04])).tolist(), [True, False, False])
        self.assertEqual(holm(np.array([])).tolist(), [])

    def test_a_place_counts_those_shown_to_be_faster(self):
        self.assertEqual(ranks(4, np.array([2, 2, 3])).tolist(), [1, 1, 3, 2])

    def test_what_covers_no_window_has_no_place(self):
        found = versus([steady("a", 100), steady("b", 120), steady("c", 100, to=50)], 10, 80)
        self.assertEqual(found.rank[2], 0)
        self.assertEqual(found.pair(0, 2).apart.fair, "not comparable")
        self.assertIn("c covers 10 to", found.unfit[2])


class Refused(unittest.TestCase):
    def refused(self, *runs, **more):
        with self.assertRaises(CannotRead) as caught:
            versus(runs, **more)
        return str(caught.exception)

    def test_one_run_only(self):
        self.assertIn("one run only", self.refused(steady("a", 100)))
        self.assertIn("no run is given", self.refused())

    def test_no_shared_window(self):
        said = self.refused(steady("a", 100, to=40), steady("b", 100, start=60.0))
        self.assertIn("a covers 10 to", said)
        self.assertIn("share no window", said)

    def test_runs_without_check_ins(self):
        self.assertIn("no check-ins that rise", self.refused(steady("a", 100), checked([(0, 50), (10, 50)], "flat")))

    def test_a_window_that_only_one_covers(self):
        self.assertIn("nothing is left", self.refused(steady("a", 100), steady("b", 100, to=50), start=10, end=90))

    def test_a_window_within_one_step_of_the_readings(self):
        seldom = [(0, 0), (1, 20), (2, 41), (3, 62)]
        late = [(0, 42), (1, 48), (2, 55), (3, 62)]
        said = self.refused(checked(seldom, "a"), checked(seldom, "b"), checked(late, "c"))
        self.assertIn("a has no reading between 42 and 62 %", said)

    def test_beside_two_that_were_read_on_the_way_it_is_left_out(self):
        seldom, late = [(0, 0), (2, 41), (3, 62)], [(0, 42), (1, 48), (2, 55), (3, 62)]
        found = versus([checked(seldom, "a"), checked(late, "b"), checked(late, "c", key="d")])
        self.assertEqual(found.rank, (0, 1, 1))
        self.assertIn("a has no reading between", found.unfit[0])
        self.assertEqual([p.difference is None for p in found.pairs], [True, True, False])


class Words(unittest.TestCase):
    def setUp(self):
        self.found = versus(
            told_apart([
                steady("x", 100, factors=charger("Larch"), course={"power": powered(15, 100), "warm": Warm(41.0)}),
                steady("y", 180, factors=charger("Moraine"), course={"power": powered(9, 180), "warm": Warm(31.0)}),
            ])
        )  # fmt: skip

    def test_a_difference_with_its_minutes_window_and_both_rates(self):
        words = pair_words(self.found, self.found.pairs[0])
        self.assertRegex(words.said, r"^Larch is sooner than Moraine by \*80 ± \d+ min\* from 10 to 100 %$")
        self.assertEqual(words.rates, "44 % less time, 80 % higher rate")
        self.assertEqual(words.fair, "fair: only the charger differs")

    def test_the_word_faster_is_never_used_of_a_time(self):
        told = [*summary_said(self.found), pair_words(self.found, self.found.pairs[0]).said]
        self.assertFalse([t for t in told if "faster" in t])

    def test_no_difference_says_what_would_settle_it(self):
        found = versus([steady("a", 100, every=5), steady("b", 116, every=5)])
        words = pair_words(found, found.pairs[0])
        self.assertIn("*no difference shown*", words.said)
        self.assertRegex(words.settle, r"^\d+ more runs? of each would show")
        self.assertEqual(words.rates, "")
        tiny = versus([steady("a", 100, every=5), steady("b", 103, every=5)])
        self.assertEqual(pair_words(tiny, tiny.pairs[0]).settle, "Too close to tell with these check-ins")

    def test_rows_and_sentences_are_one_calculation(self):
        for one, two in ((81, 87), (70, 120), (100, 103)):
            for every in (5, 10, 30):
                with self.subTest(one=one, two=two, every=every):
                    found = versus([steady("a", one, every=every), steady("b", two, every=every)])
                    rows = [mean_lap(found.timed.laps[n])[1] for n in (0, 1)]
                    difference = found.pairs[0].difference
                    self.assertAlmostEqual(difference.verdict.minutes_saved, rows[1] - rows[0])
                    if not difference.verdict.shown:
                        shown = [round(x) for x in rows]
                        said = f"({shown[0]} and {shown[1]} min, {abs(shown[1] - shown[0])} min apart, noise "
                        self.assertIn(said, pair_words(found, found.pairs[0]).said)

    def test_who_was_looked_at_less_often_is_not_slower_by_that(self):
        """Two of one pace, seen every 2 and every 40 min: their first sightings of 100 % differ, they do not."""
        found = versus([steady("a", 101, every=2), steady("b", 101, every=40)])
        self.assertEqual(found.pairs[0].verdict, "no difference shown")
        self.assertGreater(found.pairs[0].difference.verdict.noise.standard, 19.0)

    def test_the_whole(self):
        said = " ".join(summary_said(self.found))
        self.assertIn("Soonest from 10 to 100 %: *Larch*, 1 h 40", said)
        self.assertIn("Hottest from 10 to 100 %: Larch, *41.0 °C*; coolest: Moraine, 31.0 °C", said)
        self.assertIn("105.8 °F", " ".join(summary_said(self.found, fahrenheit=True)))

    def test_energy_is_told_apart_only_beyond_its_uncertainty(self):
        def energies(minutes, watts):
            runs = [
                steady(label, m, every=1, course={"power": powered(w, m)})
                for label, m, w in zip("ab", minutes, watts, strict=True)
            ]
            return next(s for s in summary_said(versus(runs)) if "nergy" in s)

        self.assertIn("no difference shown", energies((100, 100), (15, 15.05)))
        self.assertIn("b takes 20 % more", energies((100, 100), (15, 18)))

    def test_energy_of_a_row_is_the_mean_of_its_repeats(self):
        runs = [steady(f"r{n}", 100, group="g", course={"power": powered(w, 120)}) for n, w in enumerate((12, 18))]
        found = versus([*runs, steady("b", 120)])
        # Over the window from placing to the first sight of 100 %, 100 min.
        self.assertAlmostEqual(cell_energy(found.cells[0], found.timed.laps[0]).value, 25.0)

    def test_the_noise_is_told_with_its_own_numbers(self):
        verdict = self.found.pairs[0].difference.verdict
        said = noise_said(self.found.timed, 0, 1, verdict.noise)
        self.assertIn("6 % assumed", said)
        self.assertIn(f"u = {verdict.noise.standard:.2f} min", said)
        self.assertIn("100.0 and 180.0 min", said)
        self.assertIn("one run each", said)
        self.assertEqual(spread_said(self.found.timed), "run-to-run spread 6 % (assumed, in a room; no repeats yet)")

    def test_gaps_and_short_words(self):
        pair = self.found.pairs[0]
        self.assertRegex(
            gap_said(self.found, pair, pair.gap), r"^largest gap: Larch \d+ points ahead, 1 h \d\d after placing"
        )
        self.assertEqual(short_said(pair.difference, "A", "B")[1], True)

    def test_the_other_milestones_in_half_a_line(self):
        self.assertEqual(
            besides_said(10, [(50, "", False), (80, "A 9 ± 4 min sooner", True), (100, "", False)], "2 more runs"),
            "from 10 to 50 and 100 %: no difference shown; to 80 %: A 9 ± 4 min sooner; 2 more runs",
        )
        self.assertEqual(besides_said(10, [], ""), "")

    def test_fair_pairs_are_told_first(self):
        runs = [
            steady("a", 100, factors=charger("Larch", case="Rubber case")),
            steady("b", 180, factors=charger("Moraine")),
            steady("c", 150, factors=charger("Cairn")),
        ]
        self.assertEqual([p.apart.fair for p in worth_telling(versus(runs))], ["fair", "bundle", "bundle"])

    def test_what_to_be_careful_about(self):
        runs = [
            steady("a", 100, course={"contacts": ((20.0, 26.0),)}),
            checked([(0, 10), (30, 40), (40, 38), (90, 100)], "fell"),
            steady("s", 120, simulated=True),
            steady("t", 125, simulated=True),
        ]
        said = " ".join(warnings_said(versus(runs)))
        for expected in (
            "a lost contact for 6 min", "fell: the percentage fell", "Simulated runs are forecasts",
            "Stated by no run, so taken as equal: phone, charger", "6 % of its time, not measured",
        ):  # fmt: skip
            self.assertIn(expected, said)
        unsure = replace(powered(12, 100), unsure=True)
        blind = versus(
            [steady("a", 100, course={"power": unsure}), steady("b", 120, course={"power": powered(12, 120)})]
        )
        self.assertTrue(any("accuracy is not known for a, and" in w for w in warnings_said(blind)))
        narrow = versus([steady("a", 100), steady("b", 120)], 50, 60)
        self.assertIn("is narrow", " ".join(warnings_said(narrow)))

    def test_a_fall_while_a_charge_limit_holds_is_no_lost_placement(self):
        held = checked([(0, 10), (60, 80), (90, 79), (120, 79), (150, 95)], "held", {"holds": ((60.0, 130.0),)})
        said = " ".join(warnings_said(versus([held, steady("b", 100)], 10, 70)))
        self.assertNotIn("fell", said)


class Names(unittest.TestCase):
    def test_by_the_charger_and_what_most_do_not_state(self):
        runs = told_apart([
            steady("1", 100, factors=charger("Larch")),
            steady("2", 100, factors=charger("Moraine")),
            steady("3", 100, factors=charger("Larch", airflow="charger's own fan")),
            steady("4", 100, factors=charger("Larch", adapter="Plug 18", case="Rubber case")),
            steady("5", 100, factors=charger("Col", adapter="none (a pack)", cable="")),
            steady("6", 100, factors=charger("wired"), start=40.0),
            steady("7", 100),
        ])  # fmt: skip
        self.assertEqual(
            [r.label for r in runs],
            ["Larch", "Moraine", "Larch, own fan", "Larch, on Plug 18, Rubber case", "Col", "wired, from 40 %", "7"],
        )

    def test_by_the_phone_where_several_are_compared(self):
        runs = told_apart([
            steady("1", 100, factors=charger("Larch", place="left")),
            steady("2", 100, factors=charger("Larch", phone="Tarn 9"), ambient_c=30.0),
            steady("3", 100, factors=charger("Larch", phone="Tarn 9"), ambient_c=22.0),
        ])  # fmt: skip
        self.assertEqual(
            [r.label for r in runs], ["Ostrel Max × Larch, left", "Tarn 9 × Larch, 30 °C", "Tarn 9 × Larch"]
        )

    def test_what_is_common_and_what_is_not(self):
        a, b = told_apart([steady("1", 100, factors=charger("Larch")), steady("2", 1e2, factors=charger("Moraine"))])
        shared = {k: v for k, v in a.factors.items() if k != "charger"}
        self.assertEqual(
            shared_said(shared), "Ostrel Max, Plug 20 adapter, Braided 1.5, no case, still air, idle, 23 °C"
        )
        self.assertEqual(around_said(b, shared), "")
        self.assertIn("no case", around_said(b, {}))


if __name__ == "__main__":
    unittest.main()
