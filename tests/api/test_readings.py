"""The judgement through the API: phases and dips of a run, decisions, the reference, habits, heat across runs."""

import csv
import gzip
import io
import json
import threading
import time
import zipfile

from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.store.kit import add_all
from tests.api.test_runs import CASE, ApiTest
from tests.cases import DATA

HEAT = DATA / "logs" / "heat-cycles"


class JudgedTest(ApiTest):
    def add(self, folder=HEAT, with_heat=True, **more):
        uses = []
        for name, role in (("meter.csv.gz", "meter"), ("battery.csv", "checkins"), ("heat.csv.gz", "heat")):
            if role != "heat" or with_heat:
                content = (folder / name).read_bytes()
                # Each file once only: what was sent before is noticed, and that is not asked here.
                content = gzip.decompress(content) if name.endswith("gz") else content
                sent = self.sent(content + b"\n" * len(self.web.get("/api/runs").json()), name.removesuffix(".gz"))
                uses.append({"upload": sent["id"], "roles": [role]})
        body = {"files": uses, "case": {**CASE, "ambient_c": 25.0}, **more}
        answer = self.web.post("/api/runs", json=body)
        self.assertEqual(answer.status_code, 201, answer.text)
        return answer.json()["id"]

    def run_of(self, run_id, **more):
        return self.web.get(f"/api/runs/{run_id}", params=more).json()

    def decide(self, run, **more):
        dip = run["judged"]["dips"][0]
        body = {"revision": run["revision"], "about": "dip", "start": dip["start"], "end": dip["end"], **more}
        return self.web.post(f"/api/runs/{run['id']}/decisions", json=body, headers={"jaunecharge-by": "Ida"})


class Judged(JudgedTest):
    def test_a_run_shows_its_phases_dips_and_output(self):
        run = self.run_of(self.add())
        judged = run["judged"]
        kinds = [p["kind"] for p in judged["phases"]]
        self.assertEqual(kinds[0], "no_load")
        self.assertIn("taper", kinds)
        self.assertEqual({d["cause"] for d in judged["dips"]}, {"heat"})
        self.assertEqual(len(judged["dips"]), len(json.loads((HEAT / "truth.json").read_text())["dips"]))
        self.assertEqual(judged["output"]["group_w"], 12.0)
        self.assertIs(judged["output"]["claim_met"], False)
        throttle = next(s for s in run["sentences"] if s["key"] == "throttle")
        self.assertEqual(len(throttle["places"]), len(judged["dips"]))
        self.assertIn(throttle["figure"], {f["key"] for f in run["figures"]})
        marks = [m for m in run["summary"]["ribbon"]["marks"] if m["what"] == "heat"]
        self.assertEqual(len(marks), len(judged["dips"]))

    def test_every_sentence_stands_on_a_figure_that_is_there(self):
        run = self.run_of(self.add())
        known = {f["key"] for f in run["figures"]} | {"dips", "phases", ""}
        for said in run["sentences"]:
            self.assertIn(said["figure"], known, said["key"])

    def test_a_decision_is_signed_read_with_undone_and_counted_again(self):
        run_id = self.add()
        run = self.run_of(run_id)
        self.assertEqual(self.decide(run, cause="contact", why="lifted").status_code, 200)
        now = self.run_of(run_id)
        first = now["judged"]["dips"][0]
        self.assertEqual(first["cause"], "contact")
        self.assertIn("read as heat", first["overruled"])
        kept = now["judged"]["decisions"][0]
        self.assertEqual((kept["by"], kept["why"], kept["undone"]), ("Ida", "lifted", False))
        address = f"/api/runs/{run_id}/decisions/{kept['id']}"
        undone = self.web.put(address, json={"revision": now["revision"], "aside": True})
        self.assertEqual(undone.status_code, 200, undone.text)
        again = self.run_of(run_id)
        self.assertEqual(again["judged"]["dips"][0]["cause"], "heat")
        self.assertTrue(again["judged"]["decisions"][0]["undone"])
        self.web.put(address, json={"revision": again["revision"], "aside": False})
        self.assertEqual(self.run_of(run_id)["judged"]["dips"][0]["cause"], "contact")

    def test_the_later_of_two_windows_is_told_and_nonsense_refused(self):
        run = self.run_of(self.add())
        self.decide(run, cause="contact")
        self.problem(self.decide(run, cause="restart"), 409, "another window")
        run = self.run_of(run["id"])
        self.problem(self.decide(run, new_start=10.0, new_end=5.0), 422, "ends after it begins")
        self.problem(self.decide(run, new_end=1e6), 422, "outside the log")
        self.assertEqual(self.decide(run, cause="moonlight").status_code, 422)
        other = f"/api/runs/{run['id']}/decisions/{run['id']}"
        self.problem(self.web.put(other, json={"revision": run["revision"], "aside": True}), 404, "no decision")

    def test_a_phase_begins_where_a_reader_says(self):
        run = self.run_of(self.add())
        taper = next(p for p in run["judged"]["phases"] if p["kind"] == "taper")
        body = {"revision": run["revision"], "about": "phase", "start": taper["start"], "end": taper["start"]}
        body["new_start"] = taper["start"] + 2.0
        self.assertEqual(self.web.post(f"/api/runs/{run['id']}/decisions", json=body).status_code, 200)
        moved = next(p for p in self.run_of(run["id"])["judged"]["phases"] if p["kind"] == "taper")
        self.assertAlmostEqual(moved["start"], taper["start"] + 2.0, delta=0.01)
        self.assertTrue(moved["overruled"])

    def test_decisions_and_heat_come_out_with_the_exports(self):
        run = self.run_of(self.add(label="out it comes"))
        self.decide(run, cause="contact", why="lifted")
        archive = zipfile.ZipFile(io.BytesIO(self.web.get(f"/api/exports/runs/{run['id']}.zip").content))
        kept = json.loads(archive.read("case.json"))["decisions"][0]
        self.assertEqual((kept["cause"], kept["why"], kept["by"]), ("contact", "lifted", "Ida"))
        self.assertEqual(json.loads(archive.read("reading.json"))["dips"][0]["cause"], "contact")
        table = list(csv.DictReader(io.StringIO(self.web.get("/api/exports/runs.csv").text.lstrip("\ufeff"))))
        row = next(r for r in table if r["id"] == run["id"])
        self.assertAlmostEqual(float(row["first_throttle_c"]), 42.5, delta=0.3)
        self.assertGreater(float(row["heat_cost_expanded_min"]), 0)
        self.assertIn("heat cost", row["reads_as"])


