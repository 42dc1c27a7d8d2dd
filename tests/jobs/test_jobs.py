"""Records of jobs: begun, told, ended once, tried again, taken up from the dead."""

import datetime as dt
import os
import threading
import unittest
import uuid
from unittest.mock import patch

from sqlalchemy import text

from jaunecharge.core.errors import CannotRead, Impossible
from jaunecharge.jobs import Worker, set_back
from jaunecharge.jobs.doing import Again, Doing, Leaving, do
from jaunecharge.jobs.rereading import AT_ONCE, deal_out, read_again
from jaunecharge.jobs.searching import telling
from jaunecharge.jobs.works import WORKS
from jaunecharge.store import models as m
from jaunecharge.store.errors import ChangedMeanwhile, NotThere
from jaunecharge.store.jobs import jobs as store
from jaunecharge.store.jobs.jobs import Cancelled, Superseded
from jaunecharge.store.jobs.models import Job
from jaunecharge.store.runs.runs import list_runs
from tests.patience import until
from tests.serving import fresh_database
from tests.working import do_waiting, workshop


class JobsTest(unittest.TestCase):
    def setUp(self):
        self.database = self.enterContext(fresh_database())

    def defer(self, kind="table", key="", **args):
        with self.database.session() as session:
            return store.defer(session, kind, args, "a shelf", "Ida", key)

    def job(self, job_id):
        with self.database.session() as session:
            return store.get_job(session, job_id)

    def begin(self, job_id, worker="one"):
        with self.database.session() as session:
            job = store.begin(session, job_id, worker)
            return None if job is None else job.attempt

    def queued(self):
        with self.database.session() as session:
            return session.scalar(text("SELECT count(*) FROM procrastinate_jobs WHERE status = 'todo'"))

    def do(self, job_id, work, kind="table"):
        do(workshop(self.database), job_id, {kind: work})


class Deferred(JobsTest):
    def test_it_is_queued_only_if_what_it_goes_with_is_committed(self):
        with self.assertRaises(ValueError), self.database.session() as session:
            store.defer(session, "table", {})
            raise ValueError
        self.assertEqual(self.queued(), 0)
        self.defer()
        self.assertEqual(self.queued(), 1)

    def test_an_equal_one_is_not_done_twice(self):
        first = self.defer(key="one shelf")
        self.assertEqual(self.defer(key="one shelf"), first)
        self.assertNotEqual(self.defer(key="another"), first)
        self.do(first, lambda doing: {"table": 1})
        self.assertEqual(self.defer(key="one shelf"), first)

    def test_one_that_failed_or_was_cancelled_is_no_equal(self):
        first = self.defer(key="one shelf")
        with self.database.session() as session:
            store.cancel(session, first)
        second = self.defer(key="one shelf")
        self.assertNotEqual(second, first)

    def test_whoever_waits_for_a_page_goes_first(self):
        order = [store.KINDS[k].priority for k in ("pdf", "package", "schedule", "runs again")]
        self.assertEqual(order, sorted(order, reverse=True))
        background = {k.queue for k in store.KINDS.values() if k.priority == 0}
        self.assertEqual(background, {"background"})


class Done(JobsTest):
    def test_its_effect_and_its_end_are_one_transaction(self):
        def work(doing):
            with doing.last_step() as (session, result):
                session.add(m.Setting(key="done", value={"by": "it"}))
                result["n"] = 7

        job_id = self.defer()
        self.do(job_id, work)
        job = self.job(job_id)
        self.assertEqual((job.state, job.result, job.fraction), ("done", {"n": 7}, 1.0))
        self.assertEqual(self.settings(), ["done"])

    def settings(self):
        with self.database.session() as session:
            return [s.key for s in session.query(m.Setting)]

    def test_an_attempt_that_another_has_overtaken_has_no_effect(self):
        def overtaken(doing):
            self.begin(job_id, "two")
            with doing.last_step() as (session, _):
                session.add(m.Setting(key="done", value={}))

        job_id = self.defer()
        with self.assertLogs("jaunecharge.jobs", "WARNING"):
            self.do(job_id, overtaken)
        self.assertEqual(self.settings(), [])
        self.assertEqual((self.job(job_id).state, self.job(job_id).worker), ("running", "two"))

    def test_one_that_has_ended_is_not_begun_again(self):
        job_id = self.defer()
        self.do(job_id, lambda doing: None)
        self.assertIsNone(self.begin(job_id))
        done = []
        self.do(job_id, done.append)
        self.assertEqual(done, [])

    def test_progress_is_told_and_not_oftener_than_anybody_looks(self):
        def work(doing):
            doing.tell("forecasting", 0.25)
            for _ in range(100):
                doing.tell("forecasting", 0.9)
            self.assertEqual((self.job(job_id).step, self.job(job_id).fraction), ("forecasting", 0.25))
            doing.tell("forecasting", 3.0, news=True)
            self.assertEqual((self.job(job_id).fraction, self.job(job_id).news), (1.0, 1))

        job_id = self.defer()
        self.do(job_id, work)
        self.assertEqual(self.job(job_id).state, "done")


