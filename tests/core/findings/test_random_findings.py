"""Findings over random benches: every figure is found again in the raw numbers, and no sentence says more than they
bear."""

import re
import unittest
from functools import cache

import numpy as np

from jaunecharge.core.findings import blocks_of, draft
from jaunecharge.core.findings.telling import checked_words
from tests.random_benches import bench, lap_bounds, reached, surely_noise

BENCHES = 300
NUMBER = re.compile(r"−?\d+(?:\.\d+)?")


@cache
def made():
    """Every bench with its draft and its blocks."""
    benches = [(seed, bench(seed)) for seed in range(BENCHES)]
    return [(seed, b, draft(b.material), blocks_of(b.material).blocks) for seed, b in benches]


class EveryFigure(unittest.TestCase):
    def test_stands_in_its_sentence_once_and_in_brackets(self):
        for seed, _, found, _ in made():
            for s in found.sentences:
                told = re.findall(r"\[([^\]]*)\]", s.words)
                self.assertEqual(sorted(told), sorted(f.text for f in s.figures), (seed, s.words))
                self.assertEqual(checked_words(s, s.words), s.words, (seed, s.words))

    def test_has_keys_that_are_unique(self):
        for seed, _, found, _ in made():
            keys = [s.key for s in found.sentences]
            self.assertEqual(len(keys), len(set(keys)), (seed, [k for k in keys if keys.count(k) > 1]))

    def test_is_written_as_its_value_rounds(self):
        for seed, _, found, _ in made():
            for s in found.sentences:
                for f in s.figures:
                    number = float(NUMBER.findall(f.text)[0].replace("−", "-"))
                    if f.kind in {"heat", "energy", "price", "watts", "percent", "heat difference", "difference"}:
                        places = len(NUMBER.findall(f.text)[0].partition(".")[2])
                        self.assertAlmostEqual(number, f.value, delta=0.51 * 10**-places, msg=(seed, f))

    def test_rests_on_runs_that_are_there(self):
        for seed, b, found, _ in made():
            for s in found.sentences:
                for f in s.figures:
                    self.assertLessEqual(set(f.of), {r.key for r in b.material.runs}, (seed, f))

    def test_of_a_time_lies_within_what_the_check_ins_allow(self):
        seen = 0
        for seed, b, found, _ in made():
            for block in found.blocks:
                for row in block.rows:
                    bounds = [lap_bounds(b.raw[k], block.window) for k in row.runs]
                    low, high = np.mean([x[0] for x in bounds]), np.mean([x[1] for x in bounds])
                    self.assertTrue(low - 1e-6 <= row.minutes <= high + 1e-6, (seed, row.label, row.minutes, low, high))
                    seen += 1
        self.assertGreater(seen, 500)

    def test_of_a_difference_is_that_of_the_times_beside_it(self):
        for seed, _, found, _ in made():
            for block in found.blocks:
                times = [r.minutes for r in block.rows]
                apart = {round(abs(x - y), 6) for x in times for y in times}
                for row in block.rows:
                    for f in row.verdict.figures:
                        if f.kind == "difference":
                            self.assertIn(round(f.value, 6), apart, (seed, row.verdict.words))

    def test_of_heat_is_a_reading_of_one_of_its_runs(self):
        seen = 0
        for seed, b, found, _ in made():
            for block in found.blocks:
                for row in block.rows:
                    for f in row.verdict.figures:
                        if f.kind != "heat":
                            continue
                        tops = []
                        for key in f.of:
                            raw = b.raw[key]
                            if raw.celsius is None:
                                continue
                            start, end = (reached(raw, p) for p in block.window)
                            first, last = int(start[0]), int(end[1]) + 1
                            tops += [(min(raw.celsius[first:last]), max(raw.celsius[first : last + 1]))]
                        self.assertTrue(any(lo - 0.1 <= f.value <= hi + 0.1 for lo, hi in tops), (seed, f, tops))
                        seen += 1
        self.assertGreater(seen, 100)

    def test_of_energy_is_the_power_times_the_time(self):
        seen = 0
        for seed, b, found, _ in made():
            for block in found.blocks:
                for row in block.rows:
                    if row.energy is None:
                        continue
                    metered = [b.raw[k] for k in row.runs if b.raw[k].watts is not None]
                    bounds = [lap_bounds(r, block.window) for r in metered]
                    watts = [np.mean(r.watts) for r in metered]
                    low = np.mean([w * x[0] / 60.0 for w, x in zip(watts, bounds, strict=True)])
                    high = np.mean([w * x[1] / 60.0 for w, x in zip(watts, bounds, strict=True)])
                    self.assertTrue(low * 0.97 <= row.energy.value <= high * 1.03, (seed, row.label, low, high))
                    seen += 1
        self.assertGreater(seen, 80)

    def test_of_a_price_is_the_difference_of_two_prices_on_the_shelf(self):
        seen = 0
        for seed, b, found, _ in made():
            amounts = {round(abs(x[0] - y[0]), 2) for x in b.prices.values() for y in b.prices.values() if x[1] == y[1]}
            for s in found.sentences:
                for f in s.figures:
                    if f.kind == "price":
                        self.assertIn(round(f.value, 2), amounts, (seed, s.words))
                        seen += 1
        self.assertGreater(seen, 50)


