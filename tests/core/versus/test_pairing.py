"""Fair or not: what differs, what is unknown, order and carry-over, what is no pair, and what to compare instead."""

import unittest

from jaunecharge.core.factors import with_own_supply
from jaunecharge.core.versus.compare import versus
from jaunecharge.core.versus.fair_offers import distinct, factor_asked, missing_said, nearest
from jaunecharge.core.versus.pairing import COOL_MIN, differences, fair_said, previous_ends, stated_by_neither, unfit
from jaunecharge.core.versus.sentences import survey_said
from tests.core.contenders import charger, checked, steady


def run(label, factors=None, **more):
    return steady(label, 100, factors=charger(label) if factors is None else factors, **more)


class Factors(unittest.TestCase):
    def said(self, a, b):
        found = differences(a, b)
        return found.fair, fair_said(found)

    def test_one_that_differs_is_fair(self):
        self.assertEqual(self.said(run("a"), run("b")), ("fair", "fair: only the charger differs"))

    def test_none_is_a_repeat(self):
        same = charger("Larch")
        self.assertEqual(self.said(run("a", same), run("b", same)), ("fair", "fair: repeats, no factor differs"))

    def test_two_are_a_bundle(self):
        found = self.said(run("a"), run("b", charger("b", case="Rubber case")))
        self.assertEqual(found, ("bundle", "a bundle: charger and case or magnet ring both differ"))
        three = charger("b", case="Rubber case", adapter="Plug 18")
        self.assertIn("adapter and case or magnet ring all differ", self.said(run("a"), run("b", three))[1])

    def test_stated_by_one_only_is_unknown(self):
        found = self.said(run("a"), run("b", charger("b", case="")))
        self.assertEqual(found[0], "unknown")
        self.assertIn("charger differs, and case or magnet ring is stated by one of them only", found[1])

    def test_a_bundle_stays_one_whatever_is_unknown(self):
        found = self.said(run("a"), run("b", charger("b", case="", adapter="Plug 18")))
        self.assertEqual(found[0], "bundle")
        self.assertIn("case or magnet ring stated by one only", found[1])

    def test_stated_by_neither_counts_as_equal_and_is_listed(self):
        a, b = run("a", charger("a", cable="")), run("b", charger("b", cable=""))
        self.assertEqual(differences(a, b).fair, "fair")
        self.assertIn("cable", stated_by_neither(a, b))
        self.assertNotIn("ambient", stated_by_neither(a, b))

    def test_equal_levels_are_alike_however_they_are_written(self):
        a = run("a", charger("a", case="None", adapter="20 W plug", ambient="23 °C"))
        b = run("b", charger("b", case="no case", adapter=" 20W  Plug", ambient="23°C"))
        self.assertEqual(differences(a, b).differs, ("charger",))

    def test_rooms_within_two_kelvin_are_equal(self):
        def rooms(x, y):
            return differences(run("a", ambient_c=x), run("b", ambient_c=y))

        self.assertEqual(rooms(22.0, 24.0).differs, ("charger",))
        self.assertEqual(rooms(22.0, 24.5).differs, ("charger", "ambient"))
        bare = [run(x, charger(x, ambient="")) for x in "ab"]
        self.assertEqual(differences(*bare).unknown, ())
        known = run("c", charger("c", ambient=""), ambient_c=22.0)
        self.assertEqual(differences(bare[0], known).unknown, ("ambient",))

    def test_a_room_in_words_counts_by_its_figure(self):
        a, b = run("a", charger("a", ambient="about 22 °C")), run("b", charger("b"), ambient_c=23.5)
        self.assertEqual(differences(a, b).fair, "fair")
        words = [run(x, charger(x, ambient=room)) for x, room in (("a", "cellar"), ("b", "attic"))]
        self.assertEqual(differences(*words).differs, ("charger", "ambient"))

    def test_a_part_of_what_differs_does_not_count_besides(self):
        a, b = run("a", charger("Twin", place="left")), run("b", charger("Larch"))
        self.assertEqual(differences(a, b).fair, "fair")
        right = run("c", charger("Twin", place="right"))
        self.assertEqual(differences(a, right).differs, ("place",))
        other = run("d", charger("Twin", place="left", phone="Tarn 9", software="6.2"))
        self.assertEqual(differences(a, other).differs, ("phone",))

    def test_a_pack_brings_its_own_supply(self):
        a, b = run("a"), run("b", charger("Col", adapter="none (a pack)", cable=""))
        self.assertEqual(differences(a, b).differs, ("charger",))
        self.assertEqual(differences(a, b).fair, "fair")

    def test_who_needs_no_adapter_states_that(self):
        self.assertEqual(with_own_supply({"charger": "Col"}, "pack")["adapter"], "none (a pack)")
        self.assertEqual(with_own_supply({"charger": "Col", "adapter": "Plug 20"}, "pack")["adapter"], "Plug 20")
        self.assertNotIn("adapter", with_own_supply({"charger": "Larch"}, "charger"))

    def test_a_factor_that_nobody_here_knows_counts_too(self):
        a, b = run("a", {"charger": "x", "glue_dots": "two"}), run("b", {"charger": "x", "glue_dots": "four"})
        self.assertEqual(differences(a, b).differs, ("glue_dots",))
        self.assertEqual(fair_said(differences(a, b)), "fair: only the glue dots differs")


