"""Twenty meters on serial ports and twenty that publish, five readings a second each, while ports are pulled and the
broker is ended and killed: nothing is stored twice, and nothing is missing but what nobody could hear."""

import contextlib
import json
import os
import random
import signal
import tempfile
import threading
import time
import tty
import unittest
import uuid
from dataclasses import replace
from pathlib import Path

from sqlalchemy import text

from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.store.kit import add_all
from tests.api.test_bench import BenchTest
from tests.live.test_topics import Broker

SECONDS = float(os.environ.get("INSTRUMENT_SECONDS", "60"))
EACH, EVERY_S, OUTAGES = 20, 0.2, 5
FIRST = 1000
BROKERS_OWN_S = 3.0
"""What a broker had taken so shortly before it was killed it may not have written to disk yet."""


class Plugged:
    """A serial port that can be pulled and plugged in again under its name, and what was written while it was in."""

    def __init__(self):
        self.far, self.near = os.openpty()
        self._ready()
        self.name = os.ttyname(self.near)
        self.lock, self.times, self.n = threading.Lock(), [[]], 0

    def _ready(self):
        tty.setraw(self.near)
        os.set_blocking(self.far, False)

    def write(self):
        with self.lock:
            self.n += 1
            if self.far < 0:
                return
            with contextlib.suppress(OSError):
                line = f"{200 * self.n};9.000;{self.n / 10:.1f}\r\n".encode()
                if os.write(self.far, line) == len(line):
                    self.times[-1].append(self.n)

    def pull(self):
        with self.lock:
            os.close(self.far)
            os.close(self.near)
            self.far = self.near = -1

    def plug_in(self):
        """The same name again: the lowest number that is free."""
        others = []
        for _ in range(200):
            far, near = os.openpty()
            if os.ttyname(near) == self.name:
                with self.lock:
                    self.far, self.near = far, near
                    self._ready()
                    self.times.append([])
                break
            others += [far, near]
        for end in others:
            os.close(end)


