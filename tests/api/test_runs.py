"""The API on the real PostgreSQL: sending, understanding, reading, correcting, laying aside."""

import csv
import io
import json
import uuid
import zipfile

import openpyxl

from jaunecharge.store import models as m
from tests.cases import DATA
from tests.serving import ServedTest

METER = "time_s,volts,amps\n" + "".join(f"{t},9.0,{1.5 if t >= 60 else 0.05}\n" for t in range(4000))
CASE = {"capacity_mah": 4400, "nominal_v": 3.87, "claimed_w": 15}


class ApiTest(ServedTest):
    def send(self, content, name="meter.csv"):
        content = content.encode() if isinstance(content, str) else content
        return self.web.post("/api/uploads", params={"name": name}, content=content)

    def sent(self, content=METER, name="meter.csv"):
        answer = self.send(content, name)
        self.assertEqual(answer.status_code, 201, answer.text)
        return answer.json()

    def new_run(self, **more):
        use = {"upload": self.sent(more.pop("meter", METER))["id"], "roles": ["meter"]}
        return {"files": [use], "checkins": "0 10\n20 30\n40 52\n60 70", "case": CASE, **more}

    def stored(self, **more):
        answer = self.web.post("/api/runs", json=self.new_run(**more), headers={"jaunecharge-by": "R%C3%B6sli"})
        self.assertEqual(answer.status_code, 201, answer.text)
        return answer.json()

    def problem(self, answer, status, *words):
        self.assertEqual(answer.status_code, status, answer.text)
        self.assertEqual(answer.headers["content-type"], "application/problem+json")
        found = answer.json()
        self.assertLessEqual({"type", "title", "status", "detail"}, found.keys())
        self.assertEqual(found["status"], status)
        for word in words:
            self.assertIn(word, json.dumps(found, ensure_ascii=False))
        return found


