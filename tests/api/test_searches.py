"""Searches that go on in the background: stopped before the application ends, and when nobody listens any more."""

import json
import os
import threading
import unittest

from jaunecharge.api.ndjson import as_lines
from jaunecharge.api.searches import Searches, ticking
from jaunecharge.core.errors import CannotRead
from jaunecharge.live.niceness import NICENESS, step_back


class Waiting:
    """A search that goes on until it is stopped."""

    def __init__(self):
        self.stopped = threading.Event()

    def stop(self):
        self.stopped.set()


class Stopping(unittest.TestCase):
    def test_all_are_stopped_and_waited_for(self):
        searches, both, over = Searches(), [Waiting(), Waiting()], []
        ready = threading.Barrier(3)

        def go(search):
            with searches.going(search):
                ready.wait(60)
                search.stopped.wait(60)
                over.append(search)

        threads = [threading.Thread(target=go, args=(s,)) for s in both]
        for thread in threads:
            thread.start()
        ready.wait(60)
        self.assertTrue(searches.stop_all())
        self.assertEqual(set(over), set(both))
        for thread in threads:
            thread.join(60)

    def test_with_none_going_there_is_nothing_to_wait_for(self):
        self.assertTrue(Searches().stop_all())

    def test_one_that_fails_is_not_waited_for(self):
        searches = Searches()
        with self.assertRaises(ValueError), searches.going(Waiting()):
            raise ValueError("a search that breaks")
        self.assertTrue(searches.stop_all())

    def test_ticks_come_while_work_goes_on_and_end_with_it(self):
        heard, twice = [], threading.Event()

        def tick(gone):
            heard.append(gone)
            if len(heard) >= 2:
                twice.set()

        with ticking(tick):
            self.assertTrue(twice.wait(60))
        count = len(heard)
        self.assertEqual(heard, sorted(heard))
        self.assertFalse(threading.Event().wait(0.0))
        self.assertEqual(len(heard), count)


class SteppingBack(unittest.TestCase):
    def test_a_thread_and_those_it_starts_let_others_go_first(self):
        found = []

        def look():
            found.append(os.getpriority(os.PRIO_PROCESS, threading.get_native_id()))

        def back():
            step_back()
            look()
            inner = threading.Thread(target=look)
            inner.start()
            inner.join(60)

        before = os.getpriority(os.PRIO_PROCESS, 0)
        thread = threading.Thread(target=back)
        thread.start()
        thread.join(60)
        self.assertEqual(found, [NICENESS, NICENESS])
        self.assertEqual(os.getpriority(os.PRIO_PROCESS, 0), before)


class Lines(unittest.TestCase):
    def test_each_step_is_a_line_and_the_last_carries_the_outcome(self):
        def work(told):
            told("searching", 0.5)
            return {"found": 7}

        lines = [json.loads(line) for line in as_lines(work)]
        self.assertEqual([(x["step"], x["fraction"]) for x in lines], [("searching", 0.5), ("done", 1.0)])
        self.assertEqual(lines[-1]["found"], 7)

    def test_a_refusal_is_the_last_line(self):
        def work(told):
            raise CannotRead("it cannot be", "make it so that it can")

        [line] = [json.loads(x) for x in as_lines(work)]
        self.assertEqual((line["step"], line["problem"]["detail"]), ("refused", "it cannot be"))

    def test_when_the_listener_goes_the_work_is_told(self):
        search = Waiting()

        def work(told):
            told("searching", 0.1)
            search.stopped.wait(60)
            return {}

        lines = as_lines(work, search.stop)
        next(lines)
        self.assertFalse(search.stopped.is_set())
        lines.close()
        self.assertTrue(search.stopped.is_set())
