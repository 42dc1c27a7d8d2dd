"""The commands `schedule` and `resolve`, on files."""

import datetime as dt
import json
import tempfile
import unittest
from pathlib import Path
from zoneinfo import ZoneInfo

import icalendar

from jaunecharge.formats.plan import read_plan
from tests.commands import command
from tests.core.plans import somebody_there

ZURICH = ZoneInfo("Europe/Zurich")
RUN = {"phone": "A", "charger": "c1", "adapter": "a1", "minutes": 170, "attended": True}
PLAN = {
    "start": "2027-03-27T08:00",
    "zone": "Europe/Zurich",
    "attended": [["08:00", "22:00"]],
    "meters": 2,
    "phones": {"A": {"drain_min": 150, "cool_min": 30}, "B": {"drain_min": 100}},
    "runs": [
        {**RUN, "id": "r1"},
        {**RUN, "id": "r2", "charger": "c2"},
        {**RUN, "id": "r3", "phone": "B", "minutes": 130},
        {**RUN, "id": "r4", "phone": "B", "attended": False, "adapter": "a2"},
        {**RUN, "id": "r5", "charger": "c2"},
    ],
}


class ScheduleTest(unittest.TestCase):
    def setUp(self):
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def write(self, **changes):
        path = self.folder / "plan.json"
        path.write_text(json.dumps({**PLAN, **changes}), encoding="utf-8")
        return path

    def run_it(self, *options, **changes):
        return command("schedule", self.write(**changes), "--seconds", "2", *options)


class Json(ScheduleTest):
    def test_one_document_with_every_slot(self):
        done = self.run_it("--json")
        self.assertEqual((done.code, done.err), (0, ""))
        found = done.document
        self.assertLessEqual({"slots", "makespan_min", "bound_min", "optimal"}, found.keys())
        self.assertEqual({s["id"] for s in found["slots"]}, {"r1", "r2", "r3", "r4", "r5"})
        self.assertTrue(found["optimal"])
        self.assertEqual(found["bound_min"], found["makespan_min"])
        start = dt.datetime(2027, 3, 27, 8, tzinfo=ZURICH)
        problem = read_plan(self.folder / "plan.json")
        for s in found["slots"]:
            times = [dt.datetime.fromisoformat(s[k]) for k in ("drain_start", "start", "end", "ready_again")]
            self.assertEqual(times, sorted(times))
            self.assertEqual(times[1].utcoffset(), times[1].astimezone(ZURICH).utcoffset())
            for moment in times[:2]:
                minutes = (moment - start).total_seconds() / 60
                self.assertTrue(somebody_there(problem, minutes))
        last = max(dt.datetime.fromisoformat(s["end"]) for s in found["slots"])
        self.assertEqual((last - start).total_seconds() / 60, found["makespan_min"])

    def test_local_times_over_the_clock_change(self):
        found = self.run_it("--json").document
        sunday = [s["drain_start"] for s in found["slots"] if s["start"].startswith("2027-03-28")]
        self.assertTrue(sunday)
        starts = [s["start"] for s in found["slots"] if s["start"].startswith("2027-03-28")]
        self.assertTrue(all(s.endswith("+02:00") for s in starts), starts)

    def test_an_order_is_kept(self):
        found = self.run_it("--json", order=["r5", "r2", "r1"]).document
        at = {s["id"]: s["start"] for s in found["slots"]}
        self.assertLess(at["r5"], at["r2"])
        self.assertLess(at["r2"], at["r1"])

    def test_without_json_a_table(self):
        done = self.run_it()
        self.assertIn("no shorter schedule exists", done.out)
        self.assertIn("Sat 27 Mar 08:00", done.out)


