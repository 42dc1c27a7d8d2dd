"""Heat across runs: unlike conditions are marked."""

import unittest

from jaunecharge.core.versus.heat_table import unlike, usual_conditions

STILL = {"airflow": "still air", "case": "none"}


class Unlike(unittest.TestCase):
    def test_the_usual_conditions_are_those_of_most(self):
        usual, room = usual_conditions([STILL, STILL, {"airflow": "fan on the phone"}], [24.0, 25.0, None])
        self.assertEqual((usual["airflow"], usual["case"], room), ("still air", "none", 25.0))

    def test_a_run_like_the_others_differs_in_nothing(self):
        usual, room = usual_conditions([STILL] * 3, [24.0] * 3)
        self.assertEqual(unlike(STILL, 25.9, usual, room), [])

    def test_each_difference_is_said_and_the_unknown_is_one(self):
        usual, room = usual_conditions([STILL] * 3, [24.0] * 3)
        said = unlike({"airflow": "fan on the phone"}, 30.0, usual, room)
        self.assertEqual(len(said), 3)
        self.assertIn("fan on the phone", said[0])
        self.assertIn("not stated", said[1])
        self.assertIn("30 °C", said[2])
        self.assertIn("not known", unlike(STILL, None, usual, room)[0])

    def test_without_runs_there_is_nothing_usual(self):
        usual, room = usual_conditions([], [])
        self.assertEqual((set(usual.values()), room), ({""}, None))
