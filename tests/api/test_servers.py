"""Two servers on one database, each with a folder of its own: whatever is done on one holds on the other."""

import json
import shutil
import tempfile
import threading
import unittest
import uuid
from pathlib import Path

import httpx

from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.store import people
from jaunecharge.store.bench_models import Tried
from jaunecharge.store.kit import add_all
from tests.patience import until
from tests.serving import ON_THE_NETWORK, PASSPHRASE, fresh_database, served

METER = "time,watts\n" + "".join(f"{n},{12.0 if n > 10 else 0.3}\n" for n in range(600))


class Servers(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.database = cls.enterClassContext(fresh_database())
        with cls.database.session() as session:
            add_all(session, [kit_from_line("phone Ostrel Max 4620mAh mpp")], "")
            people.add_person(session, "Ida", "change", PASSPHRASE)
        cls.addresses = []
        for _ in range(2):
            folder = Path(tempfile.mkdtemp(prefix="jaunecharge-servers-"))
            cls.addClassCleanup(shutil.rmtree, folder)
            cls.addresses.append(cls.enterClassContext(served(cls.database, folder / "uploads", ON_THE_NETWORK)))

    def setUp(self):
        self.one, self.two = (self.enterContext(httpx.Client(base_url=a, timeout=60)) for a in self.addresses)
        self.assertEqual(self.sign_in(self.one), 204)
        # The browser shows the same cookie to whichever server the proxy chooses.
        self.two.cookies.update(self.one.cookies)

    def sign_in(self, client, passphrase=PASSPHRASE):
        return client.post("/api/sign-in", json={"name": "Ida", "passphrase": passphrase}).status_code

    def lane(self, client):
        made = client.post("/api/lanes", json={"factors": {"phone": "Ostrel Max"}})
        self.assertEqual(made.status_code, 201, made.text)
        return made.json()["view"]["id"]

    def test_who_has_signed_in_on_one_has_on_both_and_who_signs_out_is_out_of_both(self):
        self.assertEqual(self.two.get("/api/runs").status_code, 200)
        self.assertEqual(self.one.delete("/api/sign-in").status_code, 204)
        until(lambda: self.two.get("/api/runs").status_code == 401)

    def test_passphrases_that_are_tried_count_for_both(self):
        strangers = [httpx.Client(base_url=a, timeout=60) for a in self.addresses]
        for stranger in strangers:
            self.addCleanup(stranger.close)
        counts = []
        for stranger in strangers:
            self.assertEqual(self.sign_in(stranger, "three green lamps"), 403)
            with self.database.session() as session:
                counts.append(session.get(Tried, "127.0.0.1").count)
        self.assertEqual(counts, [1, 2])
        with self.database.session() as session:
            session.get(Tried, "127.0.0.1").count = 9  # The next has to wait for two minutes.
        answers = [self.sign_in(stranger, "three green lamps") for stranger in strangers]
        with self.database.session() as session:
            session.delete(session.get(Tried, "127.0.0.1"))
        self.assertEqual(answers, [429, 429])

    def test_what_was_sent_to_one_is_read_by_the_other(self):
        sent = self.one.post("/api/uploads?name=m.csv", content=METER.encode())
        self.assertEqual(sent.status_code, 201, sent.text)
        body = {"files": [{"upload": sent.json()["id"], "roles": ["meter"]}], "label": "by two"}
        stored = self.two.post("/api/runs", json=body)
        self.assertEqual(stored.status_code, 201, stored.text)
        self.assertEqual(self.one.get(f"/api/runs/{stored.json()['id']}").json()["samples"], 600)

    def test_a_package_that_one_asked_for_is_fetched_from_the_other(self):
        last = json.loads(self.one.post("/api/packages", json={}).text.splitlines()[-1])
        fetched = self.two.get(f"/api/packages/{last['package']}")
        self.assertEqual((fetched.status_code, fetched.content[:2]), (200, b"PK"))

    def test_a_lane_that_one_opened_is_shown_by_the_other_at_once(self):
        for _ in range(5):
            lane = self.lane(self.one)
            shown = self.two.get(f"/api/lanes/{lane}")
            self.assertEqual(shown.status_code, 200, shown.text)
            ended = {"id": str(uuid.uuid4()), "outcome": "void", "reason": "looked at"}
            self.assertLess(self.two.post(f"/api/lanes/{lane}/ended", json=ended).status_code, 300)
            self.assertEqual(self.one.get(f"/api/lanes/{lane}").status_code, 410)

    def test_readings_pushed_to_one_are_told_by_the_other(self):
        lane = self.lane(self.one)
        token = self.two.get(f"/api/lanes/{lane}/link").json()["token"]
        heard, ready = [], threading.Event()

        def listen():
            with self.two.stream("GET", "/api/bench/events") as answer:
                for line in answer.iter_lines():
                    ready.set()
                    if line.startswith("data:") and lane in line and "17.25" in line:
                        heard.append(line)
                        return

        thread = threading.Thread(target=listen, daemon=True)
        thread.start()
        self.assertTrue(ready.wait(60))
        body = {"source": "meter", "readings": [{"n": 1, "clock_s": 1.0, "watts": 17.25}]}
        headers = {"Authorization": f"Bearer {token}"}
        answer = httpx.post(f"{self.addresses[0]}/api/lanes/{lane}/readings", json=body, headers=headers, timeout=60)
        self.assertEqual(answer.status_code, 200, answer.text)
        thread.join(60)
        self.assertEqual(len(heard), 1)
        # Sent again to the other, as a pusher does that had no answer: it is stored once.
        again = httpx.post(f"{self.addresses[1]}/api/lanes/{lane}/readings", json=body, headers=headers, timeout=60)
        self.assertEqual(again.json()["duplicates"], 1)

    def test_one_keeps_the_bench(self):
        with self.database.session() as session:
            held = "SELECT count(*) FROM pg_locks WHERE locktype = 'advisory' AND objid = 8418 AND granted"
            own = f"{held} AND database = (SELECT oid FROM pg_database WHERE datname = current_database())"
            self.assertEqual(session.connection().exec_driver_sql(own).scalar(), 1)


if __name__ == "__main__":
    unittest.main()