class Files(ScheduleTest):
    def test_the_calendar_keeps_local_times_over_the_clock_change(self):
        path = self.folder / "plan.ics"
        found = self.run_it("--json", "--ics", path).document
        calendar = icalendar.Calendar.from_ical(path.read_bytes())
        starts = {str(e["SUMMARY"]): e["DTSTART"].dt for e in calendar.walk("VEVENT") if "Start B" in str(e["SUMMARY"])}
        theirs = {dt.datetime.fromisoformat(s["start"]) for s in found["slots"] if s["id"] in {"r3", "r4"}}
        self.assertEqual(set(starts.values()), theirs)
        local = {e["DTSTART"].dt.strftime("%H:%M %z") for e in calendar.walk("VEVENT")}
        self.assertTrue(any(x.endswith("+0200") for x in local) and any(x.endswith("+0100") for x in local), local)
        self.assertEqual(len(calendar.walk("VTIMEZONE")), 1)
        uids = [str(e["UID"]) for e in calendar.walk("VEVENT")]
        self.assertEqual(len(uids), len(set(uids)))
        self.assertTrue(all(len(line) <= 75 for line in path.read_bytes().split(b"\r\n")))
        self.assertEqual(calendar.errors, [])

    def test_the_rules_of_the_zone_stand_in_the_file_itself(self):
        path = self.folder / "plan.ics"
        self.run_it("--ics", path)
        [zone] = icalendar.Calendar.from_ical(path.read_bytes()).walk("VTIMEZONE")
        # What a reader without a zone database makes of it: an hour apart on the two sides of 28 March 2027.
        by_file = zone.to_tz()
        offsets = [dt.datetime(2027, 3, d, 12, tzinfo=by_file).utcoffset() for d in (27, 29)]
        self.assertEqual(offsets, [dt.timedelta(hours=1), dt.timedelta(hours=2)])

    def test_a_pack_is_full_before_and_rests_after(self):
        packs = {"p1": {"recharge_min": 200, "rest_min": 60}}
        runs = [{**run, "pack": "p1"} for run in PLAN["runs"][:2]]
        found = self.run_it("--json", packs=packs, runs=runs).document
        first, second = sorted(found["slots"], key=lambda s: s["start"])
        at = dt.datetime.fromisoformat
        self.assertGreaterEqual(at(first["start"]) - at(first["fill_start"]), dt.timedelta(minutes=200))
        self.assertGreaterEqual(at(second["fill_start"]) - at(first["end"]), dt.timedelta(minutes=60))
        self.assertIn("plug p1 in", self.run_it(packs=packs, runs=runs).out)
        path = self.folder / "plan.csv"
        self.run_it("--csv", path, packs=packs, runs=runs)
        self.assertTrue(path.read_text(encoding="utf-8").splitlines()[0].endswith(",pack,fill_start"))
        self.assertIn("not among the packs", self.run_it(packs={}, runs=runs).err)

    def test_the_table_as_csv(self):
        path = self.folder / "plan.csv"
        self.run_it("--csv", path)
        rows = path.read_text().splitlines()
        self.assertEqual(rows[0], "run,phone,on,state,drain_start,start,end")
        self.assertEqual(len(rows), 6)


class Refused(ScheduleTest):
    def refused(self, said, code=2, **changes):
        done = self.run_it("--json", **changes)
        self.assertEqual((done.code, done.out), (code, ""), done.err)
        self.assertEqual(len(done.err.strip().splitlines()), 1)
        self.assertIn(said, done.err)
        return done.err

    def test_bad_input_is_one_line_and_exit_2(self):
        self.assertIn("plan.json", self.refused("no runs", runs=[]))
        self.refused("length zero", attended=[["08:00", "08:00"]])
        self.refused("no attended hours", attended=[])
        self.refused("10,000 runs", runs=[{**RUN, "id": f"r{i}"} for i in range(10_000)])
        self.refused("end comes before the start", end="2027-03-26T08:00")
        self.refused("not among the phones", phones={})
        self.refused("no time zone", zone="Nowhere/Here")
        self.refused("0 meters", meters=0)
        self.refused("id of two runs", runs=[{**RUN, "id": "r1"}] * 2)
        self.refused("runs.0.minutes", runs=[{**RUN, "id": "r1", "minutes": -5}])
        self.refused("runs.0.minutes", runs=[{**RUN, "id": "r1", "minutes": "long"}])
        self.refused("no run of the plan", order=["r9"])
        self.refused("start", start="someday")
        self.refused("the year 9999 is no year for a plan", start="9999-12-31T08:00")
        self.refused("attended.0 ('08:00') is refused", attended=["08:00"])
        self.refused("phones.A.drain_min", phones={"A": {"drain_min": -1}, "B": {}})
        for text in ("{", "[]", "null", "\x00"):
            (self.folder / "other.json").write_text(text)
            self.assertEqual(command("schedule", self.folder / "other.json", "--json").code, 2)
        self.assertEqual(command("schedule", self.folder / "none.json").code, 2)

    def test_impossible_is_exit_3_and_says_which_wish(self):
        self.refused("longest attended stretch is 2 h 00", 3, attended=[["08:00", "10:00"]])
        said = self.refused("end you asked for cannot be met", 3, end="2027-03-27T20:00")
        self.assertIn("A later end makes it possible", said)

    def test_weekdays_and_half_attended_runs(self):
        runs = [{**RUN, "id": "r1", "minutes": 900, "attended_min": 120}]
        found = self.run_it("--json", runs=runs, attended=[["08:00", "22:00", ["mon"]]]).document
        self.assertTrue(found["slots"][0]["start"].startswith("2027-03-29"))


class Resolve(unittest.TestCase):
    def test_the_rule_from_the_command_line(self):
        one, three = (command("resolve", "--minutes", 100, "--runs", n, "--json").document for n in (1, 3))
        self.assertGreater(one["difference_min"], three["difference_min"])
        self.assertEqual(one["power"], 0.8)
        self.assertIn("with 80 % probability", command("resolve", "--minutes", 100).out)
        self.assertIn("repeat the runs", command("resolve", "--minutes", 5, "--interval-min", 60).out)
        self.assertEqual(command("resolve", "--minutes", -1).code, 2)
