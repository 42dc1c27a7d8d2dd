"""Drawings of findings: scales, geometry, every picture in every form, hostile labels, PNG."""

import io
import re
import unittest
from itertools import pairwise
from xml.etree import ElementTree as Xml

from PIL import Image

from jaunecharge.formats.drawings import PICTURES, draw, png
from jaunecharge.formats.drawings.band import Frame, monotone, outline
from jaunecharge.formats.drawings.letters import cut, width, wrapped
from jaunecharge.formats.drawings.scale import HEAT_STOPS, heat_colour, time_steps
from jaunecharge.formats.drawings.subject import Subject
from jaunecharge.formats.drawings.svg import clean, number
from tests.drawn import band, drawn_row, paced, slipping, subject

FRAME = Frame(0.0, 1000.0, 100.0, 50.0, 20.0, 15.0)
HOSTILE = (
    "<script>alert(1)</script>", '"><image href="http://x/y"/>', "\u202eevil\u202c", "a\x00b\x07", "=1+1", "😀" * 50,
    "W" * 10_000,
)  # fmt: skip


def luminance(colour):
    return sum(w * int(colour[i : i + 2], 16) for w, i in ((0.2126, 1), (0.7152, 3), (0.0722, 5)))


class Scales(unittest.TestCase):
    def test_the_heat_scale_meets_its_stops_and_darkens_steadily(self):
        for celsius, colour in HEAT_STOPS:
            self.assertEqual(heat_colour(celsius), colour.lower())
        steps = [luminance(heat_colour(25 + i / 10)) for i in range(0, 211)]
        self.assertTrue(all(b <= a + 1.5 for a, b in pairwise(steps)), "it reads in grey")
        self.assertEqual((heat_colour(0), heat_colour(99)), (heat_colour(25), heat_colour(46)))

    def test_time_steps_are_round_and_few(self):
        for minutes in (5, 33, 90, 150, 601, 5000):
            step = time_steps(minutes, 9)
            self.assertTrue(minutes / step <= 9 or step == 360, minutes)

    def test_text_is_measured_cut_and_wrapped(self):
        self.assertAlmostEqual(width("ii", 20.0), 2 * width("i", 20.0))
        self.assertGreater(width("W", 20.0), width("i", 20.0))
        self.assertLessEqual(width(cut("Which disc is fastest", 20.0, 80.0), 20.0), 80.0)
        rows = wrapped("one two three four five six", 20.0, 90.0, 2)
        self.assertEqual(len(rows), 2)
        self.assertTrue(rows[1].endswith("…"))


class Bands(unittest.TestCase):
    def test_a_monotone_path_never_overshoots(self):
        points = [(0, 10), (10, 10), (20, 0), (30, 0), (40, 30)]
        heights = [float(y) for y in re.findall(r"[ ,](-?[\d.]+)(?=C|$| -?[\d.]+ |\b)", monotone(points))]
        self.assertTrue(heights and all(-1e-6 <= y <= 40 for y in heights))
        ends = re.findall(r"(-?[\d.]+) (-?[\d.]+)(?=C|$)", monotone(points))
        self.assertEqual([tuple(map(float, e)) for e in ends], [tuple(map(float, p)) for p in points])

    def test_a_lost_contact_leaves_a_gap_and_a_hole_too(self):
        self.assertEqual(outline(band(), FRAME).count("Z"), 1)
        self.assertEqual(outline(slipping(), FRAME).count("Z"), 2)
        holed = band()
        holed.watts[40:50] = [None] * 10
        self.assertEqual(outline(holed, FRAME).count("Z"), 2)

    def test_its_height_is_the_power(self):
        xs = re.findall(r"[ML]([\d.]+) ([\d.]+)", outline(band(celsius=30), FRAME))
        self.assertAlmostEqual(float(xs[0][1]), 50.0 - 20.0, places=1)

    def test_without_a_meter_it_is_the_pace(self):
        path = outline(paced(), FRAME)
        self.assertIn(number(50.0 - 0.9 / 1.5 * 20.0), path)

    def test_nothing_is_drawn_after_a_minute_of_a_race(self):
        path = outline(band(), Frame(0.0, 1000.0, 100.0, 50.0, 20.0, 15.0, until=30.0))
        self.assertLessEqual(max(float(x) for x in re.findall(r"[MLC ](\d+(?:\.\d+)?) \d", path)), 310.0)


