"""The shelf over the web: kit, chains, the table of the whole shelf, rehearsals and fits."""

import json
import uuid

from sqlalchemy.exc import IntegrityError

from jaunecharge.core.kit.fields import Flawed
from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.store import models as m
from jaunecharge.store.kit import add_piece
from tests.serving import ServedTest

SHELF = (
    "phone Ostrel Mini 3180mAh mpp@12 small",
    "phone Ostrel Max 4620mAh mpp large",
    "phone Quill Lite 3840mAh bpp",
    "puck Cairn disc mpp claims 15W",
    "pad Moraine pad magnet-only claims 15W",
    "adapter Plug 20 20W",
    "adapter Old plug 5V3A",
    "cable Braided 3A 1.5m",
    "pack Col bank 10000mAh 3.7V mpp 5V3A",
    "case Thin 1.2mm magnets",
)


class ShelfTest(ServedTest):
    def setUp(self):
        super().setUp()
        self.addCleanup(self.empty)
        self.ids = {}
        for line in SHELF:
            found = self.line(line, keep=True)
            self.assertEqual(found["problem"], "", line)
            kept = found["kept"]
            self.ids[kept["label"]] = kept["id"]

    def empty(self):
        with self.database.session() as session:
            for table in ("kit", "runs"):
                session.connection().exec_driver_sql(f"DELETE FROM {table}")

    def post(self, path, body, status=200):
        answer = self.web.post(f"/api{path}", json=body)
        self.assertEqual(answer.status_code, status, answer.text)
        return answer.json()

    def line(self, text, keep=False):
        return self.post("/kit/line", {"line": text, "keep": keep})

    def choice(self, charger="Cairn disc", phone="Ostrel Max", adapter="Plug 20", **more):
        ids = {"charger": charger, "phone": phone, "adapter": adapter, "cable": "Braided"}
        return {**{k: self.ids[v] for k, v in ids.items() if v}, **more}

    def labels(self, **query):
        return [k["label"] for k in self.web.get("/api/kit", params=query).json()]


class Kit(ShelfTest):
    def test_a_line_is_understood_before_it_is_kept(self):
        found = self.line("cable Long one 5A 2m")
        self.assertEqual(
            (found["kind"], found["label"], found["problem"], found["kept"]), ("cable", "Long one", "", None)
        )
        self.assertIn("carries 5 A", found["said"])
        self.assertNotIn("Long one", self.labels())
        self.assertIn("mAh", self.line("phone Nameless mpp")["problem"] + "mAh")
        self.assertIn("How many mAh has its battery?", self.line("phone Nameless mpp")["problem"])
        self.assertIn("begin with one of", self.line("lamp x")["problem"])
        self.assertIn("kind, the label", self.line("")["problem"])

    def test_a_form_says_what_is_wrong_with_each_field(self):
        answer = self.web.post("/api/kit", json={"kind": "phone", "fields": {"label": "", "capacity_mah": "many"}})
        self.assertEqual(answer.status_code, 422)
        self.assertEqual({f["field"] for f in answer.json()["flaws"]}, {"label", "capacity_mah", "accepts"})

    def test_labels_are_unique_whatever_their_case(self):
        for label in ("plug 20", "Plug 20"):
            answer = self.web.post("/api/kit", json={"kind": "cable", "fields": {"label": label}})
            self.assertEqual(answer.json()["flaws"][0]["field"], "label")
        self.assertIn("already", self.line("adapter PLUG 20 30W")["problem"])

    def test_change_retire_and_bring_back(self):
        piece = next(k for k in self.web.get("/api/kit").json() if k["label"] == "Plug 20")
        fields = {**piece["fields"], "rated_w": "30"}
        changed = self.web.put(f"/api/kit/{piece['id']}", json={"revision": piece["revision"], "fields": fields}).json()
        self.assertIn("15 V 2 A", changed["said"])
        stale = self.web.put(f"/api/kit/{piece['id']}", json={"revision": piece["revision"], "fields": fields})
        self.assertEqual(stale.status_code, 409)
        self.post(f"/kit/{piece['id']}/retired", {})
        self.assertNotIn("Plug 20", self.labels())
        self.assertEqual(self.labels(retired=True), ["Plug 20"])
        self.assertIn("deleted", self.line("adapter Plug 20 20W")["problem"])
        self.web.delete(f"/api/kit/{piece['id']}/retired")
        self.assertIn("Plug 20", self.labels())
        self.assertEqual(self.web.put(f"/api/kit/{uuid.uuid4()}", json={"revision": 1, "fields": {}}).status_code, 404)

    def test_out_and_in_again(self):
        for form in ("json", "csv"):
            text = self.web.get("/api/kit/export", params={"format": form}).text
            again = self.web.post("/api/kit/import", content=text, headers={"Content-Type": "text/plain"}).json()
            self.assertEqual((again["added"], len(again["left"])), ([], len(SHELF)))
            self.empty()
            back = self.web.post("/api/kit/import", content=text, headers={"Content-Type": "text/plain"}).json()
            self.assertEqual(len(back["added"]), len(SHELF))
            self.assertEqual(text, self.web.get("/api/kit/export", params={"format": form}).text)

    def test_an_import_is_whole_or_nothing(self):
        text = "kind,label,amps\ncable,New one,3\ncable,Bad one,many\n"
        answer = self.web.post("/api/kit/import?name=s.csv", content=text, headers={"Content-Type": "text/plain"})
        self.assertEqual((answer.status_code, answer.json()["row"]), (422, 3))
        self.assertNotIn("New one", self.labels())

    def test_kinds_describe_their_forms(self):
        kinds = {k["kind"]: k["fields"] for k in self.web.get("/api/kit/kinds").json()}
        self.assertEqual(len(kinds), 8)
        body = next(f for f in kinds["phone"] if f["name"] == "body")
        self.assertEqual((body["choices"], body["default"]), (["small", "medium", "large"], "medium"))