class NoSentence(unittest.TestCase):
    def test_calls_one_faster_that_lies_within_the_least_noise(self):
        seen = 0
        for seed, _, found, _ in made():
            for block in found.blocks:
                by = {r.label: r for r in block.rows}
                for row in block.rows:
                    match = re.match(r"\[[^\]]*\] (sooner|later) than \*([^*]*)\*", row.verdict.words)
                    if not match:
                        continue
                    other = by[match[2]]
                    apart = (other.minutes - row.minutes) * (1 if match[1] == "sooner" else -1)
                    least = surely_noise((row.minutes, other.minutes), (len(row.runs), len(other.runs)))
                    self.assertGreater(apart, least, (seed, row.verdict.words))
                    seen += 1
        self.assertGreater(seen, 80)

    def test_says_that_one_is_fastest_where_another_may_hold_the_first_place(self):
        for seed, _, found, _ in made():
            for block in found.blocks:
                may = [r.label for r in block.rows if r.place.startswith("1")]
                said = next((s for s in block.best if s.words.startswith("Fastest: *")), None)
                if said is not None and "cannot be told" not in said.words:
                    self.assertEqual(len(may), 1, (seed, said.words, [r.place for r in block.rows]))

    def test_of_the_answer_says_fastest_where_places_are_shared(self):
        fastest = 0
        for seed, b, found, _ in made():
            for s in found.answer:
                names = re.findall(r"\*([^*]*)\* is fastest", s.words)
                for name in names:
                    fastest += 1
                    rows = [r for x in found.blocks for r in x.rows if r.label == name and r.runs[0] in s.figures[0].of]
                    hot = b.material.question.limit_c is not None
                    self.assertTrue(rows and (hot or all(r.place == "1" for r in rows)), (seed, s.words))
        self.assertGreater(fastest, 20)

    def test_compares_runs_whose_conditions_are_known_to_differ(self):
        for seed, _, _, blocks in made():
            for block in blocks:
                runs = [r for c in block.cells for r in c.runs]
                stated = {r.levels["case"] for r in runs if "case" in r.levels}
                rooms = [r.known_room_c for r in runs if r.known_room_c is not None]
                self.assertLessEqual(len(stated), 1, seed)
                self.assertLessEqual(max(rooms, default=0.0) - min(rooms, default=0.0), 2.0, seed)
                self.assertEqual(len({r.levels["phone"] for r in runs}), min(1, len(runs)), seed)

    def test_uses_a_void_a_simulated_or_an_unstated_run(self):
        for seed, _, _, blocks in made():
            for block in blocks:
                for r in block.runs:
                    self.assertFalse(r.simulated or r.outcome == "void" or "charger" not in r.levels, seed)

    def test_tells_of_a_limit_of_heat_that_was_kept(self):
        """Only readings are told: that it stayed under a temperature between them nobody knows."""
        for seed, _, found, _ in made():
            for s in found.sentences:
                told = re.sub(r"whether [^;]*? stayed under|none stayed under", "", s.words)
                self.assertNotRegex(told, r"stay(ed|s) under", (seed, s.words))

    def test_buys_what_is_not_cheaper_than_what_it_ties_with(self):
        for seed, b, found, _ in made():
            for s in found.answer:
                match = re.search(r"buy \*([^*]*)\*, no difference shown to (.*?) \(\[", s.words)
                if not match:
                    continue
                price = b.prices[match[1].split(",")[0]]
                for other in re.findall(r"\*([^*]*)\*", match[2]):
                    theirs = b.prices[other.split(",")[0]]
                    self.assertEqual(theirs[1], price[1], (seed, s.words))
                    self.assertLessEqual(price[0], theirs[0], (seed, s.words))

    def test_calls_a_claim_supported_against_the_raw_watts(self):
        for seed, b, found, _ in made():
            for c in found.claims:
                if not c.claim.endswith("W") or c.by_maker is False or not c.sentence.figures:
                    continue
                met = [o.claim_met for k, o in b.material.outputs.items() if f"/{c.about}/" in k]
                if c.found == "supported":
                    self.assertIn(True, met, (seed, c))
                elif c.found == "not supported":
                    self.assertNotIn(
                        True, [b.material.outputs[k].claim_met for k in c.sentence.figures[0].of], (seed, c)
                    )
