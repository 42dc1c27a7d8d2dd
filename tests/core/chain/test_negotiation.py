"""How adapter and charger agree on a voltage, and what happens where they cannot."""

import unittest

from jaunecharge.core.chain.check import Chain, as_fed, check, coupling_label, holds_by_magnets
from jaunecharge.core.chain.negotiation import asked_of, negotiate, on_offer, shared_offer, wired_deal
from jaunecharge.core.errors import CannotRead
from jaunecharge.core.kit.items import Adapter, Cable, Pack, Pad, Phone, as_charger, transmits
from jaunecharge.core.kit.supply import supply_profiles
from jaunecharge.core.kit.transfer import transfers
from tests.core.shelf import adapter, case, chain, charger, phone

CABLE = Cable(label="cable", amps=3.0)


def profiles(found):
    return sorted({str(p) for p in found})


class Asked(unittest.TestCase):
    def test_what_is_printed_goes_before_the_class(self):
        self.assertEqual(asked_of(charger("mpp", "12V2A,9V2A"), 15.0), supply_profiles("12V2A,9V2A"))
        self.assertEqual(str(asked_of(charger("mpp"), 15.0)[0]), "9V2.22A")

    def test_a_makers_own_profile_asks_for_what_its_watts_need(self):
        for watts, volts in ((15, 9.0), (30, 15.0), (45, 20.0)):
            self.assertEqual(asked_of(charger(f"own:rush={watts}"), float(watts))[0].volts, volts)

    def test_the_strongest_profile_decides(self):
        both = charger("bpp, mpp")
        self.assertEqual(str(asked_of(both, 15.0)[0]), "9V2.22A")


class Offered(unittest.TestCase):
    def test_five_volts_are_always_there(self):
        for ways in (("pd",), ("pps",), ("5v",), ("own",)):
            self.assertIn("5V3A", profiles(on_offer(adapter("20W"), CABLE, ways, (), 1)))

    def test_only_what_can_be_agreed_on(self):
        supply = adapter("5V3A,9V3A,PPS 3.3-16V3A", modes=("rush",))
        self.assertEqual(profiles(on_offer(supply, CABLE, ("5v",), (), 1)), ["5V3A"])
        self.assertEqual(profiles(on_offer(supply, CABLE, ("own",), ("other",), 1)), ["5V3A"])
        self.assertIn("9V3A", profiles(on_offer(supply, CABLE, ("own",), ("rush",), 1)))
        self.assertIn("15V3A", profiles(on_offer(supply, CABLE, ("pps",), (), 1)))

    def test_a_thin_cable_takes_amps(self):
        thin = Cable(label="thin", amps=1.5)
        self.assertEqual(profiles(on_offer(adapter("20W"), thin, ("pd",), (), 1)), ["5V1.5A", "9V1.5A"])

    def test_a_share_by_the_power_rules(self):
        twin = adapter("45W", ports=2, shared_w=45.0)
        self.assertEqual(profiles(shared_offer(twin, 1)), ["15V3A", "5V3A", "9V3A"])
        self.assertEqual(profiles(shared_offer(twin, 2)), ["5V3A", "9V2.5A"])
        self.assertEqual(profiles(shared_offer(twin, 3)), ["5V3A"])

    def test_a_port_without_negotiation_is_not_shared_into_more(self):
        port = Adapter(label="port", computer_port="type-c 1.5")
        self.assertEqual(profiles(shared_offer(port, 2)), ["5V0.75A"])