class Chains(ShelfTest):
    def cover(self, **choice):
        return [json.loads(line) for line in self.web.post("/api/coverage", json=choice).text.splitlines()]

    def test_a_chain_says_what_arrives_and_what_would_help(self):
        found = self.post("/chain", self.choice("Moraine pad"))
        self.assertEqual((found["narrowest"], found["reaches_claim"]), ("charger", False))
        self.assertIn("not 15", found["headline"])
        best = found["swaps"][0]
        self.assertEqual((best["link"], best["delivered_w"]), ("charger", 15.0))
        self.assertIn("instead of", best["said"])
        to_80 = next(m for m in found["forecast"]["to"] if m["percent"] == 80)
        self.assertTrue(to_80["low"] < to_80["likely"] < to_80["high"])
        self.assertTrue(all(g["origin"] for g in found["forecast"]["origins"]))

    def test_a_phone_that_gives_away_charges_another_but_not_itself(self):
        donor = self.line("phone Donor 5000mAh mpp gives_w:4.5", keep=True)["kept"]
        self.assertTrue(donor["wireless"])
        self.ids["Donor"] = donor["id"]
        found = self.post("/chain", self.choice("Donor"))
        self.assertEqual((found["adapter"], found["delivered_w"]["high"]), (None, 4.5))
        self.assertIn("cannot charge itself", self.post("/chain", self.choice("Donor", "Donor"), 422)["detail"])

    def test_wired_and_from_a_pack(self):
        wired = self.post("/chain", {**self.choice(charger="")})
        self.assertEqual([x["link"] for x in wired["links"]], ["adapter", "cable", "phone", "battery"])
        pack = self.post("/chain", self.choice("Col bank"))
        self.assertEqual(pack["links"][0]["link"], "charger")

    def test_what_is_no_chain(self):
        for wrong in (
            {"phone": str(uuid.uuid4())},
            {"phone": self.ids["Plug 20"]},
            self.choice(place="left"),
            self.choice(around={"ambient_c": 900}),
        ):
            answer = self.web.post("/api/chain", json=wrong)
            self.assertIn(answer.status_code, (404, 422), wrong)

    def test_the_whole_shelf(self):
        lines = [
            json.loads(x)
            for x in self.web.post("/api/coverage", json={"adapter": self.ids["Plug 20"]}).text.splitlines()
        ]
        self.assertEqual(lines[-1]["step"], "done")
        table = lines[-1]["coverage"]
        self.assertEqual([r["label"] for r in table["rows"]], ["Cairn disc", "Moraine pad", "Col bank", "wired"])
        alone = self.post("/chain", self.choice())
        cell = next(c for c in table["rows"][0]["cells"] if c["phone"] == self.ids["Ostrel Max"])
        self.assertEqual(
            cell["to_80"]["likely"], next(m for m in alone["forecast"]["to"] if m["percent"] == 80)["likely"]
        )
        again = self.web.post("/api/coverage", json={"adapter": self.ids["Plug 20"]}).text.splitlines()
        self.assertEqual((len(again), json.loads(again[0])["coverage"]), (1, table))
        self.line("phone Tarn 4400mAh epp", keep=True)
        self.assertEqual(len(self.cover()[-1]["coverage"]["phones"]), 4)