class Many(BenchTest):
    maxDiff = 2000

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        folder = Path(cls.enterClassContext(tempfile.TemporaryDirectory()))
        cls.broker = Broker(folder).start()
        cls.addClassCleanup(cls.broker.stop)

    def setUp(self):
        super().setUp()
        self.ports = [Plugged() for _ in range(EACH)]
        self.topics = [f"hut/{uuid.uuid4().hex}" for _ in range(EACH)]
        at = f"mqtt://127.0.0.1:{self.broker.port}"
        addresses = [f"serial:{p.name}?columns=ms,V,mA" for p in self.ports]
        addresses += [f"{at}/{t}?watts=w&at=t" for t in self.topics]
        pieces = [replace(kit_from_line(f"meter M{n} 1%"), address=a) for n, a in enumerate(addresses)]
        with self.database.session() as session:
            add_all(session, pieces, "")
        self.lanes_ = [self.opened(n) for n in range(len(addresses))]
        self.sent = {}
        self.acknowledged = {}
        self.client = self.broker.publisher()
        self.client.on_publish = self.was_published
        self.addCleanup(self.client.loop_stop)

    def opened(self, n):
        answer = self.web.post("/api/lanes", json={"factors": {"phone": f"P{n}"}, "meter": f"M{n}"})
        self.assertEqual(answer.status_code, 201, answer.text)
        return uuid.UUID(answer.json()["view"]["id"])

    def was_published(self, client, data, mid, reason, properties):
        if (what := self.sent.pop(mid, None)) is not None:
            self.acknowledged[what] = time.monotonic()

    def publish(self, topic, n):
        message = json.dumps({"w": n / 100.0, "t": time.time()})
        sent = self.client.publish(self.topics[topic], message, qos=1)
        if sent.mid is not None:
            self.sent[sent.mid] = (topic, n)

    def stored(self):
        """Amps or watts of each lane, in the order of their numbers."""
        rows = {lane: [] for lane in self.lanes_}
        query = text("SELECT lane_id, amps, watts FROM lane_readings WHERE lane_id = ANY(:lanes)")
        with self.database.session() as session:
            for lane, amps, watts in session.execute(query, {"lanes": self.lanes_}):
                rows[lane].append(round(amps * 10000) if amps is not None else round(watts * 100))
        # What was sent again and again until it was heard does not count.
        return [sorted(x for x in rows[lane] if i < EACH or x >= FIRST) for i, lane in enumerate(self.lanes_)]

    def test_nothing_twice_and_nothing_missing_but_what_nobody_heard(self):
        chance, over = random.Random(11), threading.Event()
        for topic in range(EACH):
            self.publish(topic, 0)
        self.until(self.heard_once, "not all instruments are heard", 180.0)

        def write():
            n = 0
            while not over.wait(EVERY_S):
                n += 1
                for port in self.ports:
                    port.write()
                for topic in range(EACH):
                    self.publish(topic, FIRST + n)

        writer = threading.Thread(target=write, daemon=True)
        writer.start()
        killed = []
        for outage in range(OUTAGES):
            time.sleep(SECONDS / (OUTAGES + 1))
            for port in (pulled := chance.sample(self.ports, 4)):
                port.pull()
            if outage % 2:
                killed.append(time.monotonic())
            self.broker.stop(signal.SIGKILL if outage % 2 else signal.SIGTERM)
            time.sleep(chance.uniform(0.3, 1.5))
            self.broker.start()
            for port in pulled:
                port.plug_in()
        time.sleep(SECONDS / (OUTAGES + 1))
        over.set()
        writer.join(30)
        wanted = {
            what for what, at in list(self.acknowledged.items()) if not any(k - BROKERS_OWN_S < at < k for k in killed)
        }

        def all_there():
            found = self.stored()
            return not [1 for topic, n in wanted if n >= FIRST and n not in set(found[EACH + topic])]

        with contextlib.suppress(AssertionError):
            self.until(all_there, "", 120.0)
        found = self.stored()
        lost = sorted((topic, n) for topic, n in wanted if n >= FIRST and n not in set(found[EACH + topic]))
        self.assertEqual(lost, [], "acknowledged by the broker, and lost")
        for lane, values in enumerate(found):
            self.assertEqual(len(values), len(set(values)), f"lane {lane} holds one twice")
        heard = 0
        for port, values in zip(self.ports, found, strict=False):
            for written in port.times:
                here = [n for n in values if written and written[0] <= n <= written[-1]]
                heard += len(here)
                if here:
                    self.assertEqual(here, list(range(here[0], here[-1] + 1)), "a line between others is missing")
        self.assertGreater(heard, 0.6 * sum(len(w) for p in self.ports for w in p.times))
        self.say_what_is_missing()

    def heard_once(self):
        for port in self.ports:
            port.write()
        for topic in range(EACH):
            self.publish(topic, 1)
        time.sleep(EVERY_S)
        with self.database.session() as session:
            heard = text("SELECT count(DISTINCT lane_id) FROM lane_readings WHERE lane_id = ANY(:lanes)")
            return session.execute(heard, {"lanes": self.lanes_}).scalar() == len(self.lanes_)

    def say_what_is_missing(self):
        """The lane of a port that is out and that of a broker that is away say what is missing, and since when."""
        self.ports[0].pull()
        self.broker.stop()

        def said(lane):
            alarms = self.web.get(f"/api/lanes/{lane}").json()["view"]["alarms"]
            return next((a for a in alarms if a["key"] == "meter silent"), None)

        for lane, words in ((self.lanes_[0], "serial port"), (self.lanes_[EACH], "broker")):
            alarm = self.until(lambda lane=lane: said(lane), "silence is not told", 180.0)
            self.assertRegex(alarm["seen"], r"nothing from the meter for \d+")
            self.assertRegex(alarm["do"], f"{words}|is gone")
        self.broker.start()


if __name__ == "__main__":
    unittest.main()