class Reading(ApiTest):
    def test_a_run_goes_from_file_to_reading(self):
        run = self.stored(label="first", factors={"phone": "Tarn 9", "charger": "Cairn disc 15"}, note="by the window")
        found = self.web.get(f"/api/runs/{run['id']}").json()
        self.assertEqual(found["placed_s"], 60)
        self.assertEqual([c["minute"] for c in found["checkins"]], [0, 20, 40, 60])
        self.assertEqual(found["notes"][0]["text"], "by the window")
        self.assertEqual(found["files"][0]["name"], "meter.csv")
        energy = next(f for f in found["figures"] if f["key"] == "energy_in")
        self.assertAlmostEqual(energy["value"], 13.5 * 3939.5 / 3600 + 0.45 * 59.5 / 3600, places=3)
        self.assertIn(run["id"], [r["id"] for r in self.web.get("/api/runs").json()])

    def test_what_was_put_right_is_kept_under_a_name_and_offered_again(self):
        odd = METER.replace("time_s,volts,amps", "when,x,y")
        self.assertIsNone(self.sent(odd, "odd.csv")["mapping"])
        mapping = {
            "name": "Kitchen meter", "headings": ["when", "x", "y"], "time_form": "seconds",
            "columns": {"0": {"quantity": "time"}, "1": {"quantity": "volts", "unit": "V"}, "2": {"quantity": "amps"}},
        }  # fmt: skip
        self.assertEqual(self.web.put("/api/mappings", json=mapping).status_code, 200)
        offered = self.sent(odd.replace("when,x,y", "When, X ,Y"), "again.csv")
        self.assertEqual(offered["mapping"]["name"], "Kitchen meter")
        choice = {"columns": offered["mapping"]["columns"], "time_form": offered["mapping"]["time_form"]}
        answer = self.web.post(f"/api/uploads/{offered['id']}/understanding", json=choice)
        self.assertEqual((answer.json()["gives"], answer.json()["problems"]), (["meter", "socket"], []))
        self.assertIsNone(self.sent(METER.replace("time_s,volts,amps", "when,x,z"), "other.csv")["mapping"])
        self.web.put("/api/mappings", json={**mapping, "name": "kitchen METER", "comma": False})
        self.assertEqual([m["name"] for m in self.web.get("/api/mappings").json()], ["kitchen METER"])
        self.assertEqual(self.web.delete("/api/mappings/Kitchen meter").status_code, 204)
        self.assertIsNone(self.sent(odd, "odd.csv")["mapping"])
        self.problem(self.web.put("/api/mappings", json={**mapping, "name": " "}), 422, "it has no name")

    def test_a_summary_that_cannot_be_read_spoils_no_list(self):
        spoilt, other = self.stored(label="spoilt"), self.stored(label="whole", meter=METER + "4000,9,1.5\n")
        for broken in ({"version": 1, "ribbon": {"watts": "?"}}, {"version": "x"}):
            with self.database.session() as session:
                session.get_one(m.Run, spoilt["id"]).summary_json = broken
            rows = {r["id"]: r for r in self.web.get("/api/runs").json()}
            self.assertEqual(rows[spoilt["id"]]["summary"]["headline"], "*cannot be shown*")
            self.assertEqual(rows[other["id"]]["summary"]["headline"], other["summary"]["headline"])
            self.assertEqual(self.web.get("/api/exports/runs.csv").status_code, 200)

    def test_percentages_alone_are_a_run(self):
        new = {"checkins": "5 10\n15 21\n25 32\n35 43", "heat": "5 24 back\n35 37.5 back", "case": CASE}
        answer = self.web.post("/api/runs", json=new)
        self.assertEqual(answer.status_code, 201, answer.text)
        self.assertEqual(answer.json()["summary"]["headline"], "no meter: *1.10 points/min*")
        run = self.web.get(f"/api/runs/{answer.json()['id']}").json()
        self.assertEqual((run["placed_s"], run["minutes"], run["samples"]), (0, 35, 0))
        self.assertIn("Charges at *1.10 points a minute*", [s["text"] for s in run["sentences"]])
        [piece] = run["summary"]["ribbon"]["pace"]
        self.assertEqual((piece["start"], piece["end"], piece["points_per_min"]), (5, 35, 1.1))
        self.assertIn("A meter would add power", run["warnings"][0])
        self.problem(self.web.post("/api/runs", json={}), 422, "nothing in it to read")

    def test_it_reads_the_same_as_the_command_line(self):
        folder = DATA / "logs" / "continental-file"
        meter = self.sent((folder / "meter.csv.gz").read_bytes(), "meter.csv.gz")
        battery = self.sent((folder / "battery.csv").read_bytes(), "battery.csv")
        heat = self.sent((folder / "heat.csv.gz").read_bytes(), "heat.csv.gz")
        self.assertTrue(meter["understanding"]["comma"])
        self.assertEqual(
            [u["understanding"]["gives"] for u in (meter, battery, heat)], [["meter", "socket"], ["checkins"], ["heat"]]
        )
        uses = [{"upload": u["id"], "roles": [r]} for u, r in ((meter, "meter"), (battery, "checkins"), (heat, "heat"))]
        answer = self.web.post("/api/runs", json={"files": uses, "case": {**CASE, "ambient_c": 25}})
        found = self.web.get(f"/api/runs/{answer.json()['id']}").json()
        true = json.loads((folder / "truth.json").read_text())
        by_key = {f["key"]: f["value"] for f in found["figures"]}
        self.assertAlmostEqual(by_key["energy_in"] / true["energy_in_wh"], 1, delta=0.005)
        self.assertAlmostEqual(by_key["efficiency"] / 100 / true["efficiency_10_90"], 1, delta=0.05)
        fahrenheit = self.web.get(f"/api/runs/{found['id']}", params={"degrees": "F"}).json()
        self.assertTrue(any("°F" in s["text"] for s in fahrenheit["sentences"]))

    def test_the_same_recording_read_twice_is_a_copy_and_no_repeat(self):
        meter = METER + "4000,9.0,1.52\n"
        factors = {"phone": "Tarn 9", "charger": "Larch twin stand"}
        first, copy = (self.stored(meter=meter, label=name, factors=factors) for name in ("once", "twice"))
        found = self.web.get(f"/api/runs/{copy['id']}").json()
        self.assertEqual(found["copy_of"], {"id": first["id"], "label": "once"})
        self.assertIsNone(self.web.get(f"/api/runs/{first['id']}").json()["copy_of"])
        listed = {r["id"]: r["copy_of"] for r in self.web.get("/api/runs").json()}
        self.assertEqual((listed[first["id"]], listed[copy["id"]]["id"]), (None, first["id"]))
        other = self.stored(meter=METER + "4000,9.0,1.48\n", label="other", factors=factors)
        wired = self.stored(
            meter=METER.replace("9.0,1.5", "9.0,1.6"), label="w", factors={**factors, "charger": "wired"}
        )
        ids = [r["id"] for r in (first, copy, other, wired)]
        versus = self.web.get("/api/versus", params={"run": ids}).json()
        self.assertEqual([c["id"] for c in versus["copies"]], [copy["id"]])
        self.assertEqual(sorted(len(r["runs"]) for r in versus["rows"]), [1, 2])
        offered = [o for o in self.web.get("/api/versus/offered").json() if o["title"] == "Tarn 9"]
        self.assertNotIn(copy["id"], offered[0]["runs"])
        # With the copy in the bin nothing is left to be said.
        self.web.delete(f"/api/runs/{copy['id']}")
        self.assertEqual(
            self.web.get("/api/versus", params={"run": [i for i in ids if i != copy["id"]]}).json()["copies"], []
        )

    def test_the_same_file_twice_is_noticed(self):
        self.stored(meter=METER + "4000,9.0,1.5\n", label="once")
        again = self.sent(METER + "4000,9.0,1.5\n")
        self.assertEqual([r["label"] for r in again["read_before"]], ["once"])

    def test_a_wrong_column_is_put_right(self):
        upload = self.sent("time_s,x,y\n" + "".join(f"{t},9.0,1500\n" for t in range(200)))
        self.assertTrue(upload["understanding"]["problems"])
        choice = {"columns": {"1": {"quantity": "volts"}, "2": {"quantity": "amps", "unit": "mA"}}}
        found = self.web.post(f"/api/uploads/{upload['id']}/understanding", json=choice).json()
        self.assertEqual((found["problems"], found["gives"]), ([], ["meter", "socket"]))
        use = {"upload": upload["id"], "roles": ["meter"], "choice": choice}
        run = self.web.post("/api/runs", json={"files": [use]}).json()
        self.assertAlmostEqual(run["summary"]["best_settled_w"], 13.5)

    def test_progress_comes_line_by_line(self):
        answer = self.web.post("/api/runs", json=self.new_run(), headers={"accept": "application/x-ndjson"})
        lines = [json.loads(line) for line in answer.text.splitlines()]
        self.assertEqual({line["step"] for line in lines}, {"reading", "storing", "done"})
        self.assertTrue(uuid.UUID(lines[-1]["run"]))

    def test_pasted_check_ins_are_understood(self):
        for text, reference, minutes in (
            ("0 5\n15 22\n0:30 33", "after placing", [0, 15, 30]),
            ("time_s\tpercent\n60\t5\n660\t13", "log", [0, 10]),
            ("min\t%\n0\t5\n10\t13", "after placing", [0, 10]),
        ):
            with self.subTest(text):
                found = self.web.post("/api/checkins/understanding", json={"text": text}).json()
                self.assertEqual(found["reference"], reference)
                self.assertEqual([r["minute"] for r in found["rows"]], minutes)

    def test_the_series_keeps_its_extremes_and_shows_its_holes(self):
        lines = METER.splitlines()
        meter = "\n".join([*lines[:1001], "1000,9.0,3.3", *lines[1201:]])
        run = self.stored(meter=meter)
        found = self.web.get(f"/api/runs/{run['id']}/series", params={"points": 200}).json()
        self.assertLessEqual(len(found["minute"]), 210)
        self.assertAlmostEqual(max(w for w in found["watts"] if w is not None), 29.7)
        self.assertIn(None, found["watts"])
        zoomed = self.web.get(f"/api/runs/{run['id']}/series", params={"start": 5, "end": 6}).json()
        self.assertTrue(all(4.9 <= m <= 6.1 for m in zoomed["minute"]))

    def test_a_phone_tested_before_is_offered_again(self):
        self.stored(factors={"phone": "Ostrel Mini"}, case={**CASE, "battery_health": 0.9})
        phone = next(p for p in self.web.get("/api/phones").json() if p["label"] == "Ostrel Mini")
        self.assertEqual((phone["capacity_mah"], phone["nominal_v"], phone["battery_health"]), (4400, 3.87, 0.9))

    def test_when_an_absolute_log_began_is_kept(self):
        meter = "time,volts,amps\n" + "".join(f"2027-03-01T22:{t // 60:02}:{t % 60:02}Z,9,1.5\n" for t in range(900))
        run = self.stored(meter=meter, checkins="")
        self.assertEqual(run["started_at"], "2027-03-01T22:00:00Z")