class Failed(JobsTest):
    def test_a_refusal_is_kept_with_its_mend_and_not_tried_again(self):
        for error in (
            CannotRead("no such column", "name it", "m.csv", 4), NotThere("it is gone"), ChangedMeanwhile("newer"),
            Impossible("too many runs", ["fewer phones"]),
        ):  # fmt: skip
            with self.subTest(type(error).__name__):
                job_id = self.defer("runs again")

                def refuse(doing, error=error):
                    raise error

                self.do(job_id, refuse, "runs again")
                self.assertEqual(self.job(job_id).state, "failed")
                again = store.error_of(self.job(job_id).why)
                self.assertIs(type(again), type(error))
                self.assertEqual(str(again), str(error))

    def test_the_unforeseen_is_tried_again_after_ever_longer_times_and_then_no_more(self):
        def break_down(doing):
            raise RuntimeError("out of order")

        job_id, waits = self.defer("runs again"), []
        for n in range(store.KINDS["runs again"].tries):
            with self.assertLogs("jaunecharge.jobs", "ERROR"):
                try:
                    self.do(job_id, break_down, "runs again")
                except Again as again:
                    waits.append(again.after_s)
                    self.assertEqual((self.job(job_id).state, self.job(job_id).failures), ("waiting", n + 1))
                    self.assertGreater(self.job(job_id).next_at, dt.datetime.now(dt.UTC))
        self.assertEqual(waits, sorted(waits))
        self.assertEqual(len(waits), store.KINDS["runs again"].tries - 1)
        self.assertEqual(
            (self.job(job_id).state, self.job(job_id).why["what"]), ("failed", "RuntimeError: out of order")
        )

    def test_it_can_be_tried_again_by_hand_and_taken_off_the_list(self):
        job_id = self.defer()

        def refuse(doing):
            raise CannotRead("no", "yes")

        self.do(job_id, refuse)
        with self.database.session() as session:
            store.try_again(session, job_id)
        with self.assertRaises(CannotRead), self.database.session() as session:
            store.forget(session, job_id)
        self.do(job_id, lambda doing: {})
        with self.assertRaises(CannotRead), self.database.session() as session:
            store.try_again(session, job_id)
        with self.database.session() as session:
            store.forget(session, job_id)
        with self.assertRaises(NotThere):
            self.job(job_id)

    def test_what_ended_long_ago_is_forgotten(self):
        ids = [self.defer() for _ in range(3)]
        for job_id in ids[:2]:
            self.do(job_id, lambda doing: {})
        with self.database.session() as session:
            store.get_job(session, ids[0]).ended_at = dt.datetime.now(dt.UTC) - store.KEPT * 2
        with self.database.session() as session:
            store.tidy(session)
            self.assertEqual({j.id for j in session.query(Job)}, set(ids[1:]))


