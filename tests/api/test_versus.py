"""Versus through the API: comparisons, claims, another phone, the table of phones and chargers and what fills it."""

import csv
import io
import time
import uuid

from jaunecharge.api.versus.routes import MOST_RUNS
from jaunecharge.core.reading.standby import Habits
from jaunecharge.documents.run_summary import CourseDocument
from jaunecharge.store import models as m
from jaunecharge.store.runs.logs import load_log
from jaunecharge.store.runs.runs import list_runs
from jaunecharge.store.versus import contender_of, contenders, with_power
from tests.api.test_runs import ApiTest

PHONE = "Ostrel Max"


class VersusTest(ApiTest):
    with_demo = True

    def rows(self, **factors):
        """Runs of the demonstration that state this."""
        return [
            r["id"]
            for r in self.web.get("/api/runs").json()
            if all(r["factors"].get(k, "") == v for k, v in factors.items())
        ]

    def compared(self, runs, **more):
        answer = self.web.get("/api/versus", params={"run": runs, **more})
        self.assertEqual(answer.status_code, 200, answer.text)
        return answer.json()

    def offered(self, title):
        return next(o for o in self.web.get("/api/versus/offered").json() if title in o["title"])

    def repeats(self):
        """The runs of one cell: two of the hut, and those of the plan that have happened by this hour."""
        alike = {"adapter": "Plug 20", "case": "none", "airflow": "still air"}
        found = set(self.rows(phone=PHONE, charger="Cairn disc 15", **alike))
        self.assertGreaterEqual(len(found), 3)
        return found


