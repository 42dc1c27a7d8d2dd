"""A database as the version before typed documents wrote it: `tests/data/before-documents.zip` is its backup.

It holds runs of the demonstration with few samples left, a plan with runs made and to be made, a lane that is open and
one that was ended, notes, a correction that was undone, and a reader's decision.
"""

import shutil
import time

import httpx

from jaunecharge.store import models as m
from jaunecharge.store.backup import restore
from tests.cases import DATA, FolderTest
from tests.serving import fresh_database, served


class OlderRows(FolderTest):
    def setUp(self):
        super().setUp()
        backup = shutil.copy(DATA / "before-documents.zip", self.folder)
        self.database = self.enterContext(fresh_database())
        restore(self.database, self.folder / backup)
        address = self.enterContext(served(self.database, self.folder))
        self.web = self.enterContext(httpx.Client(base_url=address, timeout=60.0, headers={"Origin": address}))

    def get(self, path):
        answer = self.web.get(f"/api{path}")
        self.assertEqual(answer.status_code, 200, f"{path}: {answer.text[:300]}")
        return answer.json()

    def decided(self):
        """The run about which somebody decided something."""
        runs = (self.get(f"/runs/{row['id']}") for row in self.get("/runs"))
        return next(run for run in runs if run["judged"] and run["judged"]["decisions"])

    def test_all_of_it_is_read(self):
        with self.database.session() as session:
            kept = session.query(m.Run).first().summary_json
            self.assertNotIn("version", kept, "it was kept before documents had versions")
        # They were read by an older reader: they are read anew, beside what is asked for.
        end = time.monotonic() + 120
        while self.get("/rereading")["left"] and time.monotonic() < end:
            time.sleep(0.05)
        runs = self.get("/runs")
        self.assertEqual(len(runs), 7)
        for row in runs:
            run = self.get(f"/runs/{row['id']}")
            self.assertEqual(run["summary"], row["summary"])
            self.assertTrue(run["sentences"])
        self.assertEqual([d["why"] for d in self.decided()["judged"]["decisions"]], ["it was moved"])
        bench = next(r for r in runs if r["outcome"] == "stopped early")
        log = [line["said"] for line in self.get(f"/runs/{bench['id']}")["bench"]]
        self.assertIn("battery 12 %", log)
        self.assertEqual(self.get(f"/runs/{bench['id']}")["reason"], "seen enough")

    def test_plans_lanes_and_comparisons_go_on(self):
        plan = self.get("/plans")[0]
        slots = self.get(f"/plans/{plan['id']}")["slots"]
        self.assertTrue(all(s["minutes"] > 30 and s["ribbon"]["watts"] for s in slots))
        lane = self.get("/bench")["lanes"][0]["view"]
        self.assertEqual((lane["name"], lane["percent"]), ("A", 12.0))
        self.assertIsNotNone(lane["finish"])
        runs = self.get("/runs")
        self.assertEqual(len(self.web.get("/api/exports/runs.csv").text.splitlines()), 1 + len(runs))
        offers = self.get("/versus/offered")
        self.assertTrue(offers)

    def test_what_is_changed_is_kept_in_the_new_form(self):
        run = self.decided()
        decision = run["judged"]["decisions"][0]["id"]
        asked = {"revision": run["revision"], "aside": True}
        answer = self.web.put(f"/api/runs/{run['id']}/decisions/{decision}", json=asked)
        self.assertEqual(answer.status_code, 200, answer.text)
        self.assertTrue(self.get(f"/runs/{run['id']}")["judged"]["decisions"][0]["undone"])
        with self.database.session() as session:
            kept = session.get_one(m.Run, run["id"])
            self.assertEqual(kept.decisions_json[0]["version"], 1)
            self.assertEqual(kept.summary_json["version"], 1)
