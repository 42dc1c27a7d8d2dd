"""The parts of the live bench one by one: the spool, the inbox, a lane's state, what the keeper sees, typed lines."""

import datetime as dt
import sys
import tempfile
import threading
import unittest
import uuid
from pathlib import Path
from types import SimpleNamespace
from unittest import mock

import numpy as np

from jaunecharge.core.bench import Unclear
from jaunecharge.core.plan.method import ready
from jaunecharge.documents.case import Case
from jaunecharge.documents.expectation import Expectation
from jaunecharge.live import keeper, lines, view
from jaunecharge.live.hub import Hub
from jaunecharge.live.inbox import Inbox, Waits
from jaunecharge.live.instruments import Hangs, every_s, wanted
from jaunecharge.live.lane_state import FINE_KEPT_S, LaneState, Steps
from jaunecharge.live.spool import Spool, SpoolFull
from jaunecharge.live.told import figures
from jaunecharge.store import bench_models as b
from jaunecharge.store.bench import arriving
from jaunecharge.store.bench import lanes as store
from jaunecharge.store.errors import NotThere
from tests.serving import fresh_database

NOW = dt.datetime(2026, 11, 1, 8, tzinfo=dt.UTC)


def batch(numbers, lane=None, watts=18.0):
    return arriving.Batch(lane or uuid.uuid4(), "m", 60.0, tuple(arriving.Row(n, watts=watts) for n in numbers))


def lane(**more):
    facts = {
        "id": uuid.uuid4(), "name": "A", "state": "running", "label": "Ostrel Max on Cairn disc",
        "factors": {"phone": "Ostrel Max", "charger": "Cairn disc", "adapter": "Plug 20", "case": "none"},
        "case": Case(),
        "card": ready("From ten to full"), "chain": Expectation(), "setup": {}, "meter": "", "probe": "",
        "meter_address": "", "probe_address": "", "socket_address": "", "room_address": "",
        "speed": 1.0, "simulated": False, "token": "t", "zone": "UTC",
        "opened_at": NOW, "placed_s": 60.0, "outcome": "", "reason": "", "created_by": "", "tick": 1,
    }  # fmt: skip
    return b.Lane(**(facts | more))


def row(t_s, watts=None, celsius=None, percent=None, position="", tick=1):
    volts = None if watts is None else 9.0
    amps = None if watts is None else watts / 9.0
    return SimpleNamespace(
        t_s=t_s,
        watts=watts,
        volts=volts,
        amps=amps,
        celsius=celsius,
        percent=percent,
        position=position,
        tick=tick,
        point="",
        humidity=None,
        charging=None,
    )


def entry(kind, t_s, value=None, unit="", text="", **more):
    facts = {"first": None, "undone_at": None, "by": "", "advice": "", "at": NOW, "tick": 1} | more
    return b.LaneEntry(id=uuid.uuid4(), kind=kind, t_s=t_s, value=value, unit=unit, text=text, **facts)


def state(rows=(), entries=(), **more):
    made = LaneState(lane(**more))
    made.take(rows)
    for e in entries:
        made.enter(e)
    return made


