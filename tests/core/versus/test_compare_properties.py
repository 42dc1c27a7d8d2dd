"""What holds for any runs: swapping mirrors, an irrelevant run changes no pair, a run against itself shows nothing."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.versus.claims import read_claim
from jaunecharge.core.versus.compare import versus
from jaunecharge.core.versus.factor_effects import effects
from jaunecharge.core.versus.fair_offers import missing_said, nearest
from jaunecharge.core.versus.pairing import differences, fair_said
from jaunecharge.core.versus.ranking import holm
from jaunecharge.core.versus.repeats import fold, grouped
from jaunecharge.core.versus.sentences import pair_words, summary_said, warnings_said
from jaunecharge.core.versus.window import lap, shared_window, span
from tests.core.contenders import checked

LEVELS = {
    "phone": ("", "Ostrel Max", "Tarn 9"), "charger": ("", "Larch", "Moraine", "wired"), "adapter": ("", "Plug 20"),
    "case": ("", "none", "Rubber case"), "airflow": ("", "still air", "fan on the phone"),
}  # fmt: skip


@st.composite
def runs(draw, covers=True):
    """A run that charges by uneven steps; where `covers`, from 10 to 100 %."""
    count = draw(st.integers(3, 12))
    gaps = draw(st.lists(st.floats(1, 40), min_size=count, max_size=count))
    rises = draw(st.lists(st.floats(0.1, 30), min_size=count, max_size=count))
    low = 10.0 if covers else draw(st.integers(0, 60))
    high = 100.0 if covers else draw(st.integers(62, 100))
    level = np.floor(low + (high - low) * np.concatenate([[0.0], np.cumsum(rises) / sum(rises)]) + 1e-9)
    minutes = np.concatenate([[0.0], np.cumsum(gaps)])
    factors = {name: draw(st.sampled_from(levels)) for name, levels in LEVELS.items()}
    ambient = draw(st.none() | st.floats(15, 35))
    name = draw(st.text("abcdefgh", min_size=1, max_size=6))
    pairs = list(zip(minutes, level, strict=True))
    return checked(pairs, name, factors={k: v for k, v in factors.items() if v}, ambient_c=ambient, key=name)


class Mirrored(unittest.TestCase):
    @settings(max_examples=150, deadline=None)
    @given(runs(), runs())
    def test_swapping_a_and_b_mirrors_everything(self, a, b):
        (one,), (other,) = versus([a, b]).pairs, versus([b, a]).pairs
        self.assertEqual(one.apart.fair, other.apart.fair)
        self.assertEqual(one.apart.differs, other.apart.differs)
        self.assertEqual(one.apart.unknown, other.apart.unknown)
        mine, theirs = one.difference, other.difference
        self.assertAlmostEqual(mine.verdict.minutes_saved, -theirs.verdict.minutes_saved)
        self.assertAlmostEqual(mine.verdict.noise.minutes, theirs.verdict.noise.minutes)
        self.assertAlmostEqual(mine.less_time_percent, theirs.less_time_percent)
        self.assertAlmostEqual(mine.higher_rate_percent, theirs.higher_rate_percent)
        self.assertAlmostEqual(mine.p, theirs.p)
        swapped = {"a faster": "b faster", "b faster": "a faster"}
        self.assertEqual(mine.said, swapped.get(theirs.said, theirs.said))
        if one.gap is not None and other.gap is not None:
            self.assertAlmostEqual(one.gap.points, -other.gap.points)
        self.assertEqual(versus([a, b]).rank, versus([b, a]).rank[::-1])

    @settings(max_examples=80, deadline=None)
    @given(runs(), runs(), runs())
    def test_an_irrelevant_run_changes_no_pair(self, a, b, other):
        (alone,) = versus([a, b]).pairs
        among = versus([a, b, other]).pairs[0]
        self.assertEqual((alone.apart, alone.difference), (among.apart, among.difference))

    @settings(max_examples=80, deadline=None)
    @given(runs())
    def test_a_run_against_itself_shows_no_difference(self, a):
        found = versus([a, a])
        (pair,) = found.pairs
        self.assertEqual(pair.verdict, "no difference shown")
        self.assertEqual((pair.difference.verdict.minutes_saved, pair.difference.less_time_percent), (0.0, 0.0))
        self.assertEqual((found.rank, pair.apart.fair), ((1, 1), "fair"))
        self.assertEqual(pair.gap.points, 0.0)


class Sound(unittest.TestCase):
    @settings(max_examples=120, deadline=None)
    @given(runs(), runs())
    def test_what_one_pair_shows_its_effect_shows(self, a, b):
        still = {**{k: "any" for k in ("phone", "charger", "adapter", "case")}, "airflow": "still air"}
        runs_ = [
            replace(a, factors=still, ambient_c=22.0),
            replace(b, factors={**still, "airflow": "fan on the phone"}, ambient_c=22.0),
        ]
        found = versus(runs_)
        (effect,) = effects(found)
        verdict = {"a faster": "more time", "b faster": "less time"}.get(found.pairs[0].verdict, "no difference shown")
        self.assertEqual(effect.verdict, verdict)
        self.assertEqual(effect.low_percent <= 0.0 <= effect.high_percent, verdict == "no difference shown")

    @settings(max_examples=120, deadline=None)
    @given(st.lists(runs(covers=False), min_size=2, max_size=6))
    def test_any_runs_are_compared_or_refused_plainly(self, some):
        try:
            found = versus(grouped(some))
        except CannotRead as error:
            self.assertTrue(error.what and error.mend)
            return
        low, high = found.window
        self.assertLess(low, high)
        for pair in found.pairs:
            self.assertEqual(pair.difference is None, pair.apart.fair == "not comparable")
            if pair.difference is not None:
                verdict = pair.difference.verdict
                self.assertGreater(verdict.noise.minutes, 0.0)
                self.assertEqual(
                    abs(verdict.minutes_saved) > verdict.noise.minutes, pair.verdict != "no difference shown"
                )
                # The same by its probability: the noise is that of one difference in twenty.
                self.assertEqual(pair.difference.p < 0.05, pair.verdict != "no difference shown")
            self.assertTrue(pair_words(found, pair, with_settle=False).said)
        for rank, known in zip(found.rank, found.timed.known, strict=True):
            self.assertEqual(rank > 0, bool(known))
        self.assertTrue(summary_said(found))
        warnings_said(found)

    @settings(max_examples=150, deadline=None)
    @given(runs(covers=False), st.integers(0, 99), st.integers(1, 100))
    def test_a_lap_lies_within_its_interval(self, run, low, width):
        found = lap(run.course.readings, low, min(100, low + width))
        if found is not None:
            self.assertTrue(found.earliest - 1e-9 <= found.estimate <= found.latest + 1e-9)

    @settings(max_examples=80, deadline=None)
    @given(st.lists(runs(covers=False), min_size=1, max_size=6))
    def test_the_window_is_covered_by_as_many_as_can_share_one(self, some):
        spans = [span(r.course.readings) for r in some]
        window = shared_window(spans)
        if window is not None:
            count = sum(s is not None and s[0] <= window[0] and s[1] >= window[1] for s in spans)
            self.assertGreaterEqual(count, min(2, len(some)))

    @settings(max_examples=80, deadline=None)
    @given(st.lists(runs(), min_size=2, max_size=7))
    def test_folding_keeps_every_run_once(self, some):
        cells = fold(grouped(some))
        self.assertEqual(sum(len(c.runs) for c in cells), len(some))

    @settings(max_examples=60, deadline=None)
    @given(runs(), runs(), st.lists(runs(), max_size=6))
    def test_what_is_offered_instead_is_fair(self, a, b, pool):
        for offer in nearest(a, b, [a, b, *pool]):
            self.assertEqual(differences(offer.a, offer.b).fair, "fair")
            self.assertIn("only the", fair_said(differences(offer.a, offer.b)))
        missing_said(a, b)

    @settings(max_examples=200, deadline=None)
    @given(st.lists(st.floats(0, 1), max_size=30))
    def test_holm_shows_no_more_than_each_alone_and_the_surest_first(self, p):
        values = np.array(p)
        shown = holm(values)
        self.assertTrue(np.all(values[shown] <= 0.05))
        if shown.any() and not shown.all():
            self.assertLessEqual(values[shown].max(), values[~shown].min())

    @settings(max_examples=300, deadline=None)
    @given(st.text(max_size=60))
    def test_any_text_is_a_claim_or_refused(self, text):
        try:
            claim = read_claim(text)
        except CannotRead as error:
            self.assertTrue(error.mend)
        else:
            self.assertTrue(claim.said)


if __name__ == "__main__":
    unittest.main()
