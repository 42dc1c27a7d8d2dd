"""Long work told line by line."""

import json
import unittest

from jaunecharge.api.ndjson import as_lines
from jaunecharge.core.errors import CannotRead


class Lines(unittest.TestCase):
    def test_each_step_is_a_line_and_the_last_carries_the_outcome(self):
        def work(told):
            told("searching", 0.5)
            return {"found": 7}

        lines = [json.loads(line) for line in as_lines(work)]
        self.assertEqual([(x["step"], x["fraction"]) for x in lines], [("searching", 0.5), ("done", 1.0)])
        self.assertEqual(lines[-1]["found"], 7)

    def test_a_refusal_is_the_last_line(self):
        def work(told):
            raise CannotRead("it cannot be", "make it so that it can")

        [line] = [json.loads(x) for x in as_lines(work)]
        self.assertEqual((line["step"], line["problem"]["detail"]), ("refused", "it cannot be"))


if __name__ == "__main__":
    unittest.main()
