"""Lanes in the store: readings once however they come, a log that keeps first values, changes that miss nothing."""

import datetime as dt
import random
import threading
import unittest
import uuid

import psycopg
from sqlalchemy import func, select

from jaunecharge.core.errors import CannotRead
from jaunecharge.core.plan import ready
from jaunecharge.store import bench_models as b
from jaunecharge.store.bench import arriving
from jaunecharge.store.bench import lanes as store
from jaunecharge.store.errors import LaneOver, NotThere
from tests.serving import fresh_database

NOW = dt.datetime(2026, 11, 1, 8, tzinfo=dt.UTC)


def new_lane(**more):
    return store.NewLane("Ostrel Max on Cairn disc", {"phone": "Ostrel Max"}, ready("From ten to full"), **more)


def rows(numbers, watts=18.0, clock=lambda n: 1000.0 + n):
    return tuple(arriving.Row(n, clock(n), watts=watts) for n in numbers)


class BenchTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.database = cls.enterClassContext(fresh_database())

    def setUp(self):
        with self.database.session() as session:
            session.connection().exec_driver_sql("TRUNCATE lanes, lane_readings CASCADE")

    def open(self, **more):
        with self.database.session() as session:
            return store.open_lane(session, new_lane(**more), NOW)

    def push(self, lane, numbers, arrived_s=64.0, source="meter", **more):
        with self.database.session() as session:
            [found] = arriving.push(session, [arriving.Batch(lane.id, source, arrived_s, rows(numbers, **more))])
            return found

    def readings(self, lane):
        with self.database.session() as session:
            return store.readings_of(session, lane.id)


