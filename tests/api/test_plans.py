"""Plans over the web: worked out, kept, followed, planned anew, exported; and cards of one's own."""

import datetime as dt
import json
import uuid
from dataclasses import replace
from zoneinfo import ZoneInfo

import icalendar

from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.core.schedule.problem import schedule_of
from jaunecharge.core.schedule.solver import solve
from jaunecharge.store import models as m
from jaunecharge.store.kit import add_all
from jaunecharge.store.plan.plans import get_plan, keep_better, left_of, slots_of
from tests.serving import ServedTest

LINES = (
    "phone Ostrel Mini 3180mAh mpp@12 small magnets", "phone Ostrel Max 4620mAh mpp large magnets",
    "phone Quill Lite 3840mAh bpp", "puck Cairn disc mpp claims 15W", "stand Serac dock mpp claims 15W switchable",
    "pad Moraine pad magnet-only claims 15W", "adapter Plug 20 20W", "adapter Old plug 5V1A", "cable Braided 3A",
    "case Thin 1.2mm magnets",
)  # fmt: skip
TEN = {"name": "From ten to full"}
ZURICH = ZoneInfo("Europe/Zurich")


def hours_ago(hours):
    return dt.datetime.now(dt.UTC) - dt.timedelta(hours=hours)


class PlanTest(ServedTest):
    def setUp(self):
        super().setUp()
        with self.database.session() as session:
            for table in ("plans", "cards", "runs", "kit"):
                session.connection().exec_driver_sql(f"DELETE FROM {table}")
            add_all(session, [kit_from_line(line) for line in LINES], "")
        self.ids = {k["label"]: k["id"] for k in self.web.get("/api/kit").json()}

    def asked(self, phones=("Ostrel Mini", "Ostrel Max"), chargers=("Cairn disc", "Moraine pad"), card=TEN, wishes=None,
              question="Which disc?", **choice):  # fmt: skip
        picked = {
            "phones": [self.ids[p] for p in phones],
            "chargers": [{"id": self.ids[c]} for c in chargers],
            "adapter": self.ids["Plug 20"],
            "cable": self.ids["Braided"],
            **choice,
        }
        all_day = [{"begins": "00:00", "ends": "24:00"}]
        wished = {"start": dt.datetime.now(ZURICH).strftime("%Y-%m-%dT%H:%M"), "zone": "Europe/Zurich",
                  "attended": all_day, "meters": 2, **(wishes or {})}  # fmt: skip
        return {"question": question, "card": card, "choice": picked, "wishes": wished}

    def post(self, path, body=None, status=200):
        answer = self.web.post(f"/api{path}", json=body)
        self.assertEqual(answer.status_code, status, answer.text)
        return answer.json()

    def plan(self, **more):
        return self.post("/plans", self.asked(**more), 201)

    def tell(self, slot, what, status=200, **more):
        return self.post(f"/slots/{slot['id']}/happened", {"what": what, **more}, status)

    def slot(self, plan, slot):
        return next(s for s in plan["slots"] if s["id"] == slot["id"])


