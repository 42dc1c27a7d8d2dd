"""Plans, cards and calendars as files and documents."""

import datetime as dt
import unittest
from zoneinfo import ZoneInfo

import icalendar

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.kit.fields import Flawed
from jaunecharge.core.plan.agenda import TimedSlot, events
from jaunecharge.core.plan.method import READY
from jaunecharge.core.schedule.solver import solve
from jaunecharge.documents.card import card_document, card_of
from jaunecharge.documents.choice import Hours, PlanChoice, PlanWishes, local_moment, refuse_many
from jaunecharge.formats.plan import PlanDocument, problem_of, schedule_csv, schedule_document, timed_slots
from jaunecharge.formats.write.calendar import calendar
from tests.core.plans import task

ZURICH = ZoneInfo("Europe/Zurich")
STAMP = dt.datetime(2027, 3, 1, tzinfo=dt.UTC)


def slot(day, hour, name="r1", phone="Ostrel, the “long” one; 12", said="Cairn disc 15, own fan"):
    start = dt.datetime(2027, 3, day, hour, 15, tzinfo=ZURICH)
    return TimedSlot(
        name, phone, said, "planned", start - dt.timedelta(hours=3), start, start + dt.timedelta(minutes=130)
    )


class Calendars(unittest.TestCase):
    def made(self, *slots, revision=3, name="Which disc, then?"):
        text = calendar(events(slots), name, ZURICH, "plan-1", revision, STAMP)
        return text, icalendar.Calendar.from_ical(text)

    def test_local_times_on_both_sides_of_the_change(self):
        _, found = self.made(slot(27, 12), slot(29, 12, "r2"))
        starts = [e["DTSTART"].dt for e in found.walk("VEVENT") if str(e["SUMMARY"]).startswith("Start")]
        self.assertEqual({(s.hour, s.minute) for s in starts}, {(12, 15)})
        self.assertEqual({s.utcoffset() for s in starts}, {dt.timedelta(hours=1), dt.timedelta(hours=2)})

    def test_commas_semicolons_and_long_lines_survive(self):
        text, found = self.made(slot(2, 10))
        said = {str(e["SUMMARY"]) for e in found.walk("VEVENT")}
        self.assertIn("Start Ostrel, the “long” one; 12 on Cairn disc 15, own fan", said)
        self.assertTrue(all(len(line) <= 75 for line in text.split(b"\r\n")))
        self.assertTrue(text.endswith(b"\r\n"))
        self.assertEqual(str(found["X-WR-CALNAME"]), "Which disc, then?")

    def test_a_newer_calendar_replaces_the_entries_of_an_older_one(self):
        older, newer = self.made(slot(2, 10))[1], self.made(slot(3, 11), revision=4)[1]
        ids = [{str(e["UID"]) for e in c.walk("VEVENT")} for c in (older, newer)]
        self.assertEqual(ids[0], ids[1])
        self.assertEqual({int(e["SEQUENCE"]) for e in newer.walk("VEVENT")}, {4})

    def test_each_thing_to_do_reminds_before_it(self):
        _, found = self.made(slot(2, 10))
        alarms = found.walk("VALARM")
        self.assertEqual(len(alarms), len(found.walk("VEVENT")))
        self.assertEqual({a["TRIGGER"].dt for a in alarms}, {dt.timedelta(minutes=-10)})

    def test_an_empty_plan_is_an_empty_calendar(self):
        _, found = self.made()
        self.assertEqual(found.walk("VEVENT"), [])


class Documents(unittest.TestCase):
    def document(self, **changes):
        run = {"id": "r1", "phone": "A", "minutes": 60}
        plain = {"start": "2027-03-28T02:30", "zone": "Europe/Zurich", "attended": [["00:00", "24:00"]],
                 "phones": {"A": {"drain_min": 30}}, "runs": [run]}  # fmt: skip
        return PlanDocument.model_validate({**plain, **changes})

    def test_a_start_in_the_hour_that_does_not_exist_is_the_one_after(self):
        problem = problem_of(self.document())
        self.assertEqual(problem.start.isoformat(), "2027-03-28T03:30:00+02:00")

    def test_a_start_with_an_offset_is_taken_as_said(self):
        problem = problem_of(self.document(start="2027-03-01T07:00+00:00"))
        self.assertEqual(problem.start.isoformat(), "2027-03-01T08:00:00+01:00")

    def test_years_that_are_no_years_for_a_plan(self):
        for year in (1, 1900, 9999):
            with self.assertRaisesRegex(CannotRead, "no year for a plan"):
                local_moment(dt.datetime(year, 6, 1), ZURICH)

    def test_a_schedule_as_json_and_csv_say_the_same(self):
        problem = problem_of(self.document())
        found = solve(problem, 0.5)
        [row] = schedule_document(problem, found)["slots"]
        line = schedule_csv(timed_slots(problem, found)).splitlines()[1].split(",")
        self.assertEqual(line[0], "r1")
        self.assertEqual(line[-3:], [row["drain_start"], row["start"], row["end"]])

    def test_a_run_without_a_charger_is_on_the_wire(self):
        problem = problem_of(self.document(runs=[{"id": "r1", "phone": "A", "minutes": 60, "adapter": "Plug"}]))
        self.assertEqual(timed_slots(problem, solve(problem, 0.3))[0].said, "the wire, Plug")

    def test_how_much_of_a_run_needs_somebody(self):
        runs = [{"id": str(i), "phone": "A", "minutes": 60, **x} for i, x in
                enumerate(({}, {"attended": False}, {"attended_min": 20}, {"attended_min": 90}))]  # fmt: skip
        tasks = problem_of(self.document(runs=runs)).tasks
        self.assertEqual([t.attended_min for t in tasks], [60.0, 0.0, 20.0, 60.0])


class Cards(unittest.TestCase):
    def test_out_and_in_again(self):
        for card in READY:
            self.assertEqual(card_of(card_document(card)), card)

    def test_every_field_that_is_wrong_is_named(self):
        with self.assertRaises(Flawed) as refused:
            card_of({"name": "x", "start": "from nine", "repeats": 0, "interval_min": "often", "unknown": 1})
        self.assertEqual({f.field for f in refused.exception.flaws}, {"start", "repeats", "interval_min"})
        self.assertTrue(all(f.mend for f in refused.exception.flaws))
        with self.assertRaises(Flawed):
            card_of({})


class Wishes(unittest.TestCase):
    def test_the_zone_and_the_hours_are_checked(self):
        wishes = PlanWishes(start=dt.datetime(2027, 3, 1, 8), zone="Europe/Zurich", attended=[Hours(ends="08:00")])
        with self.assertRaisesRegex(CannotRead, "length zero"):
            wishes.problem((task("r1"),), ())
        with self.assertRaisesRegex(CannotRead, "no time zone"):
            wishes.model_copy(update={"zone": "Here"}).problem((task("r1"),), ())

    def test_plugs_count_only_for_the_one_that_all_share(self):
        wishes = PlanWishes(start=dt.datetime(2027, 3, 1, 8), attended=[Hours()], plugs=3)
        self.assertEqual(wishes.problem((task("r1"),), (), "a1").copies, {"a1": 3})
        self.assertEqual(wishes.problem((task("r1"),), ()).copies, {})

    def test_repeats_that_nobody_makes(self):
        with self.assertRaisesRegex(CannotRead, "10,000 runs"):
            refuse_many(PlanChoice(repeats=10_000))
        refuse_many(PlanChoice(repeats=20))