class Compared(VersusTest):
    def test_a_phone_is_offered_with_the_window_of_most_of_its_runs(self):
        found = self.offered(PHONE)
        self.assertEqual((found["kind"], found["chargers"]), ("phone", 5))
        # How far most of them go depends on how many of the plan's runs have happened by this hour.
        self.assertIn(found["window"], [{"start": 10, "end": 100}, {"start": 10, "end": 80}])
        self.assertEqual(self.web.get("/api/versus/offered").json()[0]["kind"], "plan")

    def test_rows_pairs_and_the_whole(self):
        offered = self.offered(PHONE)
        found = self.compared(offered["runs"], start=10, end=80)
        self.assertEqual(sum(len(r["runs"]) for r in found["rows"]), len(offered["runs"]))
        cairn = next(r for r in found["rows"] if r["label"] == "Cairn disc 15")
        self.assertEqual({r["id"] for r in cairn["runs"]}, self.repeats(), "those of the hut and of the plan are alike")
        self.assertTrue(cairn["between"][0] <= cairn["minutes"]["estimate"] <= cairn["between"][1])
        self.assertRegex(found["noise"], r"^run-to-run spread \d\.\d % \(\d+ repeats, plus an assumed 6 %\)$")
        self.assertEqual(found["tops"], [50, 80, 100])
        self.assertIn(PHONE, found["shared"])
        wired = next(n for n, r in enumerate(found["rows"]) if r["label"] == "wired")
        self.assertEqual(found["rows"][wired]["rank"], 1)
        fair = [p for p in found["pairs"] if p["fair"] == "fair"]
        self.assertEqual(found["pairs"][: len(fair)], fair, "fair ones first")
        pair = next(p for p in fair if wired in (p["a"], p["b"]) and p["rates"])
        self.assertIn("less time", pair["rates"])
        self.assertIn("degrees of freedom", pair["basis"])
        self.assertRegex(pair["besides"], r"^from 10 to 50( and 100)? %: ")
        charged = [r["charge"] for r in found["rows"] if r["charge"]]
        self.assertEqual(min(c["more_percent"] for c in charged), 0)
        self.assertTrue(found["effects"] and found["bargains"])
        self.assertIn(found["bargains"][0]["said"], found["sentences"])
        self.assertEqual(found["currencies"], ["EUR"])

    def test_as_many_runs_as_may_be_compared_fit_into_an_address(self):
        runs = [str(uuid.uuid4()) for _ in range(MOST_RUNS)]
        answer = self.web.get("/api/versus", params={"run": runs, "start": 10, "end": 80, "align": "placement"})
        self.assertEqual((answer.status_code, answer.json()["detail"]), (422, "400 of the runs are no longer there"))
        self.assertEqual(self.web.get(f"/versus?runs={','.join(runs)}").status_code, 200)

    def test_the_unfair_pair_says_why_and_offers_fair_ones(self):
        found = self.compared(self.offered(PHONE)["runs"])
        late = next(n for n, r in enumerate(found["rows"]) if "Rubber case" in r["label"])
        pairs = [p for p in found["pairs"] if late in (p["a"], p["b"])]
        self.assertNotIn("fair", {p["fair"] for p in pairs})
        self.assertTrue(any("started at" in note for p in pairs for note in p["notes"]))
        offers = [o for p in found["pairs"] for o in p["offers"]]
        self.assertTrue(offers)
        instead = self.compared(offers[0]["runs"])
        self.assertEqual(instead["pairs"][0]["fair"], "fair")
        self.assertTrue(any(p["missing"] for p in found["pairs"]))

    def test_a_hold_is_no_time_of_the_charger(self):
        held = next(r for r in self.compared(self.offered(PHONE)["runs"])["rows"] if "Thin case" in r["label"])
        self.assertIsNone(held["minutes"])
        self.assertIn("a charge limit held", held["unfit"])

    def test_laid_together_by_a_percentage(self):
        runs = self.offered(PHONE)["runs"]
        by_percent = self.compared(runs, align="common percent")
        offsets = {run["offset"] for row in by_percent["rows"] for run in row["runs"]}
        self.assertGreater(len(offsets), 3)
        by_placing = self.compared(runs)
        self.assertEqual({run["offset"] for row in by_placing["rows"] for run in row["runs"]}, {0})
        self.assertEqual([r["minutes"] for r in by_placing["rows"]], [r["minutes"] for r in by_percent["rows"]])

    def test_degrees_of_the_reader(self):
        runs = self.offered(PHONE)["runs"]
        self.assertIn("°F", " ".join(self.compared(runs, degrees="F")["sentences"]))

    def test_energy_and_cost_go_by_the_habits(self):
        runs = self.offered(PHONE)["runs"]
        before = self.compared(runs)["rows"][0]["charge"]
        habits = self.web.get("/api/settings").json()["habits"]
        self.assertEqual(habits["charges_year"], Habits().charges_year)
        changed = {**habits, "charges_year": 100, "hut_share": 0.5, "tariff": 0.6, "currency": "CHF"}
        self.assertEqual(self.web.put("/api/settings/habits", json=changed).status_code, 200)
        after = self.compared(runs)["rows"][0]["charge"]
        self.assertAlmostEqual(after["year_cost"] / after["cost"], 100)
        self.assertAlmostEqual(
            after["hut_wh"]["value"] / before["hut_wh"]["value"], habits["hut_share"] / 0.5, places=4
        )
        self.assertEqual(after["currency"], "CHF")
        self.problem(self.web.put("/api/settings/habits", json={**changed, "revision": 1, "adapter_share": 0}), 422)

    def test_what_cannot_be_compared_is_a_problem(self):
        runs = self.offered(PHONE)["runs"]

        def asked(run, **more):
            return self.web.get("/api/versus", params={"run": run, **more})

        self.problem(asked(runs[:1]), 422, "one run only")
        self.problem(asked([str(uuid.uuid4()), runs[0]]), 422, "no longer there")
        self.problem(asked(runs, start=80, end=20), 422, "is empty")
        self.problem(asked(runs, start="nan"), 422)
        self.problem(asked([]), 422)