class Rehearsals(ShelfTest):
    def test_a_rehearsal_is_a_run_that_says_that_it_is_simulated(self):
        run = self.post("/rehearsals", {**self.choice("Moraine pad"), "seed": 7}, 201)
        self.assertTrue(run["simulated"])
        self.assertEqual(run["label"], "Ostrel Max on Moraine pad")
        shown = self.web.get(f"/api/runs/{run['id']}").json()
        self.assertTrue(shown["simulated"])
        self.assertIn("Simulated", shown["warnings"][0])
        self.assertIn("truth.json", " ".join(f["name"] for f in shown["files"]))
        self.assertIn("simulated", self.web.get("/api/exports/runs.csv").text)
        change = {"revision": shown["revision"], "case": {**shown["case"], "simulated": False, "claimed_w": 15}}
        corrected = self.web.patch(f"/api/runs/{run['id']}", json=change)
        self.assertTrue(corrected.json()["simulated"], "a correction does not make a measurement of it")
        self.web.delete(f"/api/runs/{run['id']}")
        self.assertTrue(self.web.get("/api/deleted-runs").json()[0]["simulated"])

    def test_the_run_keeps_the_kit_as_it_was(self):
        run = self.post("/rehearsals", self.choice(), 201)
        piece = next(k for k in self.web.get("/api/kit").json() if k["label"] == "Plug 20")
        self.web.put(f"/api/kit/{piece['id']}", json={"revision": 1, "fields": {**piece["fields"], "rated_w": "65"}})
        with self.database.session() as session:
            kept = session.connection().exec_driver_sql("SELECT kit FROM runs WHERE id = %s", (run["id"],)).scalar()
        self.assertEqual((kept["adapter"]["rated_w"], kept["adapter"]["id"]), (20.0, piece["id"]))
        self.assertEqual(set(kept), {"phone", "charger", "adapter", "cable"})

    def test_a_phone_is_fitted_to_a_measured_run_only(self):
        run = self.post("/rehearsals", {**self.choice(), "around": {"interval_min": 5}}, 201)
        path = f"/kit/{self.ids['Ostrel Max']}/fit"
        self.assertIn("simulated", self.post(path, {"run": run["id"]}, 422)["detail"])
        with self.database.session() as session:
            change = "UPDATE runs SET conditions = conditions - 'simulated' WHERE id = %s"
            session.connection().exec_driver_sql(change, (run["id"],))
        found = self.post(path, {"run": run["id"], "keep": True})
        self.assertLess(found["rms_points"], 2.0)
        phone = next(k for k in self.web.get("/api/kit").json() if k["label"] == "Ostrel Max")
        self.assertEqual(phone["fit"]["run_id"], run["id"])
        origins = self.post("/chain", self.choice())["forecast"]["origins"]
        self.assertTrue(any("fitted to" in g["origin"] for g in origins))
        self.assertIsNone(self.web.delete(f"/api{path}").json()["fit"])
        self.post(f"/kit/{self.ids['Plug 20']}/fit", {"run": run["id"]}, 422)


class Seeding(ShelfTest):
    def test_the_store_refuses_a_second_label_by_itself(self):
        with self.assertRaises(Flawed), self.database.session() as session:
            add_piece(session, kit_from_line("cable BRAIDED"), "")
        with self.assertRaises(IntegrityError), self.database.session() as session:
            session.add(m.Kit(kind="cable", label="braided", facts={}))