class Chosen(JudgedTest):
    def waited_for(self):
        for _ in range(600):
            found = self.web.get("/api/rereading").json()
            if found["left"] == 0:
                return found
            time.sleep(0.05)
        self.fail("the runs were not read anew")

    def test_habits_count_in_the_cost_of_standby(self):
        run_id = self.add(DATA / "logs" / "after-full")

        def cost(run):
            return next(f for f in run["figures"] if f["key"] == "year_cost")

        before = cost(self.run_of(run_id))
        habits = self.web.get("/api/settings").json()["habits"]
        answer = self.web.put(
            "/api/settings/habits", json={**habits, "tariff": habits["tariff"] * 2, "currency": "CHF"}
        )
        self.assertEqual(answer.status_code, 200, answer.text)
        after = cost(self.run_of(run_id))
        self.assertAlmostEqual(after["value"], 2 * before["value"], places=6)
        self.assertEqual(after["unit"], "CHF")
        self.problem(self.web.put("/api/settings/habits", json=habits), 409, "another window")
        now = answer.json()["habits"]
        self.problem(self.web.put("/api/settings/habits", json={**now, "night_h": 2.0}), 422, "hours")

    def test_a_reference_is_used_by_all_runs_and_lists_follow(self):
        reference, other = self.add(label="the reference"), self.add()
        settings = self.web.get("/api/settings").json()["reference"]
        self.assertEqual((settings["run"], settings["k"]), (None, 1.25))
        body = {"revision": settings["revision"], "run": reference, "delivered_w": 12.0}
        named = self.web.put("/api/settings/reference", json=body).json()["reference"]
        self.assertEqual((named["run"], named["label"]), (reference, "the reference"))
        run = self.run_of(other)
        self.assertAlmostEqual(run["judged"]["output"]["ratio"], named["k"])
        self.assertTrue(self.run_of(reference)["judged"]["reference_here"])
        self.waited_for()
        dropped = self.web.delete("/api/settings/reference", params={"revision": named["revision"]}).json()
        self.assertEqual(dropped["reference"]["k"], 1.25)
        self.assertEqual(self.waited_for()["left"], 0)
        body = {"revision": dropped["reference"]["revision"], "run": reference, "delivered_w": 90.0}
        self.problem(self.web.put("/api/settings/reference", json=body), 422, "cannot be")


class HeatAcrossRuns(JudgedTest):
    def test_the_table_holds_each_run_and_marks_unlike_conditions(self):
        same = {"phone": "Tarn 9", "charger": "Kar", "airflow": "still air"}
        for _ in range(2):
            self.add(factors=same)
        fanned = self.add(factors={**same, "airflow": "fan on the phone"})
        blind = self.add(with_heat=False, factors=same)
        table = self.web.get("/api/throttling").json()
        rows = {r["id"]: r for r in table["rows"]}
        self.assertEqual(len(rows), 4)
        self.assertIn("still air", table["usual"])
        self.assertIn("airflow: fan on the phone", rows[fanned]["unlike"][0])
        self.assertIsNone(rows[blind]["throttle"])
        throttle = rows[fanned]["throttle"]
        self.assertEqual(throttle["cycles"], 6)
        self.assertAlmostEqual(throttle["first_c"], 42.5, delta=0.3)
        self.assertGreater(throttle["cost_min"]["expanded"], 0)


class PacksAcrossRuns(JudgedTest):
    def test_a_pack_that_no_adapter_feeds_is_not_unlike_for_it(self):
        with self.database.session() as session:
            add_all(session, [kit_from_line("pack Bank 10000mAh 3.7V Qi2"), kit_from_line("puck Disc Qi2")], "")
        fed = {"phone": "Tarn 9", "charger": "Disc", "adapter": "Plug 20"}
        for _ in range(3):
            self.add(factors=fed)
        pack = self.add(factors={"phone": "Tarn 9", "charger": "Bank"})
        row = next(r for r in self.web.get("/api/throttling").json()["rows"] if r["id"] == pack)
        self.assertEqual([u for u in row["unlike"] if u.startswith("adapter")], [])
        self.assertIn("none (a pack)", row["conditions"])


class AtTheSameTime(JudgedTest):
    def test_two_decisions_at_once_one_of_them_is_told(self):
        run = self.run_of(self.add())
        answers = []
        threads = [
            threading.Thread(target=lambda c=c: answers.append(self.decide(run, cause=c).status_code))
            for c in ("contact", "restart")
        ]
        for t in threads:
            t.start()
        for t in threads:
            t.join()
        self.assertEqual(sorted(answers), [200, 409])
