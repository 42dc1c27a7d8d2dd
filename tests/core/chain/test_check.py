"""The chain check: watts at each link, the narrowest, what arrives and what to change."""

import unittest
from dataclasses import replace

from jaunecharge.core.chain.advice import advice, swaps
from jaunecharge.core.chain.check import Chain, check
from jaunecharge.core.kit.items import Cable, Charger, Pack, Pad, as_charger
from jaunecharge.core.kit.transfer import transfers
from tests.core.shelf import adapter, case, chain, charger, phone


class MeterSide(unittest.TestCase):
    """Rules of thumb measured by practitioners (common practice, no published source)."""

    def drawn(self, supply, **more):
        return check(chain(supply, "mpp", "mpp", asks="9V2.22A", **more)).meter_w

    def test_full_profile(self):
        found = self.drawn("5V3A,9V2.22A")
        self.assertLessEqual(found.low, 14.5)
        self.assertTrue(18.0 <= found.high <= 19.0)

    def test_an_18_w_adapter(self):
        found = self.drawn("5V3A,9V2A")
        self.assertAlmostEqual(found.low, 11.0)
        self.assertAlmostEqual(found.high, 13.0)

    def test_wanted_profile_missing(self):
        for supply in ("5V3A", "5V3A,15V3A,20V3A", "5V2A", "5V3A,12V1.5A"):
            with self.subTest(supply):
                found = check(chain(supply, "mpp", "mpp", asks="9V2.22A"))
                self.assertAlmostEqual(found.meter_w.low, 6.0)
                self.assertAlmostEqual(found.meter_w.high, 10.0)
                self.assertEqual(found.narrowest, "adapter")

    def test_5_v_1_a_does_not_charge(self):
        found = check(chain("5V1A", "mpp", "mpp"))
        self.assertLessEqual(found.meter_w.high, 0.5)
        self.assertFalse(found.charges)
        self.assertIn("not to charge", " ".join(advice(chain("5V1A", "mpp", "mpp"), found)))

    def test_15_w_delivered_draws_what_the_reference_ratio_says(self):
        found = check(chain("30W", "mpp", "mpp"))
        self.assertAlmostEqual(found.delivered_w.high, 15.0)
        self.assertAlmostEqual(found.meter_w.high, 18.75)


class Narrowest(unittest.TestCase):
    def link(self, *what, **more):
        return check(chain(*what, **more))

    def test_each_link_can_be_it(self):
        for expected, found in {
            "adapter": self.link("5V3A", "mpp", "mpp"),
            "charger": self.link("30W", "magnet-only", "mpp"),
            "phone": self.link("30W", "mpp", "mpp@10"),
            "cable": self.link("30W", "mpp", "mpp", amps=1.5),
            "coupling": self.link("30W", "mpp", "mpp", case=case(5.0)),
            "battery": self.link("30W", "mpp25", phone("mpp25", capacity_mah=900.0)),
        }.items():
            with self.subTest(expected):
                self.assertEqual(found.narrowest, expected)
                least = min(link.passes_w for link in found.links)
                self.assertAlmostEqual(found.narrow_link.passes_w, least)
                self.assertTrue(found.narrow_link.why)

    def test_a_strong_adapter_is_not_blamed_for_a_full_profile(self):
        for supply in ("5V3A,9V2.22A", "20W", "27W", "65W"):
            self.assertEqual(self.link(supply, "mpp", "mpp").narrowest, "charger")

    def test_delivered_never_exceeds_any_wall(self):
        for gives in ("bpp", "epp", "mpp", "mpp25", "magnet-only", "own:a=40"):
            for takes in ("bpp", "epp", "mpp@12", "mpp25", "own:a=30"):
                for supply in ("5V1A", "5V2A", "18W", "20W", "30W", "65W"):
                    found = self.link(supply, gives, takes)
                    for link in found.links:
                        self.assertLessEqual(found.delivered_w.high * 1.25, link.passes_w + 1e-9)
                    self.assertLessEqual(found.delivered_w.low, found.delivered_w.high)

    def test_the_negotiated_profile(self):
        self.assertEqual(self.link("5V3A,9V3A", "mpp", "mpp").deal.negotiated, "9V2.22A")
        self.assertEqual(self.link("5V3A", "mpp", "mpp").deal.negotiated, "5V3A")
        self.assertEqual(self.link("30W", "mpp25", "mpp25").deal.negotiated, "15V2A")
        self.assertTrue(self.link("30W", "mpp25", "mpp25").deal.inferred)
        self.assertFalse(self.link("9V3A,5V3A", "mpp", "mpp").deal.inferred)

    def test_a_claim_that_the_profile_does_not_reach(self):
        magnets = charger("magnet-only", claimed_w=15.0)
        found = self.link("20W", magnets, "mpp")
        self.assertIs(found.reaches_claim, False)
        self.assertIn("claims 15 W", found.narrow_link.why)
        self.assertIs(self.link("20W", charger("mpp", claimed_w=15.0), "mpp").reaches_claim, True)
        self.assertIsNone(self.link("20W", "mpp", "mpp").reaches_claim)
        able = charger("mpp", claimed_w=15.0)
        self.assertIsNone(self.link("5V3A", able, "mpp").reaches_claim, "the adapter prevented it")
        self.assertIsNone(self.link("20W", able, "mpp@10").reaches_claim, "the phone prevented it")
        self.assertIs(self.link("5V1A", magnets, "mpp").reaches_claim, False)