class Method(unittest.TestCase):
    def test_schools_are_told_but_do_not_part_over_the_window_they_share(self):
        dead = steady("a", 120, start=0.0, factors=charger("a", method="From dead", start="0 %"), card="From dead",
                      interval_min=5.0)  # fmt: skip
        ten = steady("b", 100, factors=charger("b", method="From ten to full", start="10 %"), card="From ten to full",
                     interval_min=15.0, chamber=True)  # fmt: skip
        found = differences(dead, ten)
        self.assertEqual((found.fair, found.differs), ("fair", ("charger",)))
        said = " ".join(found.method)
        for expected in ("started at 0 and 10 %", "“From dead”", "every 5 and 15 min", "in a chamber"):
            self.assertIn(expected, said)


class Order(unittest.TestCase):
    def test_a_warm_start_of_one_is_one_more_difference(self):
        warm = run("a", course={"start_c": 33.0, "room_c": 24.0})
        cool = run("b", course={"start_c": 24.5, "room_c": 24.0})
        found = differences(warm, cool)
        self.assertEqual(found.fair, "bundle")
        self.assertIn("a began with the phone 9.0 K over the room", found.order[0])
        self.assertIn("charger and phone's warmth at the start both differ", fair_said(found))

    def test_repeats_of_which_one_began_warm_differ_in_just_that(self):
        warm, cool = ({"start_c": c, "room_c": 24.0} for c in (33.0, 24.0))
        same = charger("Larch")
        found = differences(run("a", same, course=warm), run("b", same, course=cool))
        self.assertEqual(fair_said(found), "fair: only the phone's warmth at the start differs")
        self.assertFalse(found.repeats)

    def test_both_warm_alike_is_fair(self):
        warm = [run(x, course={"start_c": c, "room_c": 24.0}) for x, c in (("a", 33.0), ("b", 32.0))]
        self.assertEqual(differences(*warm).fair, "fair")

    def test_the_same_phone_run_twice_without_cooling(self):
        def at(label, began, **more):
            return run(label, began_min=began, ended_min=began + 100, key=label, **more)

        runs = [at("first", 0.0), at("second", 100.0 + COOL_MIN / 2), at("third", 2000.0)]
        gaps = previous_ends(runs)
        self.assertEqual(gaps, {"second": COOL_MIN / 2, "third": 2000.0 - 200.0 - COOL_MIN / 2})
        first, second, third = (at(r.label, r.began_min, after=gaps.get(r.label)) for r in runs)
        self.assertEqual(differences(first, third).fair, "fair")
        self.assertIn("min after another run of the same phone", differences(first, second).order[0])
        self.assertEqual(differences(second, third).fair, "bundle")

    def test_a_probe_that_saw_it_cool_counts_instead(self):
        cool = {"start_c": 24.0, "room_c": 24.0}
        a, b = run("a", after=5.0, course=cool), run("b", course=cool)
        self.assertEqual(differences(a, b).fair, "fair")

    def test_other_phones_do_not_warm_it(self):
        runs = [run("a", key="a", began_min=0.0, ended_min=90.0),
                run("b", charger("b", phone="Tarn 9"), key="b", began_min=95.0, ended_min=200.0)]  # fmt: skip
        self.assertEqual(previous_ends(runs), {})

    def test_a_survey_in_a_row_asks_for_the_first_again(self):
        def survey(names):
            return [run(n, began_min=110.0 * k, after=10.0 if k else None) for k, n in enumerate(names)]

        self.assertIn("Repeat the first at the end", survey_said(survey("abc"))[0])
        self.assertEqual(survey_said(survey("abca")), [])
        self.assertEqual(survey_said(survey("ab")), [])