class Preview(PlanTest):
    def test_the_matrix_with_its_reasons_and_what_it_shows(self):
        found = self.post("/plans/preview", self.asked(phones=("Ostrel Max", "Quill Lite"), wired=True))
        self.assertEqual((found["runs"], found["refused"]), (8, ""))
        cells = {(c["phone"], c["row"]): c for c in found["cells"]}
        self.assertEqual(len(cells), 6)
        lite = cells["Quill Lite", "Cairn disc"]
        self.assertEqual(lite["pointless"] == "", lite["wanted"])
        self.assertGreater(cells["Ostrel Max", "Moraine pad"]["minutes"], cells["Ostrel Max", "Cairn disc"]["minutes"])
        self.assertIn("Would detect a difference of", found["findings"]["shows"])
        self.assertRegex(found["findings"]["one_more"], r"A second round: \*\d+ min\*, \*.+\* more\.")
        self.assertEqual(len(found["findings"]["trades"]), 20)
        self.assertIsNotNone(found["over_at"])
        self.assertEqual(self.rows()["plans"], 0)

    def test_a_pointless_cell_is_forced(self):
        weak = self.asked(phones=("Ostrel Max",), chargers=("Cairn disc",), adapter=self.ids["Old plug"])
        found = self.post("/plans/preview", weak)
        self.assertIn("does not charge", found["cells"][0]["pointless"])
        self.assertIn("every cell is left out", found["refused"])
        weak["choice"]["forced"] = [found["cells"][0]["key"]]
        self.assertEqual(self.post("/plans/preview", weak)["runs"], 1)

    def test_what_cannot_be_is_said_and_the_matrix_stays(self):
        nothing = self.post("/plans/preview", self.asked(phones=()))
        self.assertIn("Pick at least one phone", nothing["refused"])
        short = [{"begins": "08:00", "ends": "09:00"}]
        narrow = self.post("/plans/preview", self.asked(wishes={"attended": short}))
        self.assertIn("longest attended stretch is 1 h 00", narrow["refused"])
        self.assertEqual(len(narrow["cells"]), 4)
        past = self.post("/plans/preview", self.asked(wishes={"end": "2020-01-01T08:00"}))
        self.assertIn("end comes before the start", past["refused"])


class Refused(PlanTest):
    def refused(self, said, **more):
        answer = self.web.post("/api/plans", json=self.asked(**more))
        self.assertEqual(answer.status_code, 422, answer.text)
        problem = answer.json()
        self.assertIn(said, problem["detail"] + problem["mend"])
        self.assertTrue(problem["mend"])
        self.assertEqual(self.rows()["plans"], 0)

    def test_bad_plans_say_what_would_mend_them(self):
        self.refused("Pick at least one phone", phones=())
        self.refused("length zero", wishes={"attended": [{"begins": "08:00", "ends": "08:00"}]})
        self.refused("no attended hours", wishes={"attended": []})
        self.refused("end comes before the start", wishes={"end": "2020-01-01T08:00"})
        self.refused("10,000 runs", phones=("Ostrel Max",), chargers=("Cairn disc",), repeats=10_000)
        self.refused("runs are more than anybody makes", repeats=300)
        self.refused("no time zone", wishes={"zone": "Nowhere"})
        self.refused("0 meters", wishes={"meters": 0})
        self.refused("is refused", card={"name": "x", "repeats": 0})
        self.refused("hardly a charge", card={"name": "x", "end": "to eighty", "start": "custom", "start_percent": 79})
        self.refused("formula", question="=1+1")

    def test_a_phone_without_capacity(self):
        with self.database.session() as session:
            piece = session.get(m.Kit, uuid.UUID(self.ids["Ostrel Max"]))
            piece.facts = {**piece.facts, "capacity_mah": 0}
        answer = self.web.post("/api/plans", json=self.asked())
        self.assertEqual(answer.status_code, 422)
        self.assertIn("capacity", answer.json()["detail"])

    def test_an_end_that_is_too_soon_is_impossible_and_says_what_would_help(self):
        soon = (dt.datetime.now(ZURICH) + dt.timedelta(hours=6)).strftime("%Y-%m-%dT%H:%M")
        answer = self.web.post("/api/plans", json=self.asked(wishes={"end": soon}))
        self.assertEqual((answer.status_code, answer.json()["type"]), (422, "urn:jaunecharge:impossible"))
        self.assertIn("end you asked for", answer.json()["detail"])
        self.assertIn("A later end", answer.json()["mend"])