class Refusals(ApiTest):
    def refused(self, answer, *words, status=422):
        before = self.before
        found = self.problem(answer, status, *words)
        self.assertEqual(self.rows(), before)
        return found

    def setUp(self):
        self.before = self.rows()
        self.lying = self.uploads()

    def uploads(self):
        return sorted(p.name for p in (self.folder / "uploads").glob("*"))

    def test_files_that_are_no_logs_leave_nothing(self):
        for content, words in (
            (b"", ("empty",)),
            (bytes(range(256)) * 40, ("binary",)),
            (b"time_s,volts,amps\n", ("no rows",)),
            (METER.replace("9,9.0", "9,9\0.0", 1).encode(), ("NUL",)),
            (b"\x1f\x8b\x08\x00\x00", ("gzip",)),
        ):
            with self.subTest(words):
                found = self.refused(self.send(content, "bad.csv"), *words)
                self.assertEqual(found["file"], "bad.csv")
                self.assertTrue(found["mend"])
        self.assertEqual(self.uploads(), self.lying)

    def test_two_hundred_megabytes_and_a_byte(self):
        block = bytes(1_000_000)
        blocks = (block for _ in range(200))

        def body():
            yield from blocks
            yield b"\0"

        answer = self.web.post("/api/uploads", params={"name": "large.csv"}, content=body())
        self.refused(answer, "200 MB", status=413)
        self.assertEqual(self.uploads(), self.lying)

    def test_what_cannot_be_read_leaves_no_row(self):
        for change, words in (
            ({"meter": METER.replace("57,9.0,0.05", "57,1000,0.05")}, ("1000 V", "59")),
            ({"meter": "time_s,v,u,vbus [V]\n" + "".join(f"{t},9,9,9\n" for t in range(99))}, ("all look like volts",)),
            ({"meter": METER.splitlines()[0] + "\n" + "\n".join(METER.splitlines()[:0:-1])}, ("backwards",)),
            ({"checkins": "0 10\n20 140"}, ("140", "check-ins")),
            ({"checkins": "time_s,percent\n-600,5\n600,9"}, ("before the meter log",)),
            ({"case": {"capacity_mah": -1, "nominal_v": 3.8}}, ("capacity_mah",)),
            ({"case": {"capacity_mah": 4400}}, ("give both",)),
            ({"label": "=HYPERLINK(1)"}, ("formula",)),
            ({"label": "<script>alert(1)</script>"}, ("markup",)),
            ({"factors": {"charger": "@x"}}, ("formula", "charger")),
            ({"zone": "Nowhere/Here"}, ("time zone",)),
        ):
            with self.subTest(words):
                self.refused(self.web.post("/api/runs", json=self.new_run(**change)), *words)

    def test_a_refusal_in_the_stream_leaves_no_row(self):
        new = self.new_run(checkins="0 10\n20 140")
        answer = self.web.post("/api/runs", json=new, headers={"accept": "application/x-ndjson"})
        last = json.loads(answer.text.splitlines()[-1])
        self.assertEqual((last["step"], last["problem"]["row"]), ("refused", 2))
        self.assertEqual(self.rows(), self.before)

    def test_a_file_that_was_not_sent(self):
        use = {"upload": str(uuid.uuid4()), "roles": ["meter"]}
        self.refused(self.web.post("/api/runs", json={"files": [use]}), "drop it again", status=404)

    def test_an_unknown_run_and_an_unknown_address(self):
        self.problem(self.web.get(f"/api/runs/{uuid.uuid4()}"), 404)
        self.problem(self.web.get("/api/nothing"), 404)
        self.problem(self.web.get("/api/runs/not-an-id"), 422, "run_id")


