"""Supply profiles: the power rules, and what is written of an adapter."""

import unittest

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.kit.standards import pd_profiles
from jaunecharge.core.kit.supply import offers, supply_profile, supply_profiles
from jaunecharge.core.kit.transfer import agree, transfer, transfers

# USB Power Delivery Specification Revision 3.1, section 10.2.2, table 10-2 "Source Power Rules, Normative Voltages and
# Minimum Currents": 5 V only to 15 W; above 15 W 5 V 3 A and 9 V at PDP/9; above 27 W 9 V 3 A and 15 V at PDP/15; above
# 45 W 15 V 3 A and 20 V at PDP/20 (over 3 A with a 5 A cable). Currents to the nearest 10 mA.
PUBLISHED = {
    15: "5V3A",
    18: "5V3A,9V2A",
    20: "5V3A,9V2.22A",
    27: "5V3A,9V3A",
    30: "5V3A,9V3A,15V2A",
    45: "5V3A,9V3A,15V3A",
    60: "5V3A,9V3A,15V3A,20V3A",
    65: "5V3A,9V3A,15V3A,20V3.25A",
    100: "5V3A,9V3A,15V3A,20V5A",
}


class PowerRules(unittest.TestCase):
    def test_the_published_table(self):
        for rated, expected in PUBLISHED.items():
            with self.subTest(rated):
                self.assertEqual(pd_profiles(rated), supply_profiles(expected))

    def test_every_rating_reaches_its_watts_and_no_more(self):
        for tenths in range(5, 1000, 7):
            rated = tenths / 10.0
            most = max(p.watts for p in pd_profiles(rated))
            self.assertAlmostEqual(most, rated, delta=0.005 * 20.0 + 1e-9, msg=f"{rated} W")
            self.assertLessEqual(max(p.amps for p in pd_profiles(rated) if p.volts < 20), 3.0)

    def test_a_small_rating_offers_five_volts_only(self):
        self.assertEqual([str(p) for p in pd_profiles(7.5)], ["5V1.5A"])

    def test_a_rating_of_nothing_is_refused(self):
        self.assertRaises(ValueError, pd_profiles, 0.0)


class Written(unittest.TestCase):
    def test_profiles_ranges_and_ratings(self):
        found = offers("9V2.22A, 5V3A; PPS 3.3-11V3A")
        self.assertEqual([str(p) for p in found.profiles], ["5V3A", "9V2.22A"])
        self.assertEqual(str(found.pps[0]), "PPS 3.3-11V3A")
        self.assertEqual(offers("20 W").rated_w, 20.0)

    def test_a_decimal_comma(self):
        self.assertEqual(supply_profiles("5V3A, 9V2,22A")[1].amps, 2.22)

    def test_nonsense_says_what_would_mend_it(self):
        for text, said in {
            "9V": "has no amps", "20": "is not a supply profile", "-9V2A": "is negative", "9V0A": "cannot be",
            "900V2A": "cannot be", "": "no supply profile", "11-5V3A": "from high to low", "0W": "cannot be",
        }.items():  # fmt: skip
            with self.subTest(text), self.assertRaises(CannotRead) as caught:
                offers(text)
            self.assertIn(said, str(caught.exception))

    def test_one_profile_reads_back(self):
        self.assertEqual(str(supply_profile("15 V x 3 A")), "15V3A")


class TransferProfiles(unittest.TestCase):
    def agreed(self, gives, takes):
        return agree(transfers(gives, "charger"), transfers(takes, "phone"))

    def test_watts_of_a_pair(self):
        for gives, takes, watts, held in (
            ("mpp", "mpp", 15.0, ""),
            ("mpp25", "mpp", 15.0, "phone"),
            ("mpp", "mpp25", 15.0, "charger"),
            ("magnet-only", "mpp", 7.5, "charger"),
            ("magnet-only", "bpp", 5.0, "phone"),
            ("epp", "mpp", 7.5, "charger"),
            ("own:flash=18", "mpp", 5.0, "charger"),
            ("own:flash=18", "own:flash=30, epp", 18.0, "charger"),
            ("own:flash=50", "own:other=50", 5.0, "charger"),
            ("bpp", "mpp25", 5.0, "charger"),
            ("mpp", "mpp@12", 12.0, "phone"),
            ("mpp, epp", "epp", 15.0, ""),
        ):
            with self.subTest(f"{gives} and {takes}"):
                found = self.agreed(gives, takes)
                self.assertEqual((found.watts, found.held_by), (watts, held))
                self.assertTrue(found.why)

    def test_nonsense(self):
        for text, said in {
            "foo": "is not a transfer profile", "own:flash": "without watts", "mpp@20": "ends at 15 W",
            "own:flash=-3": "cannot be", "own:flash=900": "cannot be",
        }.items():  # fmt: skip
            with self.subTest(text), self.assertRaises(CannotRead) as caught:
                transfer(text, "charger")
            self.assertIn(said, str(caught.exception))

    def test_a_phone_takes_no_magnets_for_a_profile(self):
        self.assertRaises(CannotRead, transfers, "magnet-only", "phone")
