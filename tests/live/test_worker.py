"""Parts that stand still: seen, said, and started again; what the database refuses keeps nothing behind it."""

import os
import tempfile
import threading
import time
import unittest
import uuid
from pathlib import Path
from unittest import mock

import psycopg
from sqlalchemy import exc, text

from jaunecharge.core.simulator.circumstances import Circumstances
from jaunecharge.instruments.errors import InstrumentError
from jaunecharge.instruments.scpi import Scpi
from jaunecharge.live import practice
from jaunecharge.live import worker as workers
from jaunecharge.live.health import Health
from jaunecharge.live.hub import Hub
from jaunecharge.live.inbox import Inbox, Refused, Waits
from jaunecharge.live.keeper import Keeper
from jaunecharge.live.spool import Spool
from jaunecharge.live.worker import Watch, Worker
from jaunecharge.store.bench import arriving
from jaunecharge.store.bench import lanes as store
from jaunecharge.store.failures import failure, no_room
from tests.live.test_faults import CHAIN
from tests.live.test_parts import NOW, batch, lane
from tests.patience import until
from tests.serving import fresh_database


class Quick(unittest.TestCase):
    """What stands still is noticed after half a second instead of ten."""

    def setUp(self):
        self.enterContext(mock.patch.object(workers, "STANDS_STILL_S", 0.5))
        self.enterContext(mock.patch.object(workers, "LOOK_EVERY_S", 0.05))


class Workers(Quick):
    def started(self, run):
        made = Worker("part", "nothing is seen", run)
        made.start()
        self.addCleanup(made.stop)
        watch = Watch(lambda: [made])
        watch.start()
        self.addCleanup(watch.stop)
        return made, watch

    def test_one_that_beats_is_left_alone(self):
        def run(turn):
            while not turn.wait(0.01):
                pass

        made, watch = self.started(run)
        time.sleep(1.2)
        self.assertEqual((made.starts, watch.blind()), (1, []))

    def test_one_that_hangs_is_replaced_and_leaves_when_it_wakes(self):
        hangs, left, lives, runs = threading.Event(), [], [], []

        def run(turn):
            turn.beat()
            runs.append(1)
            if len(runs) == 1:
                hangs.wait(60)
                left.append(turn.over)
                return
            while not turn.wait(0.01):
                lives.append(1)

        made, watch = self.started(run)
        blind = until(watch.blind)
        self.assertEqual((blind[0].what, blind[0].says), ("part", "nothing is seen"))
        until(lambda: lives)
        until(lambda: not watch.blind())
        hangs.set()
        self.assertTrue(until(lambda: left)[0])
        self.assertEqual(made.starts, 2)

    def test_one_that_dies_is_started_again(self):
        lives, runs = [], []

        def run(turn):
            runs.append(1)
            if len(runs) < 3:
                raise ZeroDivisionError
            while not turn.wait(0.01):
                lives.append(1)

        with self.assertLogs("jaunecharge.live.worker", "ERROR"):
            _, watch = self.started(run)
            until(lambda: lives)
        until(lambda: not watch.blind())

    def test_one_that_hangs_again_and_again_is_tried_ever_less_often(self):
        made = Worker("part", "nothing is seen", lambda turn: threading.Event().wait(30))
        made.start()
        end = time.monotonic() + 6.0
        while time.monotonic() < end:
            made.look()
            time.sleep(0.02)
        made.stopped.set()
        # After 0.5, 1 and 2 s; each half second it would be a dozen.
        self.assertIn(made.starts, (2, 3, 4))

    def test_the_watch_that_stands_still_is_started_by_whoever_asks(self):
        made = Worker("part", "", lambda turn: turn.wait(60))
        asked = []

        def parts():
            asked.append(1)
            if len(asked) == 2:
                threading.Event().wait(20)
            return [made]

        watch = Watch(parts)
        watch.start()
        self.addCleanup(watch.stop)
        until(lambda: len(asked) == 2)
        self.assertEqual(until(watch.blind)[0].what, "watch")
        until(lambda: len(asked) > 3)
        until(lambda: not watch.blind())