class Corrections(ApiTest):
    def test_a_correction_keeps_who_and_the_first_value(self):
        run = self.stored(label="frist")
        for revision, label in ((1, "first"), (2, "1st")):
            body = {"revision": revision, "label": label}
            answer = self.web.patch(f"/api/runs/{run['id']}", json=body, headers={"jaunecharge-by": "Anna"})
            self.assertEqual(answer.status_code, 200)
        found = self.web.get(f"/api/runs/{run['id']}").json()
        self.assertEqual(found["label"], "1st")
        self.assertEqual([(c["first"], c["now"], c["by"]) for c in found["corrections"]],
                         [("frist", "1st", "Anna"), ("frist", "first", "Anna")])  # fmt: skip

    def test_the_later_of_two_windows_is_told(self):
        run = self.stored()
        self.web.patch(f"/api/runs/{run['id']}", json={"revision": 1, "label": "one"})
        answer = self.web.patch(f"/api/runs/{run['id']}", json={"revision": 1, "label": "two"})
        self.problem(answer, 409, "another window")
        self.assertEqual(self.web.get(f"/api/runs/{run['id']}").json()["label"], "one")

    def test_other_check_ins_are_read_anew(self):
        run = self.stored()
        body = {"revision": 1, "text": "0 10\n20 60\n40 85", "reference": "after placing"}
        row = self.web.put(f"/api/runs/{run['id']}/checkins", json=body).json()
        self.assertEqual((row["summary"]["to_80"]["earliest"], row["summary"]["to_80"]["latest"]), (20, 40))
        found = self.web.get(f"/api/runs/{run['id']}").json()
        self.assertEqual(found["corrections"][0]["first"], "4 readings")
        self.assertEqual([c["percent"] for c in found["checkins"]], [10, 60, 85])

    def test_another_capacity_is_read_anew(self):
        run = self.stored()
        self.web.patch(f"/api/runs/{run['id']}", json={"revision": 1, "case": {**CASE, "capacity_mah": 2200}})
        after = self.web.get("/api/runs").json()
        found = next(r for r in after if r["id"] == run["id"])
        self.assertAlmostEqual(found["summary"]["efficiency"] / run["summary"]["efficiency"], 0.5, places=3)

    def test_a_deleted_run_comes_back_whole(self):
        run = self.stored()
        by = {"jaunecharge-by": "Anna"}
        self.assertEqual(self.web.delete(f"/api/runs/{run['id']}", headers=by).status_code, 204)
        deleted = self.web.get("/api/deleted-runs").json()
        self.assertEqual([(d["id"], d["by"]) for d in deleted], [(run["id"], "Anna")])
        self.problem(self.web.get(f"/api/runs/{run['id']}"), 404)
        self.assertNotIn(run["id"], [r["id"] for r in self.web.get("/api/runs").json()])
        self.web.post(f"/api/runs/{run['id']}/restored")
        self.assertEqual(len(self.web.get(f"/api/runs/{run['id']}").json()["checkins"]), 4)


