"""The ribbons of the server are those of the screen: the pages' own geometry, run by Node.js, against the drawings'."""

import json
import re
import subprocess
import tempfile
import unittest
from pathlib import Path

import numpy as np

from jaunecharge.documents.ribbon import Mark, RibbonDocument
from jaunecharge.formats.drawings.band import Frame, _stops, outline
from tests.drawn import band, paced, slipping

WEB = Path(__file__).parents[2] / "web"
FRAMES = (
    (0.0, 1000.0, 100.0, 50.0, 20.0, 15.0),
    (120.0, 333.0, 150.0, 40.0, 22.0, 9.0),
    (10.0, 700.0, 40.0, 30.0, 9.0, 25.0),
)
WITHIN_PX = 0.011
"""Coordinates are written with two decimals here, and with three there."""

ASKED = """
import { outline, colourStops } from './geometry.mjs'
import { readFileSync } from 'node:fs'
const asked = JSON.parse(readFileSync(0, 'utf8'))
console.log(JSON.stringify(asked.map(({ data, frame }) => ({ path: outline(data, frame), stops: colourStops(data) }))))
"""


def random_ribbon(seed):
    """A ribbon that nobody made by hand: holes, dips, steep steps, temperatures that are missing."""
    rng = np.random.default_rng([seed, 3])
    count = int(rng.integers(1, 180))
    watts = np.abs(np.cumsum(rng.normal(0, 2, count)) + 9).round(2).tolist()
    celsius = (25 + np.abs(np.cumsum(rng.normal(0.05, 0.6, count)))).round(2).tolist()
    for _ in range(int(rng.integers(0, 4))):
        at = int(rng.integers(0, count))
        watts[at : at + int(rng.integers(1, 9))] = [None] * len(watts[at : at + int(rng.integers(1, 9))])
        celsius[int(rng.integers(0, count))] = None
    step = float(rng.choice([0.5, 1.0, 2.0]))
    watts = watts[:count] + [None] * (count - len(watts))
    start = float(rng.uniform(0, count * step))
    marks = [
        Mark(what=str(rng.choice(["heat", "contact", "supply"])), start=start, end=start + float(rng.uniform(0.1, 9)))
    ]
    return RibbonDocument(
        step_min=step, watts=watts, celsius=celsius if seed % 3 else None, ticks=[], minutes=count * step, marks=marks
    )


class SameAsScreen(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        ribbons = [band(), slipping(), paced(), *(random_ribbon(seed) for seed in range(60))]
        cls.asked = [(data, frame) for data in ribbons for frame in FRAMES]
        body = [{"data": data.model_dump(mode="json"), "frame": cls.on_screen(frame)} for data, frame in cls.asked]
        with tempfile.TemporaryDirectory(dir=WEB / "node_modules") as folder:
            bundled = f"{folder}/geometry.mjs"
            subprocess.run(
                ["npx", "--no-install", "rolldown", "src/ribbon/geometry.ts", "-f", "esm", "-o", bundled], cwd=WEB,
                capture_output=True, text=True, check=True,
            )  # fmt: skip
            (Path(folder) / "asked.mjs").write_text(ASKED)
            done = subprocess.run(
                ["node", f"{folder}/asked.mjs"], input=json.dumps(body), capture_output=True, text=True, check=True
            )
        cls.screen = json.loads(done.stdout)

    @staticmethod
    def on_screen(frame):
        left, wide, minutes, middle, half, watts = frame
        return {
            "left": left, "width": wide, "origin": 0, "minutes": minutes, "middle": middle, "halfHeight": half,
            "fullWatts": watts,
        }  # fmt: skip

    def test_every_path_goes_through_the_same_points_by_the_same_curves(self):
        drawn = 0
        for n, ((data, frame), screen) in enumerate(zip(self.asked, self.screen, strict=True)):
            with self.subTest(n):
                made = outline(data, Frame(*frame))
                self.assertEqual(self.commands(made), self.commands(screen["path"]))
                ours, theirs = self.figures(made), self.figures(screen["path"])
                self.assertEqual(len(ours), len(theirs))
                if ours:
                    drawn += 1
                    self.assertLessEqual(max(abs(a - b) for a, b in zip(ours, theirs, strict=True)), WITHIN_PX)
        self.assertGreater(drawn, 100)

    def test_every_colour_is_the_same(self):
        for n, ((data, _), screen) in enumerate(zip(self.asked, self.screen, strict=True)):
            with self.subTest(n):
                ours = [(round(at, 4), self.rgb(colour)) for at, colour in _stops(data)]
                theirs = [(round(s["offset"], 4), self.rgb(s["colour"])) for s in screen["stops"]]
                self.assertEqual([at for at, _ in ours], [at for at, _ in theirs])
                apart = [
                    abs(a - b) for (_, x), (_, y) in zip(ours, theirs, strict=True) for a, b in zip(x, y, strict=True)
                ]
                self.assertLessEqual(max(apart), 1)

    @staticmethod
    def commands(path):
        return re.sub(r"[^MLCZ]", "", path)

    @staticmethod
    def figures(path):
        return [float(x) for x in re.findall(r"-?\d+(?:\.\d+)?(?:e-?\d+)?", path)]

    @staticmethod
    def rgb(colour):
        if colour.startswith("#"):
            return tuple(int(colour[i : i + 2], 16) for i in (1, 3, 5))
        return tuple(round(float(x)) for x in re.findall(r"[\d.]+", colour)[:3])
