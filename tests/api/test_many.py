"""Files of many runs over the API: seen before they are stored, stored all or none, known when they come again."""

import io

import openpyxl

from tests.afternoons import afternoon
from tests.api.test_runs import ApiTest

MINUTES = range(0, 200, 10)
NAMES = [f"Gully puck {n}" for n in range(1, 13)]


def levels(n):
    return [min(100, round(5 + (0.3 + 0.05 * n) * m)) for m in MINUTES]


def wide():
    rows = [["min", *NAMES], *([m, *(levels(n)[i] for n in range(12))] for i, m in enumerate(MINUTES))]
    return "\n".join(",".join(map(str, row)) for row in rows)


class Tables(ApiTest):
    def shown(self, upload):
        answer = self.web.get(f"/api/uploads/{upload['id']}/runs", params={"zone": "Europe/Zurich"})
        self.assertEqual(answer.status_code, 200, answer.text)
        return answer.json()

    def test_a_wide_sheet_becomes_twelve_runs_in_one_step(self):
        upload = self.sent(wide(), "wide.csv")
        self.assertEqual(upload["runs"], 12)
        shown = self.shown(upload)
        self.assertEqual([r["label"] for r in shown["runs"]], NAMES)
        self.assertEqual((shown["runs"][0]["from_percent"], shown["runs"][0]["readings"]), (5, 20))
        self.assertGreater(len(shown["runs"][0]["ribbon"]["pace"]), 0)
        self.assertEqual([r["read_before"] for r in shown["runs"]], [None] * 12)
        before = len(self.web.get("/api/runs").json())
        answer = self.web.post(
            "/api/runs/many",
            json={
                "upload": upload["id"],
                "runs": [
                    {"ns": [r["n"]], "label": r["label"], "factors": {"charger": r["label"]}} for r in shown["runs"]
                ],
                "factors": {"phone": "Tarn 9", "charger": "of all"},
                "case": {"capacity_mah": 4400, "nominal_v": 3.87},
            },
        )
        self.assertEqual(answer.status_code, 201, answer.text)
        keys = answer.json()["runs"]
        rows = {r["id"]: r for r in self.web.get("/api/runs").json()}
        self.assertEqual(len(rows), before + 12)
        self.assertEqual([rows[k]["factors"]["charger"] for k in keys], NAMES)
        self.assertEqual({rows[k]["factors"]["phone"] for k in keys}, {"Tarn 9"})
        run = self.web.get(f"/api/runs/{keys[3]}").json()
        self.assertEqual([c["percent"] for c in run["checkins"]], levels(3))
        self.assertEqual(run["files"][0]["name"], "wide.csv")
        again = self.shown(self.sent(wide() + "\n", "wide again.csv"))
        self.assertEqual([r["read_before"]["id"] for r in again["runs"]], keys)

    def test_all_or_none(self):
        upload = self.sent("min,A1,B2\n0,10,11\n10,20,23\n20,31,35\n30,40,47\n", "two.csv")
        before = len(self.web.get("/api/runs").json())
        wrong = {"upload": upload["id"], "runs": [{"ns": [1]}, {"ns": [7]}]}
        self.problem(self.web.post("/api/runs/many", json=wrong), 422, "there is no run 7")
        joined = {"upload": upload["id"], "runs": [{"ns": [1, 2]}]}
        self.problem(self.web.post("/api/runs/many", json=joined), 422, "only placings of a log")
        half = {"upload": upload["id"], "runs": [{"ns": [1]}], "case": {"capacity_mah": 4000}}
        self.problem(self.web.post("/api/runs/many", json=half), 422, "one is missing")
        self.assertEqual(len(self.web.get("/api/runs").json()), before)
        right = {"upload": upload["id"], "runs": [{"ns": [2], "label": "only B"}]}
        self.assertEqual(self.web.post("/api/runs/many", json=right).status_code, 201)
        self.assertEqual(self.web.post("/api/runs/many", json=right).status_code, 404, "the file is used up")

    def test_a_phone_that_is_known_brings_its_battery(self):
        self.web.post("/api/kit/line", json={"line": "phone Quill Lite 3300mAh 3.85V epp", "keep": True})
        upload = self.sent("phone,0,10,20,30\nQuill Lite,10,20,31,42\nOther,5,11,19,26\n", "rows.csv")
        answer = self.web.post("/api/runs/many", json={"upload": upload["id"], "runs": [{"ns": [1]}, {"ns": [2]}]})
        known, other = (self.web.get(f"/api/runs/{key}").json() for key in answer.json()["runs"])
        self.assertEqual((known["case"]["capacity_mah"], other["case"]["capacity_mah"]), (3300, None))

    def test_a_workbook_with_a_sheet_a_run_and_dates_by_the_clock_of_the_reader(self):
        book = openpyxl.Workbook()
        book.remove(book.active)
        for name, hour in (("morning", 8), ("evening", 20)):
            sheet = book.create_sheet(name)
            sheet.append(["when", "%"])
            for k in range(5):
                sheet.append([f"2027-07-01 {hour:02d}:{10 * k:02d}", 10 + 9 * k])
        content = io.BytesIO()
        book.save(content)
        upload = self.sent(content.getvalue(), "days.xlsx")
        body = {"upload": upload["id"], "runs": [{"ns": [1]}, {"ns": [2]}], "zone": "Europe/Zurich"}
        answer = self.web.post("/api/runs/many", json=body)
        self.assertEqual(answer.status_code, 201, answer.text)
        runs = [self.web.get(f"/api/runs/{key}").json() for key in answer.json()["runs"]]
        self.assertEqual([r["label"] for r in runs], ["morning", "evening"])
        self.assertEqual([r["started_at"] for r in runs], ["2027-07-01T06:00:00Z", "2027-07-01T18:00:00Z"])

    def test_a_log_of_four_placings_is_split_and_two_are_joined(self):
        time_s, watts, _ = afternoon(5, ("none",))
        log = "time_s,watts\n" + "\n".join(f"{t:.0f},{w:.3f}" for t, w in zip(time_s, watts, strict=True))
        upload = self.sent(log, "afternoon.csv")
        self.assertEqual(upload["runs"], 4)
        shown = self.shown(upload)
        self.assertTrue(all(r["ribbon"]["watts"] and r["kind"] == "log" for r in shown["runs"]))
        body = {"upload": upload["id"], "runs": [{"ns": [1]}, {"ns": [2, 3], "label": "both"}]}
        answer = self.web.post("/api/runs/many", json=body)
        self.assertEqual(answer.status_code, 201, answer.text)
        first, both = (self.web.get(f"/api/runs/{key}").json() for key in answer.json()["runs"])
        self.assertAlmostEqual(first["placed_s"], shown["runs"][0]["placed_min"] * 60, delta=15)
        lasts = shown["runs"][1]["minutes"] + shown["runs"][2]["minutes"]
        self.assertAlmostEqual(both["minutes"], lasts, delta=12)
        self.assertEqual(both["label"], "both")