class Kept(PlanTest):
    def test_a_plan_is_kept_with_its_schedule(self):
        plan = self.plan(seed=7)
        self.assertEqual(len(plan["slots"]), 6)
        self.assertIn("seed 7", plan["findings"]["why_order"])
        self.assertEqual(plan["next"]["kind"], "drain")
        self.assertIn("bottleneck", plan["schedule"]["pace"])
        self.assertEqual(plan, {**self.web.get(f"/api/plans/{plan['id']}").json(), "now": plan["now"],
                                "slots": plan["slots"]})  # fmt: skip
        [row] = self.web.get("/api/plans").json()
        self.assertEqual((row["question"], row["counts"]), ("Which disc?", {"planned": 6}))
        closing = [s for s in plan["slots"] if s["closing"]]
        self.assertEqual(len(closing), 2)
        for phone in ("Ostrel Mini", "Ostrel Max"):
            own = sorted((s for s in plan["slots"] if s["phone"] == phone), key=lambda s: s["start"])
            self.assertEqual(own[0]["said"], own[-1]["said"])
            self.assertTrue(own[-1]["closing"])

    def test_a_better_schedule_is_sought_and_kept(self):
        plan = self.plan(phones=("Ostrel Mini", "Ostrel Max"), repeats=2)
        told = [json.loads(line) for line in
                self.web.post(f"/api/plans/{plan['id']}/improved?seconds=2").text.splitlines()]  # fmt: skip
        self.assertEqual(told[-1]["step"], "done")
        self.assertLessEqual({t["step"] for t in told}, {"waiting", "running", "searching", "better", "done"})
        last = told[-1]["plan"]
        self.assertLessEqual(last["schedule"]["over_at"], plan["schedule"]["over_at"])
        self.assertTrue(last["schedule"]["searched"])
        self.assertEqual(self.web.get(f"/api/plans/{plan['id']}").json()["schedule"], last["schedule"])

    def test_a_search_does_not_overwrite_what_happened_meanwhile(self):
        plan = self.plan()
        with self.database.session() as session:
            kept = get_plan(session, uuid.UUID(plan["id"]))
            revision, problem = kept.revision, left_of(session, kept, dt.datetime.now(dt.UTC))
        self.tell(plan["slots"][0], "drain")
        found = solve(problem, 0.3)
        with self.database.session() as session:
            self.assertFalse(keep_better(session, kept.id, revision, problem, found))

    def test_a_worse_schedule_does_not_take_the_place_of_a_better_one(self):
        plan = self.plan()
        with self.database.session() as session:
            kept = get_plan(session, uuid.UUID(plan["id"]))
            problem = left_of(session, kept, dt.datetime.now(dt.UTC))
            good = solve(problem, 1.0)
            later = [replace(s, **{k: getattr(s, k) + 1440 for k in ("drain_start", "start", "end", "ready_again")})
                     for s in good.slots]  # fmt: skip
            self.assertTrue(keep_better(session, kept.id, kept.revision, problem, schedule_of(problem, later)))
        shown = self.web.get(f"/api/plans/{plan['id']}").json()
        self.assertEqual(shown["schedule"]["over_at"], plan["schedule"]["over_at"])

    def test_changing_it_keeps_what_has_begun(self):
        plan = self.plan()
        first = min(plan["slots"], key=lambda s: s["start"])
        self.tell(first, "begin", at=hours_ago(0.01).isoformat())
        revision = self.web.get(f"/api/plans/{plan['id']}").json()["revision"]
        body = {**self.asked(chargers=("Cairn disc", "Serac dock", "Moraine pad"), question="Which of three?"),
                "revision": revision}  # fmt: skip
        answer = self.web.put(f"/api/plans/{plan['id']}", json=body)
        self.assertEqual(answer.status_code, 200, answer.text)
        changed = answer.json()
        self.assertEqual((len(changed["slots"]), changed["question"]), (8, "Which of three?"))
        self.assertEqual(self.slot(changed, first)["state"], "running")
        self.assertEqual(changed["changes"][-1]["why"], "the plan was changed")
        stale = self.web.put(f"/api/plans/{plan['id']}", json=body)
        self.assertEqual(stale.status_code, 409)

    def test_the_rest_is_let_go_and_taken_up_again(self):
        plan = self.plan()
        self.assertIsNone(plan["stopping"])
        first = plan["slots"][0]
        self.tell(first, "begin", at=hours_ago(1).isoformat())
        rest = f"/api/plans/{plan['id']}/rest"
        gone = self.web.put(rest, json={"let_go": True}).json()
        self.assertEqual(gone["counts"], {"running": 1, "let go": len(plan["slots"]) - 1})
        self.assertEqual(self.slot(gone, plan["slots"][1])["may"], [])
        self.tell(plan["slots"][1], "begin", 422)
        again = self.web.put(rest, json={"let_go": False}).json()
        self.assertEqual(again["counts"], {"running": 1, "planned": len(plan["slots"]) - 1})
        self.assertEqual(self.web.put(f"/api/plans/{uuid.uuid4()}/rest", json={"let_go": True}).status_code, 404)

    def test_laid_aside_and_brought_back(self):
        plan = self.plan()
        self.assertEqual(self.web.delete(f"/api/plans/{plan['id']}").status_code, 204)
        self.assertEqual(self.web.get("/api/plans").json(), [])
        self.assertEqual(self.web.get(f"/api/plans/{plan['id']}").status_code, 404)
        self.assertEqual(len(self.web.get("/api/plans?deleted=true").json()), 1)
        self.post(f"/plans/{plan['id']}/restored")
        self.assertEqual(len(self.web.get("/api/plans").json()), 1)