class More(ShelfTest):
    def test_the_best_adapter_of_the_shelf(self):
        found = self.post("/chain", {**self.choice(adapter=""), "best_adapter": True})
        self.assertEqual(found["adapter"], self.ids["Plug 20"])
        self.assertEqual(found["outcome"], "full")
        self.assertIsNone(self.post("/chain", {**self.choice("Col bank"), "best_adapter": True})["adapter"])

    def test_sharing_is_asked_of_the_chain(self):
        alone = self.post("/chain", self.choice())["delivered_w"]["high"]
        both = self.post("/chain", self.choice(phones_on_charger=2))["delivered_w"]["high"]
        self.assertLess(both, 0.6 * alone)
        beside = self.post("/chain", self.choice(chargers_on_adapter=2))
        self.assertIn("shared", " ".join(beside["advice"]))

    def test_a_place_on_a_twin_charger(self):
        twin = self.line('charger Twin form:multi-stand pads:"left: mpp; right: bpp"', keep=True)["kept"]
        self.assertEqual(twin["places"], ["left", "right"])
        self.ids["Twin"] = twin["id"]
        left = self.post("/chain", self.choice("Twin", place="left"))["delivered_w"]["high"]
        right = self.post("/chain", self.choice("Twin", place="right"))["delivered_w"]["high"]
        self.assertGreater(left, 2 * right)

    def test_a_case_and_a_warm_room_are_seen_in_the_forecast(self):
        hot = self.post("/chain", self.choice(around={"ambient_c": 34}))["forecast"]
        self.assertGreater(hot["throttle"]["minutes_below_80"], 5)
        self.assertIsNone(self.post("/chain", self.choice(around={"ambient_c": 20}))["forecast"]["throttle"])
        cased = self.post("/chain", {**self.choice(), "case": self.ids["Thin"]})
        coupling = next(x for x in cased["links"] if x["link"] == "coupling")
        self.assertIn("Thin", coupling["label"])

    def test_a_table_that_cannot_be_made_says_why(self):
        answer = self.web.post("/api/coverage", json={"adapter": self.ids["Braided"]})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("is a cable", answer.json()["detail"])
        self.assertEqual(self.web.post("/api/coverage", json={"around": {"airflow": "storm"}}).status_code, 422)

    def test_a_shelf_without_phones_has_an_empty_table(self):
        for label in ("Ostrel Mini", "Ostrel Max", "Quill Lite"):
            self.post(f"/kit/{self.ids[label]}/retired", {})
        last = json.loads(self.web.post("/api/coverage", json={}).text.splitlines()[-1])
        self.assertEqual((last["step"], last["coverage"]["phones"]), ("done", []))

    def test_two_rehearsals_with_one_seed_are_alike(self):
        one, two = (self.post("/rehearsals", {**self.choice(), "seed": 4}, 201) for _ in range(2))
        self.assertEqual(one["summary"]["energy_in_wh"], two["summary"]["energy_in_wh"])
        self.assertNotEqual(one["id"], two["id"])
        zipped = self.web.get(f"/api/exports/runs/{one['id']}.zip")
        self.assertEqual(zipped.status_code, 200)

    def test_a_fit_needs_the_charger_of_the_run(self):
        run = self.post("/rehearsals", self.choice(), 201)
        with self.database.session() as session:
            change = "UPDATE runs SET conditions = conditions - 'simulated', kit = kit - 'charger' WHERE id = %s"
            session.connection().exec_driver_sql(change, (run["id"],))
        answer = self.post(f"/kit/{self.ids['Ostrel Max']}/fit", {"run": run["id"]}, 422)
        self.assertIn("charger is not on the shelf", answer["detail"])

    def test_stating_a_chain_later_keeps_the_kit_of_that_day(self):
        run = self.post("/rehearsals", self.choice(), 201)
        factors = {**run["factors"], "charger": "Moraine pad"}
        self.web.patch(f"/api/runs/{run['id']}", json={"revision": run["revision"], "factors": factors})
        with self.database.session() as session:
            kept = session.connection().exec_driver_sql("SELECT kit FROM runs WHERE id = %s", (run["id"],)).scalar()
        self.assertEqual(kept["charger"]["label"], "Moraine pad")