class Clocks(ApiTest):
    METER = "time_s,volts,amps\n" + "".join(f"{t},9.0,{1.53 if t >= 900 else 0.05}\n" for t in range(6000))

    def uses(self, *more):
        meter = {"upload": self.sent(self.METER)["id"], "roles": ["meter"]}
        return [meter, *({"upload": self.sent(text, name)["id"], "roles": [role]} for text, name, role in more)]

    def test_it_is_asked_whose_clock_a_file_is_on(self):
        uses = self.uses(
            ("min,percent\n0,10\n20,30\n60,70\n", "b.csv", "checkins"),
            ("min,back °C\n25,30\n40,36\n", "h.csv", "heat"),
        )
        found = {c["upload"]: c["whose"] for c in self.web.post("/api/clocks", json={"files": uses}).json()}
        self.assertEqual(found, {uses[1]["upload"]: "placing", uses[2]["upload"]: None})
        uses[2]["whose"] = "placing"
        run = self.web.post("/api/runs", json={"files": uses, "case": CASE}).json()
        found = self.web.get(f"/api/runs/{run['id']}").json()
        self.assertEqual([c["minute"] for c in found["checkins"]], [0, 20, 60])
        self.assertTrue(any("b.csv are taken to count from the placing" in w for w in found["warnings"]))
        self.assertFalse(any("h.csv" in w for w in found["warnings"]))

    def test_typed_temperatures_are_understood_and_read(self):
        understood = lambda text: self.web.post("/api/temperatures/understanding", json={"text": text})  # noqa: E731
        shown = understood("10 98.4f\n20 36.9 pad").json()["rows"]
        self.assertEqual([(r["minute"], round(r["celsius"], 1)) for r in shown], [(10, 36.9), (20, 36.9)])
        self.assertEqual([r["place"] for r in shown], ["back", "pad"])
        self.problem(understood("10 warm"), 422, "is not a temperature")
        run = self.stored(heat="0 24\n30 98.4f", meter=METER + "4000,9.0,1.57\n")
        self.assertAlmostEqual(run["summary"]["hottest_c"], 36.89)

    def test_check_ins_and_temperatures_are_moved_by_a_stated_time_and_back(self):
        run = self.stored(heat="0 24\n30 36", meter=METER + "4000,9.0,1.58\n")
        url = f"/api/runs/{run['id']}"

        def read():
            found, series = self.web.get(url).json(), self.web.get(f"{url}/series").json()
            return [c["minute"] for c in found["checkins"]], series["temperatures"][0]["minute"]

        before = read()
        shift = lambda what, minutes: self.web.post(  # noqa: E731
            f"{url}/shifted", json={"revision": self.web.get(url).json()["revision"], "what": what, "minutes": minutes}
        )
        self.assertEqual(shift("check-ins", 5).status_code, 200)
        self.assertEqual(read(), ([m + 5 for m in before[0]], before[1]))
        self.assertEqual(shift("both", -5).status_code, 200)
        self.assertEqual(read(), (before[0], [m - 5 for m in before[1]]))
        shift("temperatures", 5)
        self.assertEqual(read(), before)
        self.problem(shift("check-ins", -600), 422, "before the meter log begins")
        corrections = self.web.get(url).json()["corrections"]
        self.assertEqual([c["now"] for c in corrections], ["+5 min", "-5 min", "+5 min"])
        self.problem(self.web.post(f"{url}/shifted", json={"revision": 1, "what": "both", "minutes": 5}), 409)

    def test_what_phone_and_charger_told_is_on_the_run_and_goes_out(self):
        phone = "time_s,Battery power (W)\n960,9.1\n1500,9.4\n"
        uses = self.uses((phone, "p.csv", "phone"))
        uses[1]["whose"] = "log"
        run = self.web.post("/api/runs", json={"files": uses, "case": CASE, "checkins": "0 10\n20 30"}).json()
        series = self.web.get(f"/api/runs/{run['id']}/series").json()
        self.assertEqual((series["phone_minute"], series["phone_watts"]), ([1.0, 10.0], [9.1, 9.4]))
        archive = zipfile.ZipFile(io.BytesIO(self.web.get(f"/api/exports/runs/{run['id']}.zip").content))
        self.assertIn("1500.0,9.4", archive.read("phone.csv").decode())