class NoPair(unittest.TestCase):
    def test_a_charge_limit_on_the_way(self):
        held = checked([(0, 10), (60, 80), (150, 80), (200, 100)], "held", {"holds": ((60.0, 150.0),)})
        self.assertIn("a charge limit held held for 90 minutes", unfit(held, (10, 100)))
        self.assertEqual(unfit(held, (10, 80)), "", "it was reached before the limit held")
        self.assertIn("charge limit", versus([held, steady("b", 150), steady("c", 160)], 10, 90).unfit[0])

    def test_void_and_bare_runs(self):
        self.assertIn("is void", unfit(run("a", outcome="void"), None))
        self.assertIn("no check-ins that rise", unfit(checked([(0, 10)], "bare"), None))

    def test_simulated_against_measured(self):
        found = differences(run("a", simulated=True), run("b"))
        self.assertEqual((found.fair, found.apart), ("not comparable", "a is simulated, b measured"))
        self.assertEqual(differences(run("a", simulated=True), run("b", simulated=True)).fair, "fair")

    def test_what_is_no_pair_has_no_difference(self):
        found = versus([run("a", simulated=True), run("b")])
        self.assertIsNone(found.pairs[0].difference)
        self.assertEqual(found.rank, (1, 1))


class Nearest(unittest.TestCase):
    def setUp(self):
        self.a = run("a", charger("Larch"), key="a")
        self.b = run("b", charger("Moraine", case="Rubber case"), key="b")

    def test_it_keeps_as_much_as_it_can(self):
        near = run("near", charger("Moraine"), key="near")
        far = [run(f"far {n}", charger(n, phone="Tarn 9"), key=f"far {n}") for n in ("Larch", "Moraine")]
        found = nearest(self.a, self.b, [self.a, self.b, near, *far])
        self.assertEqual([(o.a.label, o.b.label) for o in found], [("a", "near"), ("far Larch", "far Moraine")])
        self.assertEqual(found[0].said, "fair: only the charger differs")
        self.assertLess(found[0].away, found[1].away)

    def test_only_what_covers_the_window(self):
        near = steady("near", 100, to=50, factors=charger("Moraine"), key="near")
        self.assertEqual(nearest(self.a, self.b, distinct([near], (10, 80))), [])
        self.assertEqual(len(nearest(self.a, self.b, distinct([near], (10, 40)))), 1)
        self.assertEqual(len(distinct([near, near], None)), 1)

    def test_where_there_is_none_it_says_what_would_make_one(self):
        self.assertEqual(nearest(self.a, self.b, [self.a, self.b]), [])
        self.assertEqual(missing_said(self.a, self.b), "one run of Moraine with no case would make a fair pair")
        room = run("c", charger("Moraine", ambient=""), ambient_c=30.0)
        self.assertIn("the room at 23 °C", missing_said(self.a, room))

    def test_the_question_is_about_the_charger_where_it_differs(self):
        self.assertEqual(factor_asked(self.a, self.b), "charger")
        other = run("c", charger("Larch", case="Rubber case", airflow="fan on the phone"))
        self.assertEqual(factor_asked(self.a, other), "case")
        self.assertEqual(factor_asked(self.a, self.a), "charger")


if __name__ == "__main__":
    unittest.main()
