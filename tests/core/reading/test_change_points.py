"""The search for straight pieces against the plain dynamic programme, which tries every beginning for every end."""

import unittest
from itertools import pairwise

import numpy as np

from jaunecharge.core.reading.change_points import pieces

PRICE = 30.0


def misfit(values, weight):
    """What a straight line leaves of a stretch, by NumPy's least squares."""
    if np.count_nonzero(weight) < 2:
        return 0.0
    x, root = np.arange(len(values), dtype=float), np.sqrt(weight)
    design = np.stack([root, root * (x - x.mean())], axis=1)
    solution, *_ = np.linalg.lstsq(design, values * root, rcond=None)
    return float(np.sum((values * root - design @ solution) ** 2))


def price(values, weight, noise, edges):
    """What pieces between edges cost: a step without weight goes with either side, so these tell more than edges."""
    penalty = 2.0 * PRICE * noise**2 * np.log(len(values))
    return sum(misfit(values[a:b], weight[a:b]) + penalty for a, b in pairwise(edges))


def plain(values, weight, noise, least):
    """Edges of the cheapest pieces."""
    n = len(values)
    penalty = 2.0 * PRICE * noise**2 * np.log(n)
    cost, begin = [-penalty] + [np.inf] * n, [0] * (n + 1)
    for end in range(least, n + 1):
        for start in range(0, end - least + 1):
            if np.isfinite(cost[start]):
                own = cost[start] + misfit(values[start:end], weight[start:end]) + penalty
                if own < cost[end]:
                    cost[end], begin[end] = own, start
    edges = [n]
    while edges[-1]:
        edges.append(begin[edges[-1]])
    return edges[::-1]


class Search(unittest.TestCase):
    def test_no_other_pieces_are_cheaper(self):
        rng = np.random.default_rng(12)
        for count, least in ((7, 3), (23, 3), (40, 2), (48, 3), (60, 5), (64, 4), (150, 3)):
            level = np.cumsum(rng.choice([0, 0, 0, 0, 0, 3.0, -4.0], count)) + rng.uniform(-0.1, 0.1) * np.arange(count)
            values = 12 + level + rng.normal(0, 0.1, count)
            weight = np.where(rng.random(count) < 0.1, 0.0, 1.0)
            found = pieces(values, weight, 0.1, least)
            edges = [p.first for p in found] + [found[-1].end]
            with self.subTest(count=count, least=least):
                best = plain(values, weight, 0.1, least)
                self.assertEqual(len(edges), len(best))
                self.assertAlmostEqual(price(values, weight, 0.1, edges), price(values, weight, 0.1, best), places=9)
                self.assertGreaterEqual(min(np.diff(edges)), least)