class Parts(Quick):
    """The real ones, made to hang in the middle of their work."""

    @classmethod
    def setUpClass(cls):
        cls.database = cls.enterClassContext(fresh_database())

    def setUp(self):
        super().setUp()
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.inbox = Inbox(self.database, Spool(folder / "waiting.sqlite3"))
        self.hub = Hub(self.database, self.inbox)
        self.keeper = Keeper(self.database, self.hub)
        self.watch = Watch(lambda: (self.inbox.worker, self.hub.worker, *self.keeper.workers))
        self.health = Health(self.database, self.hub, self.watch, [folder])
        for part in (self.inbox, self.hub, self.keeper, self.watch):
            part.start()
        for part in (self.inbox, self.hub, self.keeper, self.health, self.watch):
            self.addCleanup(part.stop)
        self.told = []
        look = self.watch.look

        def told():
            """What is blind may see again before anybody asks: all that was said is kept."""
            look()
            if self.watch.blind():
                self.told += [t.says for t in self.health.troubles()]

        self.watch.look = told
        self.release = threading.Event()
        self.addCleanup(self.release.set)
        with self.database.session() as session:
            new = store.NewLane("x", {"phone": "x"}, lane().card)
            self.lane = store.open_lane(session, new, NOW).id
        until(lambda: self.lane in self.hub.states)

    def hanging(self, owner, name):
        """Have a method hang once, until the test releases it."""
        real, hung = getattr(owner, name), []

        def method(*arguments, **more):
            if not hung:
                hung.append(1)
                self.release.wait(60)
            return real(*arguments, **more)

        self.enterContext(mock.patch.object(owner, name, method))
        return hung

    def says(self):
        return " ".join(t.says for t in self.health.troubles())

    def test_a_hub_that_hangs(self):
        hung = self.hanging(self.hub, "refresh")
        self.inbox.put(batch(range(3), self.lane)).result(60)
        until(lambda: hung)
        until(lambda: "the bench shows nothing new" in self.told)
        until(lambda: self.hub.states[self.lane].watts.since(0))
        until(lambda: "the bench shows nothing new" not in self.says())

    def test_a_keeper_that_hangs_gives_its_lock_up(self):
        until(lambda: self.keeper.keeps)
        hung = self.hanging(self.keeper, "_look")
        until(lambda: hung)
        until(lambda: "no alarm is given" in self.told)
        until(lambda: "no alarm is given" not in self.says())
        rows = tuple(arriving.Row(n, celsius=60.0, position="back") for n in range(5))
        self.inbox.put(arriving.Batch(self.lane, "probe", 60.0, rows)).result(60)
        until(lambda: self.hub.states[self.lane].alarms)

    def test_an_inbox_that_hangs(self):
        hung = self.hanging(self.inbox, "_store")
        first = self.inbox.put(batch(range(3), self.lane))
        until(lambda: hung)
        self.assertEqual(self.inbox.put(batch(range(3, 5), self.lane)).result(60).new, 2)
        until(lambda: "readings that arrive are not stored" not in self.says())
        self.release.set()
        self.assertEqual(first.result(60).new, 3)

    def test_a_lane_that_cannot_be_watched_says_so_in_its_log(self):
        until(lambda: self.keeper.keeps)
        real, broken = self.keeper._watch, [True]

        def watch(state, at):
            if broken and state.lane.id == self.lane:
                raise ZeroDivisionError("a figure nobody thought of")
            real(state, at)

        with self.assertLogs("jaunecharge.live.keeper", "ERROR"), mock.patch.object(self.keeper, "_watch", watch):
            until(lambda: [a for a in self.hub.states[self.lane].alarms if a.unit == "not watched"])
            broken.clear()
            until(lambda: not self.hub.states[self.lane].alarms)


class Failures(unittest.TestCase):
    """What the database refuses is told apart from a database that is away."""

    @classmethod
    def setUpClass(cls):
        cls.database = cls.enterClassContext(fresh_database())

    def kind(self, statement, **values):
        try:
            with self.database.session() as session:
                session.execute(text(statement), values)
        except Exception as error:
            return failure(error)
        return None

    def test_by_class_of_error(self):
        for expected, statement, values in (
            (None, "SELECT 1", {}),
            ("refused", "SELECT CAST(:x AS text)", {"x": "a\x00b"}),
            ("refused", "SELECT CAST(:x AS text)", {"x": "\ud800"}),
            ("refused", "SELECT 1 / 0", {}),
            ("refused", "INSERT INTO bench (id, tick) VALUES (1, 1)", {}),
            ("refused", "SELECT * FROM nothing_of_that_name", {}),
            ("refused", "SELECT CAST(:x AS int)", {"x": 2**40}),
            ("busy", "SET LOCAL statement_timeout = 50; SELECT pg_sleep(5)", {}),
            ("away", "SELECT pg_terminate_backend(pg_backend_pid())", {}),
        ):
            with self.subTest(statement):
                self.assertEqual(self.kind(statement, **values), expected)

    def test_those_that_cannot_be_had_here(self):
        for expected, error in (
            ("away", psycopg.OperationalError("connection refused")),
            ("away", psycopg.errors.CannotConnectNow("starting up")),
            ("away", psycopg.errors.TooManyConnections("sorry")),
            ("no room", psycopg.errors.DiskFull("could not extend file")),
            ("busy", psycopg.errors.DeadlockDetected("deadlock")),
            ("refused", psycopg.DataError("cannot contain NUL")),
            ("away", exc.TimeoutError("the pool is empty")),
            (None, ValueError("something else")),
        ):
            self.assertEqual(failure(error), expected, error)
        self.assertTrue(no_room(OSError(28, "No space left on device")))
        self.assertFalse(no_room(OSError(2, "No such file")))