class Out(VersusTest):
    def test_pairs_as_csv(self):
        asked = {"runs": self.offered(PHONE)["runs"], "start": 10, "end": 80}
        answer = self.web.get("/api/versus/pairs.csv", params=asked)
        self.assertIn("attachment", answer.headers["content-disposition"])
        rows = list(csv.DictReader(io.StringIO(answer.text)))
        self.assertEqual(rows[0]["fair"], "fair")
        self.assertEqual((float(rows[0]["from_percent"]), float(rows[0]["to_percent"])), (10, 80))
        saved = float(rows[0]["b_min"]) - float(rows[0]["a_min"])
        self.assertAlmostEqual(saved, float(rows[0]["minutes_saved"]), delta=10, msg="estimates against middles")
        count = len(self.compared(asked["runs"], start=10, end=80)["rows"])
        self.assertEqual(len(rows), count * (count - 1) // 2)

    def test_the_whole_as_the_command_line_gives_it(self):
        found = self.web.get("/api/versus/comparison.json", params={"runs": self.offered(PHONE)["runs"]}).json()
        self.assertLessEqual({"window", "rows", "pairs", "sentences", "warnings"}, set(found))
        self.problem(
            self.web.get("/api/versus/pairs.csv", params={"runs": self.offered(PHONE)["runs"][:1]}), 422, "one run only"
        )


class Stored(VersusTest):
    def test_a_course_comes_back_from_its_summary(self):
        with self.database.session() as session:
            for run in list_runs(session)[:6]:
                kept = run.summary
                found = kept.course.course(kept.ribbon)
                self.assertEqual(CourseDocument.of(found), kept.course)
                log = load_log(session, run)
                self.assertAlmostEqual(found.power.energy_wh[-1], kept.energy_in_wh, delta=0.15)
                self.assertEqual(found.readings.percent[0], log.readings.percent[0])

    def test_runs_that_an_older_reader_made_wait(self):
        runs = self.offered("Tarn 9")["runs"]
        with self.database.session() as session:
            for run_id in runs[:-1]:
                run = session.get_one(m.Run, uuid.UUID(run_id))
                run.summary_json = {k: v for k, v in run.summary_json.items() if k != "course"}
        self.problem(self.web.get("/api/versus", params={"run": runs}), 422, "read again")

    def test_a_run_whose_documents_cannot_be_read_spoils_no_other(self):
        with self.database.session() as session:
            known = {r.key: r.prices for r in contenders(session)}
            spoilt = next(r for r in list_runs(session) if known[str(r.id)].get("charger"))
            kit, summary = spoilt.kit, spoilt.summary_json
            spoilt.kit = {**kit, "charger": {**kit["charger"], "claimed_w": -5}}
            spoilt.summary_json = {**summary, "course": {**summary["course"], "checkins": "none"}}
        self.addCleanup(self.put_back, spoilt.id, kit, summary)
        with self.database.session() as session:
            found = {r.key: r for r in contenders(session)}
            whole, ribbons = with_power(session, list(found.values()))
        self.assertEqual(found.keys(), known.keys())
        self.assertEqual((len(whole), ribbons.keys()), (len(known), known.keys() - {str(spoilt.id)}))
        self.assertNotIn("charger", found[str(spoilt.id)].prices)
        self.assertIsNone(found[str(spoilt.id)].course.readings)
        others = {key: r.prices for key, r in found.items() if key != str(spoilt.id)}
        self.assertEqual(others, {key: prices for key, prices in known.items() if key != str(spoilt.id)})

    def put_back(self, run_id, kit, summary):
        with self.database.session() as session:
            run = session.get_one(m.Run, run_id)
            run.kit, run.summary_json = kit, summary

    def test_kit_of_the_shelf_gives_prices_and_packs_their_own_supply(self):
        with self.database.session() as session:
            runs = {r.factors.get("charger"): contender_of(r) for r in list_runs(session)}
            self.assertEqual(runs["Serac dock 15"].prices["charger"], (79.0, "EUR"))
            self.assertEqual(runs["Col bank 10"].factors["adapter"], "none (a pack)")
            self.assertNotIn("charger", runs["wired"].prices)


class Claims(VersusTest):
    def test_against_another_row(self):
        runs = self.offered(PHONE)["runs"]
        rows = self.compared(runs, start=10, end=80)["rows"]
        a, b = (next(n for n, r in enumerate(rows) if r["label"] == x) for x in ("wired", "Moraine magnet pad"))
        body = {"runs": runs, "start": 10, "end": 80, "text": "40 minutes sooner to 80 %", "a": a, "b": b}
        found = self.web.post("/api/versus/claim", json=body).json()
        self.assertEqual(found["checks"][0]["outcome"], "supported")
        self.assertEqual(found["about"], "wired, against Moraine magnet pad")
        self.assertEqual(found["said"], "40 min sooner to 80 %")
        alone = self.web.post("/api/versus/claim", json={**body, "text": "60 % in 45 minutes"}).json()
        self.assertEqual((alone["pair"], alone["about"]), (False, "wired"))
        self.assertTrue(alone["verdict"])

    def test_what_is_no_claim(self):
        runs = self.offered(PHONE)["runs"]
        ask = {"runs": runs, "text": "stays cool"}
        self.problem(self.web.post("/api/versus/claim", json=ask), 422, "says nothing about time")
        same = {**ask, "text": "35 % faster", "a": 1, "b": 1}
        self.problem(self.web.post("/api/versus/claim", json=same), 422, "needs two rows")
        self.problem(self.web.post("/api/versus/claim", json={**same, "b": 99}), 422, "no such row")


class OtherPhone(VersusTest):
    def carried(self, **asked):
        runs = self.rows(phone=PHONE)
        return self.web.post("/api/versus/carry", json={"runs": runs, **asked})

    def test_a_phone_of_the_shelf(self):
        found = self.carried(phone="Ostrel Mini").json()
        self.assertEqual((found["phone"], found["capacity_mah"], found["range_percent"]), ("Ostrel Mini", 3180, 15))
        rows = {r["label"]: r for r in found["rows"]}
        moraine = rows["Moraine magnet pad"]
        self.assertIs(moraine["same_tier"], True)
        self.assertAlmostEqual(moraine["ratio"], 3180 / 4620)
        self.assertAlmostEqual(moraine["high"] / moraine["estimate"], 1.15)
        # By wire the small phone takes 20 W, the large one 25 W.
        self.assertIs(rows["wired"]["same_tier"], False)
        # The small phone takes 12 W of a 15 W disc: another tier, and no estimate.
        self.assertIs(rows["Cairn disc 15"]["same_tier"], False)
        self.assertIsNone(rows["Cairn disc 15"]["estimate"])

    def test_a_phone_by_its_capacity_and_the_very_same(self):
        by_mah = self.carried(capacity_mah=4000).json()
        self.assertTrue(all(r["estimate"] for r in by_mah["rows"] if "Thin case" not in r["label"]))
        self.assertTrue(all(r["same_tier"] is None for r in by_mah["rows"]))
        own = self.carried(phone=PHONE.upper()).json()
        self.assertTrue(all(r["estimate"] is None and "very phone" in r["said"] for r in own["rows"]))

    def test_no_phone(self):
        self.problem(self.carried(), 422, "no other phone")
        self.problem(self.carried(phone="Nobody 5"), 422, "not on the shelf")
        self.problem(self.carried(capacity_mah=-5), 422)


class Table(VersusTest):
    def whole_table(self):
        """The table once no column is left to be made."""
        while (table := self.web.get("/api/versus/table").json())["left"]:
            time.sleep(0.1)
        return table

    def test_medians_places_and_what_is_missing(self):
        found = self.whole_table()
        fields = {(f["charger"], f["phone"]): f for f in found["fields"]}
        self.assertEqual(len(fields), len(found["chargers"]) * len(found["columns"]))
        cairn = fields["Cairn disc 15", PHONE]
        self.assertEqual({r["id"] for r in cairn["runs"]}, self.repeats())
        self.assertEqual(len(cairn["others"]), 2)
        self.assertGreater(cairn["median"], fields["wired", PHONE]["median"])
        self.assertEqual(fields["wired", PHONE]["place"], "1")
        empty = fields["Cairn disc 15", "Quill Lite"]
        self.assertEqual((empty["median"], empty["runs"]), (None, []))
        self.assertIn("the adapter decides", fields["Larch twin stand", PHONE]["pointless"])
        self.assertIn("still air", found["usual"])

    def test_missing_fields_go_into_a_plan(self):
        wanted = [{"phone": "Quill Lite", "charger": "Cairn disc 15"}, {"phone": "Tarn 9", "charger": "wired"}]
        draft = self.web.post("/api/versus/plan", json={"fields": wanted}).json()
        self.assertIn("Cairn disc 15, wired on Quill Lite, Tarn 9", draft["question"])
        card = self.web.get("/api/method").json()["cards"][0]["card"]
        wishes = {"start": "2027-03-01T08:00:00+01:00", "zone": "Europe/Zurich"}
        body = {"question": draft["question"], "card": card, "choice": draft["choice"], "wishes": wishes}
        preview = self.web.post("/api/plans/preview", json=body).json()
        run = {(c["phone"], c["row"]) for c in preview["cells"] if c["wanted"]}
        self.assertEqual(run, {("Quill Lite", "Cairn disc 15"), ("Tarn 9", "wired")})

    def test_what_is_not_on_the_shelf_cannot_be_planned(self):
        for field in ({"phone": "Nobody 5", "charger": "wired"}, {"phone": PHONE, "charger": "Nothing"}):
            self.problem(self.web.post("/api/versus/plan", json={"fields": [field]}), 422, "not on the shelf")
        self.problem(self.web.post("/api/versus/plan", json={"fields": []}), 422)