class NotesAndPictures(ApiTest):
    PNG = b"\x89PNG\r\n\x1a\n" + bytes(50)

    def test_a_note_at_a_minute_is_kept_deleted_and_brought_back(self):
        run = self.stored()
        note = self.web.post(f"/api/runs/{run['id']}/notes", json={"text": "moved it", "minute": 12.5}).json()
        self.assertEqual(note["minute"], 12.5)
        notes = lambda: self.web.get(f"/api/runs/{run['id']}").json()["notes"]  # noqa: E731
        self.web.delete(f"/api/notes/{note['id']}")
        self.assertEqual(notes(), [])
        self.web.post(f"/api/notes/{note['id']}/restored")
        self.assertEqual([n["text"] for n in notes()], ["moved it"])

    def test_a_picture_is_kept_byte_for_byte(self):
        run = self.stored()
        answer = self.web.post(f"/api/runs/{run['id']}/photos", params={"name": "ir.png"}, content=self.PNG)
        found = self.web.get(f"/api/photos/{answer.json()['id']}")
        self.assertEqual((found.content, found.headers["content-type"]), (self.PNG, "image/png"))

    def test_what_is_no_picture_is_refused(self):
        run = self.stored()
        answer = self.web.post(f"/api/runs/{run['id']}/photos", params={"name": "x.svg"}, content=b"<svg/>")
        self.problem(answer, 422, "not a picture")


