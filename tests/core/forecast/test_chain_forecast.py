"""Forecasts with their range, and the whole shelf at once."""

import unittest

import numpy as np

from jaunecharge.core.chain.check import Chain
from jaunecharge.core.forecast.chain_forecast import forecast
from jaunecharge.core.forecast.coverage import cover
from jaunecharge.core.kit.items import Cable, Pack, Pad, as_charger
from jaunecharge.core.kit.transfer import transfers
from jaunecharge.core.simulator.circumstances import Circumstances
from jaunecharge.core.simulator.scenario import prepare
from jaunecharge.core.simulator.simulate import simulate
from tests.core.shelf import adapter, chain, charger, phone


class OneChain(unittest.TestCase):
    def test_the_range_holds_what_is_likely(self):
        for what in (
            ("20W", "mpp", "mpp"),
            ("18W", "mpp", "mpp"),
            ("5V3A", "mpp", "mpp"),
            ("20W", "magnet-only", "mpp"),
        ):
            found = forecast(chain(*what))
            for estimate in found.to.values():
                self.assertTrue(estimate.low < estimate.likely < estimate.high)
            self.assertTrue(found.hottest_c.low <= found.hottest_c.likely <= found.hottest_c.high)
            self.assertTrue(np.all(found.least <= found.likely + 0.6) and np.all(found.likely <= found.most + 0.6))
            self.assertTrue(found.delivered_w.low <= found.likely_w <= found.delivered_w.high)

    def test_what_it_rests_on_names_the_spread_that_widens_it(self):
        origins = {g.what: g for g in forecast(chain("20W", "mpp", "mpp")).origins}
        self.assertIn("6 %", origins["spread of one run"].value)
        self.assertIn("common practice", origins["spread of one run"].origin)

    def test_its_curve_is_the_simulated_one(self):
        found = forecast(chain("20W", "mpp", "mpp"))
        charge = simulate(prepare(chain("20W", "mpp", "mpp")).scenario)
        at_80 = np.interp(charge.minutes_to(80), found.minutes, found.likely)
        self.assertAlmostEqual(at_80, 80.0, delta=1.0)

    def test_where_it_throttles(self):
        cool, hot = (forecast(chain("20W", "mpp", "mpp"), Circumstances(ambient_c=t)) for t in (20.0, 35.0))
        self.assertIsNone(cool.throttle)
        self.assertGreater(hot.throttle.minutes_below_80, 20.0)
        self.assertTrue(10.0 <= hot.throttle.percent < 60.0)
        self.assertAlmostEqual(hot.throttle.celsius, 41.3, delta=1.0)

    def test_a_chain_that_does_not_charge_never_gets_there(self):
        found = forecast(chain("5V1A", "mpp", "mpp"))
        self.assertIsNone(found.to[80].likely)
        self.assertFalse(found.checked.charges)

    def test_wired_is_faster(self):
        wired = Chain(adapter("20W"), Cable(label="cable"), None, phone("mpp", wired_w=20.0))
        self.assertLess(forecast(wired).to[80].likely, forecast(chain("20W", "mpp", "mpp")).to[80].likely)


class TheWholeShelf(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        pack = as_charger(Pack(label="bank", rated_mah=10_000.0, cell_v=3.7, gives=transfers("mpp", "")))
        cls.chargers = [
            charger("mpp", label="disc", claimed_w=15.0), charger("magnet-only", label="magnets", claimed_w=15.0),
            charger("own:rush=30", label="rush"), pack,
            charger("mpp", label="twin", pads=(Pad("left", transfers("mpp", "")), Pad("right", transfers("bpp", "")))),
        ]  # fmt: skip
        cls.phones = [
            phone("mpp@12", label="mini", body="small"),
            phone("mpp", label="max"),
            phone("bpp", label="lite"),
        ]
        cls.told = []
        cls.found = cover(
            cls.chargers,
            cls.phones,
            [adapter("20W")],
            Cable(label="c"),
            Circumstances(ambient_c=30.0),
            progress=cls.told.append,
        )

    def cell(self, row, column):
        rows = [r.label for r in self.found.rows]
        return self.found.cells[rows.index(row)][[p.label for p in self.found.phones].index(column)]

    def test_a_row_a_place_and_the_wired_baseline(self):
        labels = [r.label for r in self.found.rows]
        self.assertEqual(labels, ["disc", "magnets", "rush", "bank", "twin, left", "twin, right", "wired"])
        self.assertTrue(all(len(row) == 3 for row in self.found.cells))

    def test_a_cell_is_what_its_chain_gives_alone(self):
        cell = self.cell("disc", "max")
        alone = forecast(cell.chain, Circumstances(ambient_c=30.0))
        self.assertEqual(cell.forecast.to[80], alone.to[80])
        self.assertEqual(cell.check.narrowest, alone.checked.narrowest)

    def test_claims(self):
        self.assertIs(self.cell("disc", "max").meets_claim, True)
        self.assertIs(self.cell("magnets", "max").meets_claim, False)
        self.assertIsNone(self.cell("wired", "max").meets_claim)

    def test_hot_pairs(self):
        self.assertTrue(self.cell("disc", "max").likely_hot)
        self.assertFalse(self.cell("magnets", "max").likely_hot)

    def test_pairs_that_are_not_worth_a_run_say_why(self):
        self.assertIn("fall back to 5 W", self.cell("rush", "max").not_worth)
        self.assertEqual(self.cell("disc", "max").not_worth, "")
        weak = cover(self.chargers[:1], self.phones, [adapter("5V3A")], None)
        self.assertIn("the adapter decides", weak.cells[0][1].not_worth)
        dead = cover(self.chargers[:1], self.phones, [adapter("5V1A")], None)
        self.assertIn("does not charge", dead.cells[0][1].not_worth)

    def test_the_best_of_each_phone_is_no_wire(self):
        for column, row in enumerate(self.found.best):
            times = [c[column].forecast.to[80].likely for c in self.found.cells[:-1]]
            self.assertEqual(times[row], min(times))

    def test_each_pair_with_its_best_adapter(self):
        many = [adapter("5V3A", label="old"), adapter("65W", label="big"), adapter("20W", label="small")]
        found = cover(self.chargers[:1], self.phones[:2], many, None)
        self.assertEqual(found.cells[0][1].chain.adapter.label, "small")

    def test_progress_ends_at_one(self):
        self.assertEqual(self.told[-1], 1.0)
        self.assertEqual(self.told, sorted(self.told))