class Waiting(unittest.TestCase):
    def setUp(self):
        self.file = Path(self.enterContext(tempfile.TemporaryDirectory())) / "sub" / "waiting.sqlite3"

    def test_first_in_first_out_over_a_restart(self):
        spool = Spool(self.file)
        self.assertEqual((spool.waiting(), spool.first()), (0, []))
        spool.put([batch(range(3)), batch(range(2))])
        spool.close()
        again = Spool(self.file)
        self.assertEqual(again.waiting(), 5)
        numbers = [n for n, _ in again.first()]
        self.assertEqual([len(x.rows) for _, x in again.first()], [3, 2])
        again.drop(numbers[:1])
        self.assertEqual(again.waiting(), 2)
        again.close()

    def test_what_comes_out_is_what_went_in(self):
        spool = Spool(self.file)
        one = arriving.Batch(
            uuid.uuid4(), "m", 7.5, (arriving.Row(3, 1.5, 9.0, 2.0, None, 31.0, "pad", 47.0),), 60.0, "boot"
        )
        spool.put([one])
        self.assertEqual(spool.first()[0][1], one)
        spool.close()

    def test_it_is_bounded(self):
        spool = Spool(self.file, most=10)
        spool.put([batch(range(8))])
        with self.assertRaisesRegex(SpoolFull, "8 readings wait"):
            spool.put([batch(range(5))])
        self.assertEqual(spool.waiting(), 8)
        spool.close()

    def test_many_at_once(self):
        spool = Spool(self.file)
        threads = [threading.Thread(target=spool.put, args=([batch(range(10))],)) for _ in range(8)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join(60)
        self.assertEqual(spool.waiting(), 80)
        spool.close()


class Storing(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.database = cls.enterClassContext(fresh_database())

    def setUp(self):
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.inbox = Inbox(self.database, Spool(folder / "waiting.sqlite3"))
        self.inbox.start()
        self.addCleanup(self.inbox.stop)
        with self.database.session() as session:
            new = store.NewLane("x", {"phone": "x"}, ready("From ten to full"))
            self.lane = store.open_lane(session, new, NOW).id

    def count(self):
        with self.database.session() as session:
            return len(store.readings_of(session, self.lane))

    def test_acknowledged_is_stored(self):
        found = self.inbox.put(batch(range(4), self.lane)).result(60)
        self.assertEqual((found.new, self.count()), (4, 4))

    def test_many_are_stored_in_few_transactions(self):
        futures = [self.inbox.put(batch([n], self.lane)) for n in range(200)]
        ticks = {f.result(60).tick for f in futures}
        self.assertEqual(self.count(), 200)
        self.assertLess(len(ticks), 60)

    def test_one_that_is_wrong_spoils_no_other(self):
        futures = [self.inbox.put(batch([1])), self.inbox.put(batch([1], self.lane))]
        self.assertEqual(futures[1].result(60).new, 1)
        with self.assertRaises(NotThere):
            futures[0].result(60)

    def test_what_waits_on_disk_is_stored_by_itself(self):
        self.inbox.spool.put([batch(range(6), self.lane), batch(range(3))])
        self.inbox.put(batch([9], self.lane)).result(60)
        for _ in range(600):
            if self.inbox.spool.waiting() == 0:
                break
            threading.Event().wait(0.05)
        self.assertEqual((self.count(), self.inbox.spool.waiting()), (7, 0))
        self.assertFalse(self.inbox.away)

    def test_with_the_database_away_they_wait(self):
        from jaunecharge.store.database import Database

        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        away = Inbox(Database("postgresql://nobody@127.0.0.1:1/none"), Spool(folder / "w.sqlite3"))
        away.start()
        self.addCleanup(away.stop)
        found = away.put(batch(range(4), self.lane)).result(60)
        self.assertIsInstance(found, Waits)
        self.assertEqual((found.waiting, away.away), (4, True))


class Means(unittest.TestCase):
    def test_in_any_order(self):
        steps = Steps(10.0)
        for t, w in ((25.0, 3.0), (1.0, 1.0), (9.0, 3.0)):
            steps.add(t, w, 1)
        times, watts = steps.arrays()
        self.assertEqual((times.tolist(), watts.tolist()), ([5.0, 25.0], [2.0, 3.0]))

    def test_what_changed_after_a_count(self):
        steps = Steps(10.0)
        steps.add(1.0, 1.0, 4)
        steps.add(11.0, 5.0, 5)
        steps.add(2.0, 3.0, 6)
        self.assertEqual(steps.since(4), [(0, 2.0), (1, 5.0)])
        self.assertEqual(steps.since(6), [])

    def test_fine_steps_are_let_go(self):
        found = state([row(float(t), 18.0) for t in range(0, 6000)])
        self.assertLess(len(found.fine.arrays()[0]), 1.3 * FINE_KEPT_S)
        self.assertEqual(len(found.watts.arrays()[0]), 600)


class Lane(unittest.TestCase):
    def test_percentages_typed_and_reported(self):
        rows = [row(float(t), percent=p) for t, p in ((100, 10), (110, 10), (120, 10), (130, 11))]
        found = state(rows, [entry("percent", 115.0, 12.0, "%"), entry("percent", 116.0, 99.0, "%", undone_at=NOW)])
        self.assertEqual(found.percents, [(100.0, 10), (115.0, 12.0), (120.0, 10), (130.0, 11)])

    def test_the_latest_of_each_place(self):
        found = state([row(50.0, celsius=31.0, position="back")], [entry("celsius", 60.0, 104.0, "f", "pad")])
        self.assertEqual(found.celsius["back"], (50.0, 31.0))
        self.assertAlmostEqual(found.celsius["pad"][1], 40.0)

    def test_alarms_that_are_on(self):
        told = [
            entry("alarm", 1.0, 1.0, "hot", "46 °C", advice="take care", tick=1),
            entry("alarm over", 2.0, None, "hot", tick=2),
            entry("alarm", 3.0, 1.0, "stuck", "47 %", advice="look", tick=3),
        ]  # fmt: skip
        self.assertEqual([a.unit for a in state(entries=told).alarms], ["stuck"])

    def test_off_and_on(self):
        told = [entry("charger", 1.0, text="off")]
        self.assertTrue(state(entries=told).off)
        self.assertFalse(state(entries=[*told, entry("charger", 2.0, text="on")]).off)

    def test_it_says_why_nothing_is_drawn_and_keeps_that_for_a_minute(self):
        rows = [row(float(t), 0.4 if t < 60 or t > 3660 else 15.0) for t in range(0, 5400, 5)]
        percents = [entry("percent", 60.0 * m, p, "%") for m, p in ((1, 20.0), (31, 50.0), (62, 80.0), (85, 80.0))]
        told = state(rows, percents)
        at = NOW + dt.timedelta(seconds=5400)
        shown = view.view(told, at)
        self.assertEqual((shown.phase, shown.phase_said), ("hold", "held at 80 % for 29 min"))
        known = told.known
        view.view(told, at + dt.timedelta(seconds=20))
        self.assertIs(told.known, known)
        view.view(told, at + dt.timedelta(seconds=70))
        self.assertIsNot(told.known, known)
        self.assertEqual(keeper.seen_of(told, at).known.held_at, 80.0)
        self.assertIsNone(keeper.seen_of(told, at, shared=True).known.held_at)

    def test_what_cannot_be_read_spoils_no_lane(self):
        rows = [row(float(t), 15.0) for t in range(0, 1200, 5)]
        with mock.patch("jaunecharge.live.known.so_far", side_effect=ZeroDivisionError), self.assertLogs(level="ERROR"):
            self.assertIn("plateau", view.view(state(rows), NOW + dt.timedelta(minutes=20)).phase_said)

    def test_without_a_meter_it_says_how_fast_it_goes(self):
        typed = [entry("percent", 60.0 + 600.0 * i, 10.0 + 10 * i, "%") for i in range(5)]
        self.assertEqual(view.view(state(entries=typed), NOW + dt.timedelta(hours=1)).phase_said, "1.00 points/min")
        self.assertEqual(view.view(state(), NOW + dt.timedelta(hours=1)).phase_said, "logged by hand")

    def test_its_view(self):
        rows = [row(float(t), 0.4 if t < 60 else 17.5) for t in range(0, 600, 2)]
        found = view.view(state(rows, [entry("percent", 60.0, 10.0, "%")]), NOW + dt.timedelta(minutes=10))
        self.assertEqual((found.chain, found.phase_said, found.percent), ("Cairn disc · Plug 20", "plateau", 10.0))
        self.assertEqual((found.due.state, found.due.at_s), ("quiet", 660.0))
        shared = view.view(state(rows), NOW + dt.timedelta(minutes=10), ["B"])
        self.assertEqual((shared.shared_with, shared.phase_said), (["B"], "shares its meter"))

    def test_a_phone_that_reports_calls_for_nobody(self):
        rows = [row(float(t), 17.5, percent=10.0 + t // 100) for t in range(60, 600, 10)]
        self.assertEqual(view.view(state(rows), NOW + dt.timedelta(minutes=10)).due.state, "none")

    def test_figures_are_short(self):
        found = figures(state([row(5.0, 9.0, tick=4), row(15.0, 9.5, tick=5)]), 4)
        self.assertEqual((found[0], found[1], found[5]), (15.0, 9.5, [(1, 9.5)]))


class Keeping(unittest.TestCase):
    def test_the_meter_sees_the_placing(self):
        rows = [row(float(t), 0.4 if t < 90 else 17.5) for t in range(0, 130)]
        self.assertAlmostEqual(keeper.seen_placing(state(rows, state="setting", placed_s=None)), 90.0, delta=2.0)
        self.assertIsNone(keeper.seen_placing(state(rows[:90], state="setting", placed_s=None)))
        # Readings far apart, at uneven steps: the one after the rise may come late.
        coarse = [row(t, w) for t, w in ((24.5, 0.42), (37.5, 0.4), (49.5, 4.95), (62.7, 9.0), (74.0, 9.1))]
        self.assertAlmostEqual(keeper.seen_placing(state(coarse, state="setting", placed_s=None)), 43.5, delta=6.5)
        self.assertIsNone(keeper.seen_placing(state(rows[:95], state="setting", placed_s=None)), "it must last")

    def test_a_gap_is_what_lies_between_the_last_reading_and_now(self):
        found = state([row(float(t), 17.5) for t in range(60, 300)])
        self.assertIsNone(keeper.missed(found, NOW + dt.timedelta(seconds=310)))
        since, words = keeper.missed(found, NOW + dt.timedelta(seconds=900))
        self.assertEqual(since, 299.0)
        self.assertIn("nothing was logged for 10.0 min from minute 4.0 on", words)

    def test_silence_is_longer_where_time_runs_faster_and_is_the_same_for_page_and_keeper(self):
        for found, limit_s in ((state([row(float(t), 17.5) for t in range(100)]), 30.0), (state(speed=60.0), 240.0)):
            self.assertEqual(view.view(found, NOW).silent_s, limit_s)
            self.assertEqual(keeper.seen_of(found, NOW).silent_s, limit_s)

    def test_a_shared_meter_judges_nobody(self):
        rows = [row(float(t), 35.0) for t in range(60, 300)]
        seen = keeper.seen_of(
            state(rows, chain=Expectation(least_w=15.0, volts=9.0)), NOW + dt.timedelta(seconds=300), True
        )
        self.assertTrue(seen.off)
        self.assertEqual((seen.expected_w, seen.expected_v), (None, None))

    def test_each_address_is_asked_once_for_all_its_lanes(self):
        one, two = uuid.uuid4(), uuid.uuid4()
        found = wanted([Hangs(one, {"meter": "m:1", "probe": "p:1"}, 1.0), Hangs(two, {"meter": "m:1"}, 60.0)])
        self.assertEqual(found["m:1"].lanes, ((one, frozenset({"meter"})), (two, frozenset({"meter"}))))
        self.assertEqual((found["m:1"].power, found["p:1"].power), (True, False))
        self.assertEqual((every_s(1.0), every_s(60.0), every_s(120.0)), (1.0, 0.1, 0.1))


class Meanwhile(unittest.TestCase):
    def test_steps_are_read_while_others_come(self):
        """Three readers and one that adds, changing over as often as they can."""
        steps, over, wrong = Steps(1.0, 1200.0), threading.Event(), []

        def read():
            while not over.is_set():
                try:
                    times, values = steps.arrays()
                    wrong.extend(v for v in values if v != 1.0)
                    if len(times) != len(values):
                        wrong.append(len(times))
                except Exception as error:
                    wrong.append(error)

        before = sys.getswitchinterval()
        self.addCleanup(sys.setswitchinterval, before)
        sys.setswitchinterval(1e-5)
        readers = [threading.Thread(target=read, daemon=True) for _ in range(3)]
        for reader in readers:
            reader.start()
        for t in range(8000):
            steps.add(float(t), 1.0, t)
            steps.forget_before(t - 1200.0)
        over.set()
        for reader in readers:
            reader.join(30)
        self.assertEqual(wrong[:3], [])
        self.assertEqual(steps.arrays()[0][-1], 7999.5)


class TypedLines(unittest.TestCase):
    def hub(self, *states):
        made = Hub(None, None)
        made.states = {s.lane.id: s for s in states}
        return made

    def test_a_lane_in_the_hand_reaches_no_other(self):
        one, two = state(), state(name="B")
        hub = self.hub(one, two)
        self.assertEqual(lines.understand(hub, "47", only=one.lane.id).state, one)
        self.assertIsInstance(lines.understand(hub, "b 47", only=one.lane.id), Unclear)
        self.assertIsInstance(lines.understand(hub, "47"), Unclear)

    def test_moments(self):
        one = state(zone="Europe/Zurich")
        at = NOW + dt.timedelta(hours=2)
        line = lambda text: lines.parse(f"a {text}")  # noqa: E731
        self.assertEqual(lines.moment_s(one, line("47"), at), 7200.0)
        self.assertEqual(lines.moment_s(one, line("47 @-5"), at), 6900.0)
        # Ten in the morning UTC is eleven in Zurich in November.
        self.assertEqual(lines.moment_s(one, line("47 @10:30"), at), 5400.0)
        self.assertIn("still to come", lines.moment_s(one, line("47 @11:30"), at).why)
        midnight = dt.datetime(2026, 11, 1, 23, 10, tzinfo=dt.UTC)
        self.assertEqual(lines.moment_s(one, line("47 @23:50"), midnight), (14 * 60 + 50) * 60.0)

    def test_a_clock_change_does_not_move_a_moment(self):
        opened = dt.datetime(2026, 10, 24, 22, tzinfo=dt.UTC)
        one = state(zone="Europe/Zurich", opened_at=opened)
        at = dt.datetime(2026, 10, 25, 3, tzinfo=dt.UTC)
        self.assertEqual(lines.moment_s(one, lines.parse("a 47 @03:30"), at), 4.5 * 3600.0)

    def test_what_stood_there_before(self):
        one = state(entries=[entry("percent", 60.0, 41.0, "%"), entry("celsius", 60.0, 33.0, "c", "back")])
        say = lambda text: lines.before(one, lines.parse(f"a {text}").items[0], 780.0)  # noqa: E731
        self.assertEqual(say("47"), "up from 41 %, 12 min earlier")
        self.assertEqual(say("41"), "still 41 %, 12 min earlier")
        self.assertEqual(say("35c"), "33.0 °C before, 12 min earlier")


class Steady(unittest.TestCase):
    def test_it_never_goes_back(self):
        from jaunecharge.live.steady import now

        moments = [now() for _ in range(1000)]
        self.assertEqual(moments, sorted(moments))
        self.assertLess(abs((moments[-1] - dt.datetime.now(dt.UTC)).total_seconds()), 60.0)

    def test_no_load_is_the_median_before_placing(self):
        rows = [row(float(t), 0.4 if t < 60 else 17.5) for t in range(0, 200)]
        self.assertAlmostEqual(view.no_load_w(state(rows)), 0.4)
        self.assertTrue(np.isclose(view.no_load_w(state(rows[:60], placed_s=None)), 0.4))