class Opening(BenchTest):
    def test_names_in_order_and_free_ones_again(self):
        lanes = [self.open() for _ in range(3)]
        self.assertEqual([x.name for x in lanes], ["A", "B", "D"])
        self.assertEqual(len({x.token for x in lanes}), 3)
        with self.database.session() as session:
            lane = store.lane_for_change(session, lanes[1].id)
            lane.state = "closed"
        self.assertEqual(self.open().name, "B")

    def test_a_name_that_is_taken_is_refused(self):
        self.open(name="D")
        with self.assertRaisesRegex(CannotRead, "open already"):
            self.open(name="D")

    def test_two_at_once_get_two_names(self):
        found = []
        threads = [threading.Thread(target=lambda: found.append(self.open().name)) for _ in range(6)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join(60)
        self.assertEqual(sorted(found), ["A", "B", "D", "E", "G", "H"])

    def test_a_token_reaches_its_lane_until_it_ends(self):
        lane = self.open()
        with self.database.session() as session:
            self.assertEqual(store.lane_of_token(session, lane.token).id, lane.id)
            store.lane_for_change(session, lane.id).state = "closed"
            session.flush()
            self.assertIsNone(store.lane_of_token(session, lane.token))
            with self.assertRaises(LaneOver):
                store.lane_for_change(session, lane.id)
        with self.database.session() as session, self.assertRaises(NotThere):
            store.get_lane(session, uuid.uuid4())


class Pushing(BenchTest):
    def test_each_reading_is_stored_once(self):
        lane = self.open()
        first = self.push(lane, range(5))
        again = self.push(lane, range(3, 8), 67.0)
        self.assertEqual((first.new, first.duplicates, again.new, again.duplicates), (5, 0, 3, 2))
        self.assertEqual([r.t_s for r in self.readings(lane)], [60.0, 61.0, 62.0, 63.0, 64.0, 65.0, 66.0, 67.0])

    def test_late_and_out_of_order(self):
        lane = self.open()
        self.push(lane, [9, 0, 5], 69.0)
        self.push(lane, [7, 6, 8, 1], 75.0)
        self.assertEqual([r.t_s - 60.0 for r in self.readings(lane)], [0.0, 1.0, 5.0, 6.0, 7.0, 8.0, 9.0])

    def test_a_restart_counts_from_zero_and_is_in_the_log(self):
        lane = self.open()
        self.push(lane, range(5))
        found = self.push(lane, range(3), 300.0, clock=lambda n: 1236.0 + n)
        self.assertEqual(found.new, 3)
        with self.database.session() as session:
            [entry] = store.entries_of(session, lane.id)
        self.assertIn("meter started over", entry.text)

    def test_watts_of_volts_and_amps(self):
        lane = self.open()
        with self.database.session() as session:
            arriving.push(session, [arriving.Batch(lane.id, "m", 1.0, (arriving.Row(0, volts=9.0, amps=2.0),))])
        self.assertEqual(self.readings(lane)[0].watts, 18.0)

    def test_many_lanes_in_one_transaction(self):
        lanes = [self.open() for _ in range(10)]
        with self.database.session() as session:
            found = arriving.push(session, [arriving.Batch(x.id, "m", 10.0, rows(range(4))) for x in lanes])
        self.assertEqual([f.new for f in found], [4] * 10)
        self.assertEqual(len({f.tick for f in found}), 1)

    def test_the_same_batch_twice_in_one_transaction(self):
        lane = self.open()
        batch = arriving.Batch(lane.id, "m", 10.0, rows(range(4)))
        with self.database.session() as session:
            found = arriving.push(session, [batch, batch])
        self.assertEqual(len(self.readings(lane)), 4)
        self.assertEqual([(f.new, f.duplicates) for f in found], [(4, 0), (0, 4)])

    def test_a_lane_that_has_ended_takes_nothing(self):
        lane = self.open()
        with self.database.session() as session:
            store.lane_for_change(session, lane.id).state = "closed"
        found = self.push(lane, range(3))
        self.assertEqual((found.new, found.duplicates, found.over), (0, 0, True))
        with self.assertRaises(NotThere):
            self.push(b.Lane(id=uuid.uuid4()), range(3))

    def test_two_sources_number_for_themselves(self):
        lane = self.open()
        self.push(lane, range(3), source="meter")
        self.assertEqual(self.push(lane, range(3), source="probe").new, 3)

    def test_too_many_sources_or_starts_are_refused(self):
        lane = self.open()
        for n in range(arriving.MOST_SOURCES):
            self.push(lane, [0], source=f"source {n}")
        with self.assertRaisesRegex(CannotRead, "too many sources"):
            self.push(lane, [0], source="one more")
        with self.assertRaisesRegex(CannotRead, "started too often"):
            for n in range(arriving.MOST_STARTS + 1):
                self.push(lane, [0], source="source 0", watts=float(n + 20), clock=lambda _: None)


class StartedAgain(BenchTest):
    """What is told to be stored is stored, and stored once, whatever a source does with its numbers."""

    def sent(self, lane, numbers, watts, boot="", clock=lambda n: None, arrived_s=64.0):
        batch = arriving.Batch(lane.id, "meter", arrived_s, rows(numbers, watts, clock), boot=boot)
        with self.database.session() as session:
            [found] = arriving.push(session, [batch])
        return found.new, found.duplicates

    def test_without_a_boot_and_without_a_clock(self):
        lane = self.open()
        self.assertEqual(self.sent(lane, range(20), 5.0), (20, 0))
        self.assertEqual(self.sent(lane, range(20), 7.0), (20, 0))
        self.assertEqual(self.sent(lane, range(20), 7.0), (0, 20))
        self.assertEqual(self.sent(lane, range(20), 5.0), (0, 20))
        self.assertEqual(self.sent(lane, range(20, 25), 7.0), (5, 0))
        self.assertEqual(sorted(r.watts for r in self.readings(lane)), [5.0] * 20 + [7.0] * 25)
        with self.database.session() as session:
            self.assertEqual(len([e for e in store.entries_of(session, lane.id) if "started over" in e.text]), 1)

    def test_boots_that_take_turns(self):
        lane = self.open()
        for boot, watts, expected in (("A", 5.0, 20), ("B", 7.0, 20), ("A", 5.0, 0), ("B", 7.0, 0)):
            found = self.sent(lane, range(20), watts, boot, lambda n: 10.0 + n)
            self.assertEqual(found, (expected, 20 - expected), boot)
        self.assertEqual(len(self.readings(lane)), 40)

    def test_a_boot_that_never_changes(self):
        lane = self.open()
        self.sent(lane, range(20), 5.0, "firmware 3")
        self.assertEqual(self.sent(lane, range(20), 7.0, "firmware 3"), (20, 0))

    def test_a_start_within_the_same_transaction(self):
        lane = self.open()
        batches = [arriving.Batch(lane.id, "meter", 9.0, rows(range(4), w, lambda n: None)) for w in (5.0, 7.0, 5.0)]
        with self.database.session() as session:
            found = arriving.push(session, batches)
        self.assertEqual([(f.new, f.duplicates) for f in found], [(4, 0), (4, 0), (0, 4)])

    def test_any_order_and_any_repeats(self):
        for seed in range(12):
            chance, lane = random.Random(seed), self.open()
            boots = seed % 2 == 0
            parts = [
                (start, range(at, min(at + 7, 30)))
                for start in range(4)
                for at in range(0, 30, 7)
                for _ in range(chance.randint(1, 3))
            ]
            if boots:
                chance.shuffle(parts)
            for start, numbers in parts:
                batch = tuple(
                    arriving.Row(n, 50.0 * start + n if boots else None, watts=start * 40.0 + n / 8) for n in numbers
                )
                with self.database.session() as session:
                    arriving.push(
                        session, [arriving.Batch(lane.id, "m", 500.0, batch, boot=f"b{start}" if boots else "")]
                    )
            stored = sorted(r.watts for r in self.readings(lane))
            self.assertEqual(stored, sorted(s * 40.0 + n / 8 for s in range(4) for n in range(30)), f"seed {seed}")

    def test_a_reading_from_long_before_the_lane_is_refused_and_said_once(self):
        lane = self.open()
        clock = lambda n: -1e12 if n % 2 else 100.0 + n  # noqa: E731
        for first in (0, 10):
            with self.database.session() as session:
                numbers = range(first, first + 10)
                [found] = arriving.push(session, [arriving.Batch(lane.id, "m", 64.0, rows(numbers, clock=clock))])
            self.assertEqual((found.new, found.refused), (5, 5))
        self.assertEqual(len(self.readings(lane)), 10)
        with self.database.session() as session:
            self.assertEqual(len([e for e in store.entries_of(session, lane.id) if "refused" in e.text]), 1)


class Log(BenchTest):
    def test_an_entry_sent_twice_is_logged_once(self):
        lane, entry = self.open(), store.NewEntry("percent", 60.0, 47.0, "%", by="Ada")
        for expected in (1, 0):
            with self.database.session() as session:
                added = store.add_entries(session, store.lane_for_change(session, lane.id), [entry], NOW)
                self.assertEqual(len(added), expected)
        with self.database.session() as session:
            [found] = store.entries_of(session, lane.id)
        self.assertEqual((found.value, found.unit, found.by), (47.0, "%", "Ada"))


class Changing(BenchTest):
    def test_what_came_after_a_count(self):
        lane = self.open()
        first = self.push(lane, range(3))
        second = self.push(lane, range(3, 5))
        with self.database.session() as session:
            store.add_entries(session, store.lane_for_change(session, lane.id), [store.NewEntry("note", 1.0)], NOW)
        with self.database.session() as session:
            found = store.changes_since(session, first.tick)
            self.assertEqual([r.n for r in found.readings], [3, 4])
            self.assertEqual(([e.kind for e in found.entries], len(found.lanes)), (["note"], 1))
            self.assertEqual(store.changes_since(session, found.tick).readings, ())
        self.assertEqual(second.tick, first.tick + 1)

    def test_counts_are_committed_in_their_own_order(self):
        """A slow transaction makes the next one wait: nobody who has read up to n can miss one before it."""
        lane = self.open()
        with self.database.session() as slow:
            tick = store.raise_tick(slow)
            done = threading.Event()
            worker = threading.Thread(target=lambda: (self.push(lane, range(2)), done.set()))
            worker.start()
            self.assertFalse(done.wait(0.3))
            with self.database.session() as reader:
                self.assertLess(store.present_tick(reader), tick)
        self.assertTrue(done.wait(60))
        worker.join(60)

    def test_who_listens_is_told_once_it_is_committed(self):
        lane = self.open()
        url = self.database.url.replace("postgresql+psycopg", "postgresql")
        with psycopg.connect(url, autocommit=True) as listener:
            listener.execute(f"LISTEN {store.CHANNEL}")
            found = self.push(lane, range(2))
            note = next(listener.notifies(timeout=60, stop_after=1))
        self.assertEqual(note.payload, str(found.tick))

    def test_readings_are_let_go_with_their_run(self):
        lane, other = self.open(), self.open()
        for each in (lane, other):
            self.push(each, range(3))
        with self.database.session() as session:
            store.forget_readings(session, lane.id)
            self.assertEqual(session.scalar(select(func.count()).select_from(b.LaneReading)), 3)
