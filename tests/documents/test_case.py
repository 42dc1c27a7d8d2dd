"""What was stated about a run, as it is kept."""

import unittest

from jaunecharge.documents.case import Case, Meter


class Stated(unittest.TestCase):
    def again(self, case):
        return Case.read(case.kept())

    def test_a_meter_of_unknown_accuracy_stays_one(self):
        case = Case(meter=Meter(gain_percent=None))
        self.assertIsNone(self.again(case).meter.gain_percent)
        self.assertIsNone(self.again(case).conditions().meter.gain_percent)

    def test_a_meter_that_nobody_stated_is_not_kept(self):
        self.assertNotIn("meter", Case(ambient_c=22.0).kept())
        self.assertIn("meter", Case(meter=Meter()).kept())
        self.assertIn("meter", self.again(Case(meter=Meter())).model_fields_set)

    def test_what_was_kept_before_there_were_versions(self):
        self.assertEqual(Case.read({"capacity_mah": 4400.0, "nominal_v": 3.87, "gone": 1}).capacity_mah, 4400.0)


if __name__ == "__main__":
    unittest.main()