class WaysOfAgreeing(unittest.TestCase):
    def drawn(self, supply, **more):
        return check(chain(supply, charger("mpp", **more), "mpp"))

    def test_a_charger_that_refuses_pd(self):
        found = self.drawn("20W", agrees=("own",), modes=("glide9",))
        self.assertEqual(found.deal.outcome, "missing")
        self.assertIn("glide9", found.narrow_link.why)
        self.assertEqual(
            self.drawn(adapter("20W", modes=("glide9",)), agrees=("own",), modes=("glide9",)).deal.outcome, "full"
        )

    def test_pps_gives_nine_volts_where_it_is_taken(self):
        supply = adapter("5V3A,PPS 3.3-11V3A")
        self.assertEqual(self.drawn(supply, agrees=("pd",)).deal.outcome, "missing")
        self.assertEqual(self.drawn(supply, agrees=("pps",)).deal.negotiated, "9V2.22A")

    def test_five_volts_only(self):
        found = check(chain("65W", charger("bpp", agrees=("5v",)), "bpp"))
        self.assertEqual((found.deal.volts, found.deal.outcome), (5.0, "full"))

    def test_a_computers_port(self):
        found = check(chain(adapter("5V3A", profiles=(), computer_port="usb2"), "mpp", "mpp"))
        self.assertEqual(found.deal.outcome, "starved")

    def test_the_second_wish_of_a_charger(self):
        found = check(chain("27W", "mpp25", "mpp25"))
        self.assertEqual((found.deal.outcome, found.deal.negotiated), ("reduced", "9V3A"))


class Shared(unittest.TestCase):
    def test_two_phones_divide_what_the_charger_gets(self):
        alone = check(chain("20W", "mpp", "mpp"))
        both = check(chain("20W", "mpp", "mpp", phones_on_charger=2))
        self.assertLess(both.delivered_w.high, 0.6 * alone.delivered_w.high)
        self.assertEqual(both.narrowest, "adapter")

    def test_two_chargers_on_an_adapter_fall_back_to_what_its_share_gives(self):
        supply = adapter("30W", ports=2, shared_w=30.0)
        self.assertEqual(check(chain(supply, "mpp", "mpp")).deal.outcome, "full")
        both = chain(supply, "mpp", "mpp", chargers_on_adapter=2)
        self.assertEqual(check(both).deal.outcome, "missing")
        self.assertIn("shared", " ".join(advice(both, check(both))))

    def test_pads_of_one_charger_differ(self):
        twin = Charger(
            label="twin", form="multi-stand",
            pads=(Pad("left", transfers("mpp", "")), Pad("right", transfers("bpp", ""))),
        )  # fmt: skip
        left = check(chain("30W", twin, "mpp", place="left"))
        right = check(chain("30W", twin, "mpp", place="right"))
        self.assertGreater(left.delivered_w.high, 2 * right.delivered_w.high)


class Wired(unittest.TestCase):
    def test_the_baseline_has_no_charger_and_no_coupling(self):
        found = check(Chain(adapter("20W"), Cable(label="cable"), None, phone("mpp", wired_w=25.0)))
        self.assertEqual([link.link for link in found.links], ["adapter", "cable", "phone", "battery"])
        self.assertEqual(found.narrowest, "adapter")
        self.assertAlmostEqual(found.delivered_w.high, 19.98)

    def test_the_phone_s_limit(self):
        found = check(Chain(adapter("65W"), Cable(label="cable"), None, phone("mpp", wired_w=15.0)))
        self.assertEqual((found.narrowest, found.delivered_w.high), ("phone", 15.0))

    def test_a_five_amp_cable_lets_twenty_volts_through(self):
        big = phone("mpp", wired_w=90.0, capacity_mah=40_000.0)
        thin = check(Chain(adapter("100W"), Cable(label="c", amps=3.0), None, big))
        thick = check(Chain(adapter("100W"), Cable(label="c", amps=5.0), None, big))
        self.assertEqual((thin.narrowest, thin.delivered_w.high), ("cable", 60.0))
        self.assertEqual(thick.delivered_w.high, 90.0)


class Advice(unittest.TestCase):
    def test_the_own_shelf_comes_first_and_its_gain_is_true(self):
        poor = chain("5V3A", "mpp", "mpp")
        better = adapter("30W", label="Plug 30")
        said = advice(poor, check(poor), [adapter("5V2A", label="Plug 10"), better])
        self.assertIn("Plug 30", said[0])
        self.assertNotIn("Plug 10", " ".join(said))
        swap = swaps(poor, [better])[0]
        self.assertAlmostEqual(swap.delivered_w, check(replace(poor, adapter=better)).delivered_w.high)

    def test_nothing_on_the_shelf_helps_where_the_phone_is_narrowest(self):
        weak = chain("30W", "mpp", "bpp")
        self.assertEqual(swaps(weak, [adapter("65W"), charger("mpp25", label="other")]), [])
        self.assertIn("changes nothing", advice(weak, check(weak))[0])

    def test_a_pack_is_a_charger_without_adapter(self):
        pack = Pack(label="Col bank", rated_mah=10_000.0, cell_v=3.7, gives=transfers("mpp", ""))
        poor = chain("5V2A", "magnet-only", "mpp")
        self.assertEqual([s.label for s in swaps(poor, [pack])], ["Col bank"])
        alone = check(Chain(None, None, as_charger(pack), phone("mpp")))
        self.assertEqual((alone.deal.outcome, alone.delivered_w.high), ("none needed", 15.0))

    def test_it_is_never_silent(self):
        for supply in ("5V1A", "18W", "65W"):
            for gives in ("bpp", "mpp", "magnet-only"):
                for thick in (None, case(6.0)):
                    made = chain(supply, gives, "mpp", case=thick)
                    self.assertTrue(advice(made, check(made)))