class Deals(unittest.TestCase):
    def deal(self, supply, gives="mpp", **more):
        made = charger(gives, **more)
        return negotiate(adapter(supply), CABLE, made, max(t.watts for t in made.pads[0].gives))

    def test_outcomes(self):
        for supply, outcome in (
            ("5V3A,9V3A", "full"), ("5V3A,9V2A", "reduced"), ("5V3A,9V1A", "missing"), ("5V3A", "missing"),
            ("5V1A", "starved"), ("15V3A,5V3A", "missing"), ("5V1.5A", "missing"),
        ):  # fmt: skip
            with self.subTest(supply):
                found = self.deal(supply)
                self.assertEqual(found.outcome, outcome)
                self.assertTrue(found.low_w <= found.high_w <= found.offered_w + 1e-9)
                self.assertIn(f"{found.volts:g} V", found.why.replace("9 V 2.22 A", f"{found.volts:g} V"))

    def test_a_rounded_print_counts_as_offered(self):
        self.assertEqual(self.deal("5V3A,9V2.2A").outcome, "full")

    def test_the_next_wish_gives_its_own_watts(self):
        found = self.deal("5V3A,9V2A", asks="15V2A,9V2A")
        self.assertEqual((found.outcome, found.negotiated, found.high_w), ("reduced", "9V2A", 18.0))

    def test_a_small_charger_takes_what_five_volts_give(self):
        found = self.deal("5V1A", "bpp")
        self.assertEqual((found.outcome, found.low_w, found.high_w), ("missing", 0.0, 5.0))

    def test_why_a_profile_that_is_there_is_not_taken(self):
        for more, said in (
            ({"agrees": ("5v",)}, "takes 5 V only"),
            ({"agrees": ("own",), "modes": ("rush",)}, "insists on rush"),
            ({"agrees": ("pps",)}, "by PPS only"),
        ):
            self.assertIn(said, self.deal("5V3A,9V3A", **more).why)

    def test_by_wire_the_most_at_the_lowest_voltage(self):
        self.assertEqual(wired_deal(adapter("45W"), CABLE, 15.0).volts, 5.0)
        self.assertEqual(wired_deal(adapter("45W"), CABLE, 25.0).volts, 9.0)
        self.assertEqual(wired_deal(adapter("45W"), CABLE, 40.0).volts, 15.0)
        self.assertEqual(wired_deal(None, None, 20.0).high_w, 20.0)


class Coupling(unittest.TestCase):
    def made(self, gives="mpp", takes="mpp", **more):
        return chain("20W", gives, takes, **more)

    def test_what_holds_the_phone(self):
        self.assertTrue(holds_by_magnets(self.made()))
        self.assertFalse(holds_by_magnets(self.made(takes="epp")))
        self.assertFalse(holds_by_magnets(self.made(case=case(1.0))), "a case without magnets comes between")
        self.assertTrue(holds_by_magnets(self.made(takes="epp", case=case(1.0, True))))
        ringed = self.made(takes=phone("epp", magnets="by case"))
        self.assertTrue(holds_by_magnets(ringed))

    def test_in_words(self):
        made = self.made(case=case(1.5, True))
        self.assertEqual(coupling_label(made, made.charger), "magnets, case 1.5 mm")
        made = self.made("bpp", "bpp")
        self.assertEqual(coupling_label(made, made.charger), "laid on, no case")

    def test_a_thick_case_narrows_and_then_closes_it(self):
        watts = [check(self.made(case=case(mm, True))).delivered_w.high for mm in (1.0, 3.0, 4.5, 5.5, 8.0)]
        self.assertEqual(watts, sorted(watts, reverse=True))
        self.assertEqual((watts[0], watts[-1]), (15.0, 0.0))
        self.assertFalse(check(self.made(case=case(8.0, True))).charges)

    def test_a_pack_has_no_adapter_before_its_coil(self):
        pack = Pack(label="bank", rated_mah=5000.0, cell_v=3.7, gives=transfers("mpp", ""))
        fed = as_fed(Chain(adapter("20W"), CABLE, as_charger(pack), phone("mpp")))
        self.assertEqual((fed.adapter, fed.cable), (None, None))
        self.assertEqual(as_fed(chain("20W", "mpp", "mpp")).adapter.rated_w, 20.0)
        donor = phone("mpp", label="donor", gives_w=4.5)
        given = check(as_fed(Chain(adapter("20W"), CABLE, as_charger(donor), phone("mpp"))))
        self.assertEqual((given.delivered_w.high, given.links[0].link), (4.5, "charger"))
        self.assertFalse(transmits(phone("mpp")))
        with self.assertRaisesRegex(CannotRead, "cannot charge itself"):
            as_fed(Chain(None, None, as_charger(donor), donor))
        wired_only = Pack(label="w", rated_mah=1.0, cell_v=3.7, outputs=supply_profiles("5V2A"))
        self.assertRaises(ValueError, as_charger, wired_only)

    def test_a_phone_without_a_stated_wired_limit_is_taken_by_its_battery(self):
        found = check(
            Chain(adapter("100W"), CABLE, None, Phone(label="p", capacity_mah=1000.0, accepts=transfers("bpp", "")))
        )
        self.assertIn("its battery suggests", next(x.why for x in found.links if x.link == "phone"))
        self.assertLess(found.delivered_w.high, 10.0)

    def test_pads_are_found_by_their_place(self):
        twin = charger("mpp", pads=(Pad("left", transfers("mpp", "")), Pad("right", transfers("bpp", ""))))
        self.assertEqual(twin.pad().place, "left")
        self.assertTrue(twin.magnetic)
