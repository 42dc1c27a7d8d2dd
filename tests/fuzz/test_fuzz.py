"""Calls from the description, calls with ids that exist, spoilt files, each for a while; `make fuzz` for more.

`FUZZ_SECONDS` says how long each part lasts, `FUZZ_SEED` where it begins.
"""

import os
import tempfile
import time
import unittest
from pathlib import Path

from jaunecharge.core.errors import CannotRead
from jaunecharge.formats.read import apart
from jaunecharge.store import people
from tests.fuzz import calls, files
from tests.fuzz.memory import Memory
from tests.serving import ON_THE_NETWORK, PASSPHRASE, ServedTest

SECONDS = float(os.environ.get("FUZZ_SECONDS", "25"))
SEED = int(os.environ.get("FUZZ_SEED", "1"))
MEASURED = "FUZZ_SECONDS" in os.environ
AT_A_TIME = 100
MOST_BYTES = 1_000_000_000
"""No process may take more, the one that asks and answers included where nothing else ran in it before."""


def each_kind(wrong):
    """One example of each kind of what was wrong, told apart by its beginning."""
    return list({w[:60]: w for w in wrong}.values())[:20]


def told(memory):
    return f"{max(memory.own, memory.others) / 1e6:.0f} MB"


class Calls(ServedTest):
    with_demo = True
    network = ON_THE_NETWORK

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        apart.make_ready()
        cls.web.post("/api/sign-in", json={"passphrase": PASSPHRASE}).raise_for_status()
        for _ in range(2):
            factors = {"phone": "Ostrel Max", "charger": "Cairn disc", "adapter": "Plug 20"}
            cls.web.post("/api/lanes", json={"factors": factors, "ambient_c": 25.0}).raise_for_status()

    @classmethod
    def fill(cls):
        with cls.database.session() as session:
            people.add_person(session, people.FIRST, "change", PASSPHRASE)

    def judged(self, judge, memory):
        if MEASURED:
            counts = dict(sorted(judge.statuses.items()))
            print(f"{judge.asked:,} calls: {counts}, {len(judge.wrong)} wrong, largest process {told(memory)}")
            self.assertLess(memory.own, MOST_BYTES)
        self.assertLess(memory.others, MOST_BYTES)
        self.assertGreater(judge.asked, SECONDS)
        self.assertEqual(each_kind(judge.wrong), [])
        self.assertTrue(self.web.get("/api/health").json()["database"])

    def test_from_the_description(self):
        judge = calls.Judge(calls.ANSWERED_WITHIN_S if MEASURED else None)
        with Memory() as memory:
            calls.by_description(self.address, self.web.cookies["jaunecharge"], SECONDS, judge, SEED)
        self.judged(judge, memory)

    def test_with_ids_that_exist(self):
        judge = calls.Judge(calls.ANSWERED_WITHIN_S if MEASURED else None)
        with Memory() as memory:
            calls.with_ids(self.web, SECONDS, judge, SEED)
        self.judged(judge, memory)


class Files(unittest.TestCase):
    def test_spoilt_files_are_read_or_refused(self):
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        until, at, wrong, good = time.monotonic() + SECONDS, SEED * 1_000_000, [], 0
        with Memory() as memory:
            while time.monotonic() < until:
                try:
                    found, read = files.in_limits(folder, at, AT_A_TIME)
                except CannotRead as error:
                    found, read = [f"seeds {at}: {error}"], 0
                wrong += found
                good += read
                at += 1
        number = (at - SEED * 1_000_000) * AT_A_TIME
        if MEASURED:
            told_of = f"{good:,} read, {number - good:,} refused, {len(wrong)} wrong"
            print(f"{number:,} files: {told_of}, largest process {told(memory)}")
        self.assertGreater(memory.others, 0)
        self.assertLess(memory.others, MOST_BYTES)
        self.assertEqual(each_kind(wrong), [])
        self.assertGreater(good, 0)
        self.assertLess(good, number)