class CancelledOnes(JobsTest):
    def test_one_that_waits_ends_at_once(self):
        job_id = self.defer()
        with self.database.session() as session:
            store.cancel(session, job_id)
        self.assertEqual(self.job(job_id).state, "cancelled")
        self.assertIsNone(self.begin(job_id))

    def test_one_that_runs_ends_when_it_next_tells(self):
        def work(doing):
            with self.database.session() as session:
                store.cancel(session, job_id)
            doing.tell("forecasting", 0.5)
            self.fail("it went on")

        job_id = self.defer()
        self.do(job_id, work)
        self.assertEqual(self.job(job_id).state, "cancelled")

    def test_one_that_ends_without_telling_has_no_effect_either(self):
        def work(doing):
            with self.database.session() as session:
                store.cancel(session, job_id)
            with doing.last_step() as (session, _):
                session.add(m.Setting(key="done", value={}))

        job_id = self.defer()
        self.do(job_id, work)
        self.assertEqual(self.job(job_id).state, "cancelled")
        with self.database.session() as session:
            self.assertIsNone(session.get(m.Setting, "done"))

    def test_a_search_that_is_wanted_no_more_is_stopped(self):
        for how in (Cancelled, Superseded, Leaving):
            search, asked = Waiting(), threading.Event()
            doing = Doing(workshop(self.database), uuid.uuid4(), 1, {}, "")

            def tell(step, fraction, news=False, how=how, asked=asked):
                asked.set()
                raise how

            doing.tell = tell
            with telling(doing, 20.0, search, lambda: 0):
                self.assertTrue(search.over.wait(60))
            self.assertTrue(asked.is_set())

    def test_a_search_tells_that_it_found_something(self):
        told, twice = [], threading.Event()
        doing = Doing(workshop(self.database), uuid.uuid4(), 1, {}, "")

        def tell(step, fraction, news=False):
            told.append(news)
            if len(told) == 2:
                twice.set()

        doing.tell = tell
        with telling(doing, 20.0, Waiting(), lambda: 1):
            self.assertTrue(twice.wait(60))
        self.assertEqual(told[:2], [True, False])


class Waiting:
    """A search that goes on until it is stopped."""

    stopped = False

    def __init__(self):
        self.over = threading.Event()

    def stop(self):
        self.over.set()


class Lost(JobsTest):
    """Workers that died, and one that leaves."""

    def fetch(self, job_id, beaten_s=0.0):
        """The engine hands the job to a worker that last told so long ago."""
        with self.database.session() as session:
            worker = session.scalar(
                text(
                    "INSERT INTO procrastinate_workers (last_heartbeat)"
                    " VALUES (now() - make_interval(secs => :ago)) RETURNING id"
                ),
                {"ago": beaten_s},
            )
            session.execute(text("SELECT procrastinate_fetch_job_v2(NULL, :worker)"), {"worker": worker})
        return self.begin(job_id)

    def take_up(self):
        with self.database.session() as session:
            return store.take_up_lost(session)

    def test_a_job_of_a_worker_that_lives_is_left_alone(self):
        job_id = self.defer()
        self.fetch(job_id, store.LOST_AFTER_S / 2)
        self.assertEqual(self.take_up(), 0)

    def test_a_dead_workers_job_is_taken_up_and_its_effect_comes_once(self):
        job_id = self.defer()
        first = self.fetch(job_id, store.LOST_AFTER_S + 1)
        self.assertEqual(self.take_up(), 1)
        self.assertEqual((self.job(job_id).state, self.queued()), ("waiting", 1))
        second = self.fetch(job_id)
        with self.assertRaises(Superseded), self.database.session() as session:
            store.finish(session, job_id, first, {})
        with self.database.session() as session:
            store.finish(session, job_id, second, {"n": 2})
        self.assertEqual(self.job(job_id).result, {"n": 2})

    def test_over_one_that_kills_its_workers_no_more_than_a_few_die(self):
        job_id = self.defer()
        for _ in range(store.MOST_LOST):
            self.fetch(job_id, store.LOST_AFTER_S + 1)
            self.assertEqual(self.take_up(), 1)
        self.assertEqual((self.job(job_id).state, self.queued()), ("failed", 0))
        self.assertIn("died over it", self.job(job_id).why["what"])

    def test_one_whose_worker_died_after_its_effect_is_not_begun_again(self):
        job_id = self.defer()
        attempt = self.fetch(job_id, store.LOST_AFTER_S + 1)
        with self.database.session() as session:
            store.finish(session, job_id, attempt, {})
        self.take_up()
        self.assertEqual((self.job(job_id).state, self.queued()), ("done", 0))

    def test_a_worker_that_leaves_leaves_its_job_to_another(self):
        def work(doing):
            place.closing.set()
            doing.tell("forecasting", 0.5)
            self.fail("it went on")

        job_id, place = self.defer(), workshop(self.database)
        with self.assertRaises(Again) as raised:
            do(place, job_id, {"table": work})
        self.assertEqual((raised.exception.after_s, self.job(job_id).state), (0.0, "waiting"))
        self.assertEqual(self.job(job_id).failures, 0)