class Pictures(unittest.TestCase):
    def every(self, made):
        for picture in PICTURES:
            for form in ("wide", "square"):
                yield picture, draw(made, picture, form)

    def test_all_are_svg_with_a_text_alternative_and_nothing_from_outside(self):
        sizes = {"1280 720", "1080 1080"}
        for picture, svg in self.every(subject()):
            root = Xml.fromstring(svg)
            self.assertIn(root.get("viewBox").removeprefix("0 0 "), sizes)
            title, about = (root.find(f"{{http://www.w3.org/2000/svg}}{t}").text for t in ("title", "desc"))
            self.assertEqual(title, "Which disc is fastest to 80 %?")
            self.assertTrue(about, picture)
            self.assertEqual(set(re.findall(r'(?:href|src)="([^"]*)"', svg)), set())
            self.assertEqual(draw(subject(), picture, "wide"), draw(subject(), picture, "wide"))

    def test_what_stands_in_words_is_what_is_drawn(self):
        svg = draw(subject(), "ribbons")
        self.assertIn("Disc, place 1, 1 h 18 from 10 to 80 %, hottest 38.0 °C", svg)
        self.assertIn("Pad, place 2, 2 h 20 from 10 to 80 %", svg)
        self.assertIn("80 % after 78 min, between 74 and 79", draw(subject(), "bars"))
        self.assertIn("at the coil 24.0 Wh, estimated", draw(subject(), "walk"))
        self.assertIn("narrowest: charger", draw(subject(), "chain"))

    def test_an_empty_finding_is_drawn_as_one(self):
        nothing = Subject("What?", "", ())
        for _, svg in self.every(nothing):
            Xml.fromstring(svg)
        self.assertIn("No temperature was logged", draw(nothing, "heat"))
        self.assertIn("No pack", draw(nothing, "walk"))

    def test_what_was_not_logged_is_said(self):
        bare = subject((drawn_row("Old", 100.0, paced(), hottest=None, price=None),))
        self.assertIn("No power was logged", draw(bare, "power"))
        self.assertIn("No price is known", draw(bare, "price"))

    def test_hostile_labels_do_no_harm(self):
        for text in HOSTILE:
            rows = (drawn_row(text), drawn_row("Pad", 140.0, place="2"))
            for picture, svg in self.every(subject(rows, question=text)):
                root = Xml.fromstring(svg)
                tags = {e.tag.rpartition("}")[2] for e in root.iter()}
                self.assertFalse(tags & {"script", "image", "foreignObject", "a"}, picture)
                self.assertNotRegex(svg, "[\x00-\x08\u202a-\u202e]")

    def test_many_rows_and_phones_stay_within_the_picture(self):
        rows = tuple(drawn_row(f"Charger {n}", 70.0 + n) for n in range(9))
        crowd = subject(rows)
        crowd = Subject(crowd.question, crowd.foot, crowd.phones * 6)
        for form, most in (("wide", 720.0), ("square", 1080.0)):
            for picture in ("ribbons", "bars", "table"):
                svg = draw(crowd, picture, form)
                ys = [float(y) for y in re.findall(r'<text x="[^"]*" y="([^"]*)"', svg)]
                self.assertLessEqual(max(ys), most, (picture, form))
        self.assertIn("more phones, in the finding", draw(crowd, "ribbons"))

    def test_signs_of_direction_and_control_are_left_out(self):
        self.assertEqual(clean("a\u202eb\x00c\u2066d\x1fe"), "abcde")


class Png(unittest.TestCase):
    def image(self, times=1, **more):
        return Image.open(io.BytesIO(png(draw(subject(), "bars", **more), times)))

    def test_once_twice_and_four_times(self):
        for times in (1, 2, 4):
            self.assertEqual(self.image(times).size, (1280 * times, 720 * times))
        self.assertEqual(self.image(form="square").size, (1080, 1080))

    def test_with_a_background_or_none(self):
        self.assertEqual(self.image().getpixel((2, 2)), (250, 248, 241, 255))
        self.assertEqual(self.image(ground=False).getpixel((2, 2))[3], 0)

    def test_letters_are_drawn_in_the_fonts_that_ship(self):
        """Text with no font would leave the foot empty."""
        foot = self.image().convert("L").crop((40, 680, 420, 712))
        self.assertLess(foot.getextrema()[0], 140)