class Exports(ApiTest):
    def test_a_run_comes_out_as_the_command_line_reads_it(self):
        note = "=1+1"
        run = self.stored(label="out", note=note)
        archive = zipfile.ZipFile(io.BytesIO(self.web.get(f"/api/exports/runs/{run['id']}.zip").content))
        self.assertLessEqual({"meter.csv", "battery.csv", "case.json", "reading.json"}, set(archive.namelist()))
        self.assertEqual(archive.read("originals/meter.csv").decode(), METER)
        self.assertEqual(archive.read("meter.csv").decode().splitlines()[0], "time_s,volts,amps")
        self.assertEqual(json.loads(archive.read("case.json"))["id"], run["id"])
        self.assertIn("'=1+1", archive.read("notes.csv").decode())

    def test_its_notes_and_pictures_come_along(self):
        run = self.stored(label="with pictures")
        self.web.post(f"/api/runs/{run['id']}/notes", json={"text": "moved the pad", "minute": 12})
        for _ in range(2):
            self.web.post(f"/api/runs/{run['id']}/photos", params={"name": "../ir.png"}, content=NotesAndPictures.PNG)
        archive = zipfile.ZipFile(io.BytesIO(self.web.get(f"/api/exports/runs/{run['id']}.zip").content))
        (note,) = csv.DictReader(io.StringIO(archive.read("notes.csv").decode()))
        self.assertEqual((note["note"], float(note["minute"])), ("moved the pad", 12.0))
        self.assertRegex(note["at"], r"^\d{4}-\d\d-\d\dT")
        pictures = list(csv.DictReader(io.StringIO(archive.read("pictures.csv").decode())))
        self.assertEqual([p["file"] for p in pictures], ["ir.png", "ir 2.png"])
        self.assertEqual(archive.read("pictures/ir 2.png"), NotesAndPictures.PNG)

    def test_the_table_has_dates_and_every_milestone(self):
        dated = "time,volts,amps\n" + "".join(
            f"2026-03-01T10:{s // 60:02d}:{s % 60:02d},9.0,{1.5 if s >= 60 else 0.05}\n" for s in range(3600)
        )
        run = self.stored(meter=dated, label="dated", zone="Europe/Zurich", checkins="0 10\n20 30\n40 52\n50 70")
        rows = csv.DictReader(io.StringIO(self.web.get("/api/exports/runs.csv").text))
        row = next(r for r in rows if r["id"] == run["id"])
        self.assertEqual((row["began_at"], row["zone"]), ("2026-03-01T10:00:00+01:00", "Europe/Zurich"))
        self.assertEqual((row["start_percent"], row["to_30_min"], row["to_30_earliest_min"]), ("10.0", "20.0", "0.0"))
        self.assertEqual((row["to_70_latest_min"], row["to_80_min"], row["copy_of"]), ("50.0", "", ""))

    def test_the_table_of_runs_as_csv_and_xlsx(self):
        self.stored(label="in the table")
        self.assertIn("in the table", self.web.get("/api/exports/runs.csv").text)
        book = openpyxl.load_workbook(io.BytesIO(self.web.get("/api/exports/runs.xlsx").content))
        self.assertIn("in the table", [c.value for c in book.active["A"]])


class Guarded(ApiTest):
    def test_a_foreign_host_or_origin_is_refused(self):
        self.problem(self.web.get("/api/runs", headers={"host": "example.org"}), 403)
        self.problem(self.web.get("/api/runs", headers={"origin": "http://example.org"}), 403)
        self.assertEqual(self.web.get("/api/runs", headers={"origin": self.address}).status_code, 200)

    def test_every_page_says_that_only_its_own_scripts_run(self):
        answer = self.web.get("/runs/some-client-route")
        self.assertEqual(answer.status_code, 200)
        self.assertIn("script-src 'self'", answer.headers["content-security-policy"])

    def test_health(self):
        self.assertEqual(self.web.get("/api/health").json()["status"], "ok")

    def test_files_outside_the_pages_are_not_given_out(self):
        for path in ("/../pyproject.toml", "/%2e%2e/pyproject.toml", "/assets/../../package.json"):
            self.assertNotIn("[project]", self.web.get(path).text)