class RunsAgain(JobsTest):
    """Stale runs dealt out as jobs."""

    def add(self, count):
        with self.database.session() as session:
            for n in range(count):
                session.add(m.Run(label=f"run {n}", reader_version=0, packed=True, summary_json={}, samples=0))

    def about(self):
        with self.database.session() as session:
            return sorted(len(j.args["runs"]) for j in store.jobs_in(session, "waiting", 100))

    def test_each_is_dealt_out_once(self):
        self.add(AT_ONCE + 3)
        with self.database.session() as session:
            self.assertEqual(deal_out(session), AT_ONCE + 3)
        with self.database.session() as session:
            self.assertEqual(deal_out(session), 0)
        self.assertEqual(self.about(), [3, AT_ONCE])

    def test_after_a_worker_died_over_some_each_comes_by_itself(self):
        self.add(3)
        with self.database.session() as session:
            deal_out(session)
            [job] = store.jobs_in(session, "waiting", 9)
        self.begin(job.id)
        with self.database.session() as session:
            session.get_one(Job, job.id).state = "waiting"
        self.do(job.id, read_again, "runs again")
        self.assertEqual(self.about(), [1, 1, 1])

    def test_one_that_failed_for_good_is_not_dealt_out_again_by_this_version(self):
        self.add(2)
        with self.database.session() as session:
            # A log that is not there cannot be read.
            for run in list_runs(session):
                run.case_json = {"capacity_mah": "no number"}
            deal_out(session)
        with self.assertLogs("jaunecharge.jobs", "ERROR"):
            do_waiting(self.database)
            for _ in range(5):
                do_waiting(self.database)
        with self.database.session() as session:
            self.assertEqual([len(j.args["runs"]) for j in store.jobs_in(session, "failed", 9)], [1, 1])
            self.assertEqual(deal_out(session), 0)


class SteppingBack(unittest.TestCase):
    def test_work_and_the_threads_it_starts_let_others_go_first(self):
        found = []

        def look():
            found.append(os.getpriority(os.PRIO_PROCESS, threading.get_native_id()))
            return threading.get_ident()

        def work():
            inner = threading.Thread(target=look)
            inner.start()
            inner.join(60)
            return look()

        before = os.getpriority(os.PRIO_PROCESS, threading.get_native_id())
        self.assertNotEqual(set_back(7, work), threading.get_ident())
        set_back(3, look)
        self.assertEqual(found, [7, 7, 3])
        self.assertEqual(os.getpriority(os.PRIO_PROCESS, threading.get_native_id()), before)

    def test_a_worker_steps_back_as_far_as_the_kind_of_job_says(self):
        found = {}

        def look(doing):
            found[doing.args["kind"]] = os.getpriority(os.PRIO_PROCESS, threading.get_native_id())

        database = self.enterContext(fresh_database())
        self.enterContext(patch.dict(WORKS, dict.fromkeys(store.KINDS, look)))
        with database.session() as session:
            for kind in store.KINDS:
                store.defer(session, kind, {"kind": kind})
        worker = Worker(database, workshop(database).uploads)
        self.addCleanup(worker.stop)
        worker.start()
        until(lambda: found.keys() == store.KINDS.keys())
        self.assertEqual(found, {name: kind.niceness for name, kind in store.KINDS.items()})
        self.assertGreater(found["runs again"], found["pdf"])

    def test_what_it_raises_is_raised(self):
        with self.assertRaises(ZeroDivisionError):
            set_back(5, lambda: 1 // 0)


if __name__ == "__main__":
    unittest.main()