class Followed(PlanTest):
    def setUp(self):
        super().setUp()
        start = (dt.datetime.now(ZURICH) - dt.timedelta(hours=12)).strftime("%Y-%m-%dT%H:%M")
        self.made = self.plan(wishes={"start": start})
        self.first = min(self.made["slots"], key=lambda s: s["start"])

    def check(self, plan_id):
        """What is left of the plan, held against the validator."""
        with self.database.session() as session:
            plan = get_plan(session, uuid.UUID(plan_id))
            problem = left_of(session, plan, dt.datetime.now(dt.UTC))
            slots = {str(s.id): s for s in slots_of(session, plan.id)}
            for t in problem.tasks:
                self.assertGreaterEqual(slots[t.id].end_at, slots[t.id].start_at)
                if t.begun is None:
                    self.assertGreaterEqual(slots[t.id].drain_start, problem.start - dt.timedelta(minutes=15))

    def test_drained_begun_over_and_cool(self):
        self.tell(self.first, "drain", at=hours_ago(9).isoformat())
        plan = self.tell(self.first, "drained", at=hours_ago(5).isoformat())
        self.assertEqual(plan["findings"]["learned"][self.first["phone"]], 1)
        own = [s for s in plan["slots"] if s["phone"] == self.first["phone"] and s["state"] == "planned"]
        forecast = self.made["findings"]["drains"][self.first["phone"]]
        took = {self.minutes(s["drain_start"], s["drain_end"]) for s in own}
        self.assertEqual(took, {-(-(forecast + 240) // 10) * 5})
        self.tell(self.first, "begin", at=hours_ago(5).isoformat())
        self.tell(self.first, "end", at=hours_ago(3).isoformat())
        plan = self.tell(self.first, "cool", at=hours_ago(2).isoformat())
        found = self.slot(plan, self.first)
        self.assertEqual((found["state"], found["may"][0]), ("done", "void"))
        self.assertEqual(plan["counts"], {"done": 1, "planned": 5})
        self.check(plan["id"])

    def minutes(self, begins, ends):
        return (dt.datetime.fromisoformat(ends) - dt.datetime.fromisoformat(begins)).total_seconds() / 60

    def test_a_void_run_is_made_again_and_can_be_undone(self):
        self.tell(self.first, "begin", at=hours_ago(1).isoformat())
        self.tell(self.first, "void", 422)
        plan = self.tell(self.first, "void", reason="fan was off")
        self.assertEqual(plan["counts"], {"void": 1, "planned": 6})
        self.assertEqual(self.slot(plan, self.first)["void_reason"], "fan was off")
        self.assertIn("is void: fan was off", plan["changes"][-1]["why"])
        undone = self.web.delete(f"/api/slots/{self.first['id']}/happened").json()
        self.assertEqual(undone["counts"], {"running": 1, "planned": 5})
        again = self.tell(self.first, "void", reason="fan was off", again=False)
        self.assertEqual(again["counts"], {"void": 1, "planned": 5})

    def test_what_has_begun_never_moves(self):
        began = hours_ago(0.5).isoformat()
        self.tell(self.first, "begin", at=began)
        plan = self.post(f"/plans/{self.made['id']}/replanned")
        self.assertEqual(plan["changes"][-1]["why"], "rescheduled from here")
        moved = self.slot(plan, self.first)
        self.assertEqual(dt.datetime.fromisoformat(moved["start"]), dt.datetime.fromisoformat(began))
        for s in plan["slots"]:
            if s["state"] == "planned":
                self.assertGreaterEqual(dt.datetime.fromisoformat(s["drain_start"]), hours_ago(0.02))
        self.check(plan["id"])

    def test_what_cannot_happen_is_refused(self):
        self.assertIn("it is planned", self.tell(self.first, "end", 422)["detail"])
        self.assertIn("not cooling down", self.tell(self.first, "cool", 422)["detail"])
        self.assertIn("still to come", self.tell(self.first, "begin", 422, at=hours_ago(-2).isoformat())["detail"])
        self.tell(self.first, "begin", at=hours_ago(1).isoformat())
        self.assertIn("before what happened", self.tell(self.first, "end", 422, at=hours_ago(2).isoformat())["detail"])
        other = self.made["slots"][-1]
        answer = self.web.delete(f"/api/slots/{other['id']}/happened")
        self.assertIn("nothing has happened", answer.json()["detail"])
        self.assertEqual(self.web.delete(f"/api/slots/{uuid.uuid4()}/happened").status_code, 404)

    def test_when_all_is_over_limits_go_back_on(self):
        plan = self.made
        self.assertEqual(plan["reminder"], "")
        for s in plan["slots"]:
            plan = self.tell(s, "void", reason="stopped", again=False)
        self.assertIn("charge limits", plan["reminder"])
        self.assertIsNone(plan["next"])
        self.assertEqual((plan["tonight"], plan["after_tonight"]), ([], "Nothing is left to do."))

    def test_the_calendar_and_the_table(self):
        self.tell(self.first, "drain", at=hours_ago(0.1).isoformat())
        text = self.web.get(f"/api/plans/{self.made['id']}/calendar.ics")
        self.assertIn("text/calendar", text.headers["content-type"])
        calendar = icalendar.Calendar.from_ical(text.content)
        said = [str(e["SUMMARY"]) for e in calendar.walk("VEVENT")]
        self.assertEqual(len([s for s in said if s.startswith("Drain Ostrel")]), 5)
        self.assertEqual(len([s for s in said if s.startswith("Start")]), 6)
        self.assertEqual(sum("charge limits" in s for s in said), 1)
        planned = self.web.get(f"/api/plans/{self.made['id']}").json()
        starts = {dt.datetime.fromisoformat(s["start"]) for s in planned["slots"]}
        theirs = {e["DTSTART"].dt for e in calendar.walk("VEVENT") if str(e["SUMMARY"]).startswith("Start")}
        self.assertEqual(theirs, starts)
        rows = self.web.get(f"/api/plans/{self.made['id']}/schedule.csv").text.splitlines()
        self.assertEqual(len(rows), 7)
        self.assertIn("draining", rows[1])


class Runs(PlanTest):
    """A finished run finds its slot, and keeps its card."""

    def read(self, slot=None, **factors):
        rows = "\n".join(f"{t},{9.0},{0.05 if t < 60 else 1.5}" for t in range(0, 4000, 10))
        content = f"time_s,volts,amps\n{rows}\n"
        upload = self.web.post("/api/uploads", content=content.encode(), params={"name": f"{uuid.uuid4()}.csv"},
                               headers={"Content-Type": "application/octet-stream"})  # fmt: skip
        self.assertEqual(upload.status_code, 201, upload.text)
        body = {
            "files": [{"upload": upload.json()["id"], "roles": ["meter"]}],
            "checkins": "0 10\n30 40\n60 70",
            "factors": {"phone": "Ostrel Max", "charger": "Cairn disc", **factors},
            "slot": slot,
        }
        return self.post("/runs", body, 201)

    def test_it_fills_the_slot_that_runs(self):
        plan = self.plan()
        slot = next(s for s in plan["slots"] if s["phone"] == "Ostrel Max" and s["said"] == "Cairn disc")
        self.tell(slot, "begin")
        run = self.read()
        found = self.web.get(f"/api/plans/{plan['id']}").json()
        filled = self.slot(found, slot)
        self.assertEqual((filled["state"], filled["run"], filled["run_label"]), ("done", run["id"], run["label"]))
        shown = self.web.get(f"/api/runs/{run['id']}").json()
        self.assertEqual((shown["method"]["card"], shown["method"]["plan"]), ("From ten to full", plan["id"]))
        self.assertEqual(shown["factors"]["method"], "From ten to full")

    def test_it_fills_none_that_does_not_agree(self):
        plan = self.plan()
        slot = next(s for s in plan["slots"] if s["phone"] == "Ostrel Max" and s["said"] == "Cairn disc")
        self.tell(slot, "begin")
        run = self.read(charger="Moraine pad")
        self.assertIsNone(self.web.get(f"/api/runs/{run['id']}").json()["method"])
        self.assertEqual(self.slot(self.web.get(f"/api/plans/{plan['id']}").json(), slot)["state"], "running")

    def test_the_slot_says_what_a_run_will_state_and_takes_it(self):
        plan = self.plan()
        slot = next(s for s in plan["slots"] if s["phone"] == "Ostrel Max" and s["said"] == "Cairn disc")
        ref = self.web.get(f"/api/slots/{slot['id']}").json()
        self.assertEqual((ref["factors"]["adapter"], ref["interval_min"], ref["ambient_c"]), ("Plug 20", 10.0, 25.0))
        run = self.read(slot=slot["id"])
        filled = self.slot(self.web.get(f"/api/plans/{plan['id']}").json(), slot)
        self.assertEqual((filled["state"], filled["run"]), ("done", run["id"]))

    def test_a_run_keeps_its_card_also_after_the_card_changes(self):
        mine = {**TEN, "name": "Mine", "interval_min": 5}
        card = self.post("/method/cards", {"card": mine}, 201)
        plan = self.plan(card=card["card"])
        self.tell(plan["slots"][0], "begin")
        other = self.read(method="Mine", charger="Serac dock")
        change = {"card": {**mine, "interval_min": 15}, "revision": card["revision"]}
        changed = self.web.put(f"/api/method/cards/{card['id']}", json=change).json()
        self.assertEqual(changed["card"]["interval_min"], 15)
        for run in (other["id"],):
            said = self.web.get(f"/api/runs/{run}").json()["method"]["said"]
            self.assertIn("every 5 min", said)
        self.assertEqual(self.web.get(f"/api/plans/{plan['id']}").json()["card"]["interval_min"], 5)


class Cards(PlanTest):
    def test_everything_a_plan_can_be_made_of(self):
        found = self.web.get("/api/method").json()
        self.assertEqual(len(found["cards"]), 6)
        self.assertTrue(all(c["id"] is None for c in found["cards"]))
        self.assertEqual({f["name"] for f in found["factors"] if not f["chosen_elsewhere"]} & {"case", "airflow"},
                         {"case", "airflow"})  # fmt: skip
        self.assertEqual(len(found["orders"]), 3)

    def test_own_cards_are_added_changed_retired_and_brought_back(self):
        made = self.post("/method/cards", {"card": {"name": "Night", "end": "to eighty", "start": "from dead"}}, 201)
        self.assertTrue(made["deep"])
        taken = self.web.post("/api/method/cards", json={"card": {"name": "from TEN to full"}})
        self.assertIn("name of a card already", taken.json()["detail"])
        bad = self.web.post("/api/method/cards", json={"card": {"name": "x", "interval_min": -1, "end": "never"}})
        self.assertEqual({f["field"] for f in bad.json()["flaws"]}, {"interval_min", "end"})
        stale = self.web.put(f"/api/method/cards/{made['id']}", json={"card": made["card"], "revision": 9})
        self.assertEqual(stale.status_code, 409)
        self.post(f"/method/cards/{made['id']}/retired")
        self.assertEqual(len(self.web.get("/api/method").json()["cards"]), 6)
        self.assertEqual(len(self.web.get("/api/method").json()["retired"]), 1)
        self.web.delete(f"/api/method/cards/{made['id']}/retired")
        self.assertEqual(len(self.web.get("/api/method").json()["cards"]), 7)