class Poison(unittest.TestCase):
    """A batch that the database refuses is set aside; nothing behind it waits."""

    @classmethod
    def setUpClass(cls):
        cls.database = cls.enterClassContext(fresh_database())

    def setUp(self):
        self.file = Path(self.enterContext(tempfile.TemporaryDirectory())) / "waiting.sqlite3"
        with self.database.session() as session:
            self.lane = store.open_lane(session, store.NewLane("x", {"phone": "x"}, lane().card), NOW).id

    def bad(self, numbers):
        return arriving.Batch(self.lane, "a\x00b", 60.0, tuple(arriving.Row(n, watts=1.0) for n in numbers))

    def count(self):
        with self.database.session() as session:
            return len(store.readings_of(session, self.lane))

    def inbox(self):
        made = Inbox(self.database, Spool(self.file))
        made.start()
        self.addCleanup(made.stop)
        return made

    def test_while_the_database_is_there(self):
        inbox = self.inbox()
        futures = [inbox.put(x) for x in (batch([0], self.lane), self.bad([1]), batch([2], self.lane))]
        self.assertEqual([f.result(60).new for f in (futures[0], futures[2])], [1, 1])
        with self.assertRaises(Refused):
            futures[1].result(60)
        self.assertFalse(inbox.away)
        [aside] = inbox.spool.put_aside_last()
        self.assertEqual((aside.readings, inbox.spool.aside(), inbox.spool.waiting()), (1, 1, 0))
        self.assertIn("NUL", aside.why)

    def test_among_those_that_wait_on_disk(self):
        spool = Spool(self.file)
        gone = arriving.Batch(uuid.uuid4(), "m", 60.0, (arriving.Row(0, watts=1.0),))
        spool.put([batch(range(5), self.lane), self.bad(range(3)), gone, batch(range(5, 9), self.lane)])
        spool._open().execute("INSERT INTO waiting (readings, batch) VALUES (2, 'no batch')")
        spool.put([batch(range(9, 12), self.lane)])
        spool.close()
        inbox = self.inbox()
        until(lambda: inbox.spool.waiting() == 0)
        self.assertEqual(self.count(), 12)
        whys = {a.readings: a.why for a in inbox.spool.put_aside_last()}
        self.assertIn("NUL", whys[3])
        self.assertIn("there is no lane", whys[1])
        self.assertIn("cannot be read", whys[2])
        self.assertEqual(inbox.spool.forget_aside(), 3)
        self.assertEqual(inbox.spool.aside(), 0)

    def test_those_of_a_lane_that_has_ended_meanwhile(self):
        spool = Spool(self.file)
        spool.put([batch(range(5), self.lane)])
        spool.close()
        with self.database.session() as session:
            store.lane_for_change(session, self.lane).state = "closed"
        inbox = self.inbox()
        until(lambda: inbox.spool.waiting() == 0)
        self.assertIn("had ended", inbox.spool.put_aside_last()[0].why)

    def test_a_deadlock_is_tried_again(self):
        inbox = self.inbox()
        real, failed = arriving.push, []

        def push(session, batches):
            if len(failed) < 2:
                failed.append(1)
                raise psycopg.errors.DeadlockDetected("deadlock")
            return real(session, batches)

        with mock.patch("jaunecharge.live.inbox.push", push):
            self.assertEqual(inbox.put(batch([0], self.lane)).result(60).new, 1)

    def test_no_room_makes_it_wait(self):
        inbox = self.inbox()
        full, real = [True], arriving.push

        def push(session, batches):
            if full:
                raise psycopg.errors.DiskFull("could not extend file")
            return real(session, batches)

        with mock.patch("jaunecharge.live.inbox.push", push):
            found = inbox.put(batch([0], self.lane)).result(60)
            self.assertEqual(found, Waits(1, no_room=True))
            full.clear()
            until(lambda: inbox.spool.waiting() == 0)
        self.assertEqual(self.count(), 1)


class StandIns(unittest.TestCase):
    """Stand-ins that are over let go of what they held."""

    def test_threads_and_sockets_come_back(self):
        held = lambda: (threading.active_count(), len(os.listdir("/proc/self/fd")))  # noqa: E731
        chain, around = CHAIN, Circumstances()
        made = practice.Practice()
        made.stop()
        before = held()
        asked = []
        for _ in range(10):
            address = made.stand(chain, around, 60.0)
            instrument = Scpi(address)
            self.assertGreater(instrument.volts(), 1.0)
            asked.append(instrument)
        self.assertGreater(held()[0], before[0] + 10)
        with mock.patch.object(practice, "GETS_ITS_LANE_S", 0.0):
            made.tidy({asked[0].address})
        self.assertEqual(len(made), 1)
        self.assertGreater(asked[0].volts(), 1.0, "the one that is used goes on")
        with self.assertRaises(InstrumentError):
            asked[1].volts()
        with mock.patch.object(practice, "GETS_ITS_LANE_S", 0.0):
            made.tidy(set())
        for instrument in asked:
            instrument.close()
        until(lambda: held()[0] <= before[0] and held()[1] <= before[1] + 1)
