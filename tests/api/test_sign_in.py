"""On the network everything asks for a sign-in, but for a lane in the hand, which reaches its lane and nothing else."""

import datetime as dt
import threading
import time
import unittest
import uuid
from unittest import mock

import httpx
from sqlalchemy import text

from jaunecharge.api.network import on_the_network
from jaunecharge.api.sign_in import WORKED_OUT
from jaunecharge.core.errors import CannotRead
from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.store import people
from jaunecharge.store import sign_ins as store
from jaunecharge.store.bench_models import Tried
from jaunecharge.store.database import LOOKS_ONLY
from jaunecharge.store.kit import add_all
from jaunecharge.store.sign_ins import FREE_TRIES, count_try, forget_tries
from tests.patience import until
from tests.serving import ON_THE_NETWORK, PASSPHRASE, ServedTest, fresh_database

LOOKING = "lamps to look at"
OPEN = ("/api/health", "/api/network")


class OnTheNetwork(ServedTest):
    network = ON_THE_NETWORK

    @classmethod
    def fill(cls):
        with cls.database.session() as session:
            add_all(session, [kit_from_line("phone Ostrel Max 4620mAh mpp")], "")
            people.add_person(session, "bench", "change", PASSPHRASE)
            people.add_person(session, "Ben", "look", LOOKING)

    def setUp(self):
        self.stranger = self.enterContext(httpx.Client(base_url=self.address, timeout=60))
        self.known = self.enterContext(httpx.Client(base_url=self.address, timeout=60))
        self.assertEqual(self.sign_in(self.known), 204)

    def sign_in(self, client, passphrase=PASSPHRASE, name=""):
        return client.post("/api/sign-in", json={"name": name, "passphrase": passphrase}).status_code

    def lane(self):
        made = self.known.post("/api/lanes", json={"factors": {"phone": "Ostrel Max"}}).json()["view"]
        return made, self.known.get(f"/api/lanes/{made['id']}/link").json()["token"]

    def test_every_route_asks_for_it(self):
        spec = self.known.get("/api/openapi.json").json()
        for path, methods in spec["paths"].items():
            if (
                path in OPEN
                or path == "/api/sign-in"
                or path.startswith(("/api/hand/", "/shared/"))
                or path.endswith("/readings")
            ):
                continue
            for method in methods:
                with self.subTest(f"{method} {path}"):
                    concrete = path.replace("{", "").replace("}", "")
                    self.assertEqual(self.stranger.request(method, concrete).status_code, 401)
        self.assertEqual(self.stranger.get("/api/openapi.json").status_code, 401)
        self.assertEqual(self.known.get("/api/runs").status_code, 200)

    def test_pages_lead_to_the_sign_in(self):
        answer = self.stranger.get("/bench")
        self.assertEqual((answer.status_code, answer.headers["location"]), (303, "/sign-in"))
        self.assertEqual(self.stranger.get("/sign-in").status_code, 200)
        self.assertEqual(self.known.get("/bench").status_code, 200)
        self.assertEqual(self.stranger.get("/api/network").json(), {
            "reachable": True, "secure": False, "address": "", "signed_in": False, "name": "", "role": "change",
        })  # fmt: skip

    def test_wrong_passphrases(self):
        self.assertEqual(self.sign_in(self.stranger, "two yellow lamps"), 403)
        self.assertEqual(self.sign_in(self.stranger, PASSPHRASE, "Nobody"), 403)
        self.assertEqual(self.stranger.get("/api/runs").status_code, 401)
        self.assertEqual(self.stranger.get("/api/runs", headers={"Cookie": "jaunecharge=made-up"}).status_code, 401)
        found = [self.sign_in(self.stranger, "guess guess guess") for _ in range(4)]
        self.assertIn(429, found, "after some the next one waits")
        end = time.monotonic() + 60.0
        while (answer := self.sign_in(self.stranger)) == 429 and time.monotonic() < end:
            time.sleep(0.2)
        self.assertEqual(answer, 204, "it waits, and is not locked out")

    def test_signing_out(self):
        self.assertEqual(self.known.delete("/api/sign-in").status_code, 204)
        self.assertEqual(self.known.get("/api/runs").status_code, 401)

    def test_signing_out_ends_the_event_stream(self):
        self.lane()
        ended, heard = threading.Event(), []

        def listen():
            with self.known.stream("GET", "/api/bench/events", timeout=60) as answer:
                for line in answer.iter_lines():
                    heard.append(line)
            ended.set()

        threading.Thread(target=listen, daemon=True).start()
        until(lambda: heard)
        with httpx.Client(base_url=self.address, cookies=self.known.cookies) as same:
            self.assertEqual(same.delete("/api/sign-in").status_code, 204)
        self.assertTrue(ended.wait(30))

    def test_foreign_cookies_beside_ours_lock_nobody_out(self):
        mine = self.known.cookies["jaunecharge"]
        for foreign in ("a/b=1", 'json={"a":1}', "x", "=", "a=b=c", 'q="', "\u00fc=1", "b[0]=1; c{}", "Path=/; $V=1"):
            for cookie in (f"{foreign}; jaunecharge={mine}", f"jaunecharge={mine}; {foreign}"):
                with self.subTest(cookie):
                    answer = self.stranger.get("/api/runs", headers={"Cookie": cookie.encode()})
                    self.assertEqual(answer.status_code, 200, answer.text)
        for cookie in ("jaunecharge", "jaunecharge=", 'jaunecharge="', "jaunecharge=a b", "jaunecharge=\u00fc", "; ;"):
            self.assertEqual(self.stranger.get("/api/runs", headers={"Cookie": cookie.encode()}).status_code, 401)

    def test_who_may_look_changes_nothing(self):
        lane, _ = self.lane()
        looking = self.enterContext(httpx.Client(base_url=self.address, timeout=60))
        self.assertEqual(self.sign_in(looking, LOOKING, "ben"), 204)
        self.assertEqual(looking.get("/api/network").json()["role"], "look")
        before = self.rows()
        spec = looking.get("/api/openapi.json").json()
        for path, methods in spec["paths"].items():
            for method in methods:
                if path.startswith(("/api/sign-in", "/api/hand/")) or path.endswith(("/events", "/readings")):
                    continue
                concrete = path.replace("{lane_id}", lane["id"]).replace("{", "").replace("}", "")
                with self.subTest(f"{method} {path}"):
                    status = looking.request(method, concrete, json={} if method != "get" else None).status_code
                    if method != "get" and path not in WORKED_OUT:
                        self.assertEqual(status, 403)
                    else:
                        self.assertNotIn(status, (401, 403))
        self.assertEqual(self.rows(), before)

    def test_the_database_itself_refuses_who_may_only_look(self):
        reset = LOOKS_ONLY.set(True)
        try:
            with self.assertRaisesRegex(Exception, "read-only transaction"), self.database.session() as session:
                people.add_person(session, "Cleo", "change", "five yellow lamps")
        finally:
            LOOKS_ONLY.reset(reset)

    def test_sessions_are_listed_and_ended_everywhere(self):
        other = self.enterContext(httpx.Client(base_url=self.address, headers={"User-Agent": "a phone"}, timeout=60))
        self.assertEqual(self.sign_in(other), 204)
        found = self.known.get("/api/sign-ins").json()
        self.assertEqual([s["own"] for s in found].count(True), 1)
        phone = next(s for s in found if s["agent"] == "a phone")
        self.assertEqual((phone["name"], phone["address"]), ("bench", "127.0.0.1"))
        lasts = dt.datetime.fromisoformat(phone["until"]) - dt.datetime.fromisoformat(phone["at"])
        self.assertLessEqual(lasts, dt.timedelta(days=30))
        self.assertEqual(self.known.delete(f"/api/sign-ins/{phone['id']}").status_code, 204)
        self.assertEqual(other.get("/api/runs").status_code, 401)
        self.assertEqual(self.sign_in(other), 204)
        self.assertEqual(self.known.delete("/api/sign-ins").status_code, 204)
        for each in (self.known, other):
            self.assertEqual(each.get("/api/runs").status_code, 401)

    def test_people_are_added_given_another_passphrase_and_removed(self):
        made = self.known.post("/api/people", json={"name": "Ada", "passphrase": "six yellow lamps"}).json()
        ada = self.enterContext(httpx.Client(base_url=self.address, timeout=60))
        self.assertEqual(self.sign_in(ada, "six yellow lamps", "ada"), 204)
        self.assertEqual(ada.get("/api/network").json()["name"], "Ada")
        for name, words in (("ada", "six yellow lamps"), ("Eve", "short"), ("", "six yellow lamps"), ("=1", "x" * 12)):
            answer = self.known.post("/api/people", json={"name": name, "passphrase": words})
            self.assertEqual(answer.status_code, 422, answer.text)
        path = f"/api/people/{made['id']}"
        self.assertEqual(self.known.put(f"{path}/passphrase", json={"passphrase": "seven lamps now"}).status_code, 204)
        self.assertEqual(ada.get("/api/runs").status_code, 401)
        self.assertEqual(self.sign_in(ada, "seven lamps now", "Ada"), 204)
        self.assertEqual(self.known.delete(path).status_code, 204)
        self.assertEqual(ada.get("/api/runs").status_code, 401)
        last = next(p for p in self.known.get("/api/people").json() if p["name"] == "bench")
        self.assertEqual(self.known.delete(f"/api/people/{last['id']}").status_code, 422, "somebody must be left")

    def test_the_log_says_who_did_what(self):
        lane, _ = self.lane()
        line = {"id": str(uuid.uuid4()), "line": f"{lane['name']} 47"}
        self.known.post("/api/bench/lines", json=line, headers={"Jaunecharge-By": "Somebody%20else"})
        self.known.post("/api/bench/echo", json={"line": "47"})
        for typed in (
            line | {"id": str(uuid.uuid4()), "line": "nothing that is understood"},
            line | {"line": "47 47 47"},
        ):
            self.assertFalse(self.known.post("/api/bench/lines", json=typed).json()["logged"])
        kit = "adapter Plug 30 30W"
        self.known.post("/api/kit/line", json={"line": kit, "keep": False})
        self.known.post("/api/kit/line", json={"line": kit, "keep": True})
        self.known.get("/api/exports/runs.csv")
        self.known.get("/api/runs")
        self.sign_in(self.stranger, "not the passphrase", "Ada")
        found = self.known.get("/api/audit").json()
        said = [(x["who"], x["what"], x["about"]) for x in found[:7]]
        self.assertEqual(said[0], ("", "try to sign in, with a wrong passphrase", "Ada"))
        self.assertEqual(said[1][:2], ("bench", "Export all runs as CSV"))
        self.assertEqual(said[2], ("bench", "Put kit on the shelf as typed in one line", "Plug 30"))
        self.assertEqual(said[3], ("bench", "Log a line", line["line"]), "as they have signed in, not as they say")
        self.assertEqual(
            said[4], ("bench", "Hand out the link to a lane, for a phone in the hand", "Ostrel Max by wire")
        )
        self.assertEqual(said[5], ("bench", "Open a lane", "Ostrel Max by wire"))
        self.assertEqual(said[6][:2], ("bench", "sign in"))
        more = self.known.get("/api/audit", params={"before": found[0]["id"]}).json()
        self.assertEqual(more[0]["id"], found[1]["id"])

    def test_what_is_pushed_passes_the_same_door(self):
        lane, token = self.lane()
        path, rows = f"/api/lanes/{lane['id']}/readings", {"source": "m", "readings": [{"n": 0, "watts": 1.0}]}
        bearing = {"Authorization": f"Bearer {token}"}
        for headers, status in (
            ({}, 200), ({"Host": "elsewhere.example"}, 403), ({"Origin": "http://elsewhere.example"}, 403),
            ({"Origin": "http://["}, 403), ({"Origin": "null"}, 403),
        ):  # fmt: skip
            answer = self.stranger.post(path, json=rows, headers=bearing | headers)
            self.assertEqual(answer.status_code, status, headers)
            for header in ("Content-Security-Policy", "X-Content-Type-Options", "Cache-Control"):
                self.assertIn(header, answer.headers)
        self.assertEqual(self.stranger.post(path, json=rows).status_code, 401)

    def test_every_answer_of_the_api_stays_out_of_caches(self):
        for path in ("/api/health", "/api/runs", "/api/nothing", "/api/hand/x"):
            self.assertEqual(self.known.get(path).headers["cache-control"], "no-store", path)
            self.assertNotIn("Strict-Transport-Security", self.known.get(path).headers)

    def test_each_route_with_no_a_wrong_an_old_and_another_lanes_token(self):
        """Every route of the description, so that a new one cannot be forgotten."""
        mine, token = self.lane()
        _, its = self.lane()
        gone, old = self.lane()
        self.known.post(f"/api/lanes/{gone['id']}/ended", json={"outcome": "void", "reason": "enough"})
        left = self.enterContext(httpx.Client(base_url=self.address, timeout=60))
        self.sign_in(left)
        signed_out = left.cookies["jaunecharge"]
        left.delete("/api/sign-in")
        spec = self.known.get("/api/openapi.json").json()
        asked = 0
        for path, methods in spec["paths"].items():
            for method in methods:
                if path in OPEN or path == "/api/sign-in":
                    continue
                for name, headers in {
                    "none": {}, "wrong": {"Cookie": "jaunecharge=wrong"},
                    "old": {"Cookie": f"jaunecharge={signed_out}"},
                    "a lane's": {"Cookie": f"jaunecharge={its}"}, "bearer": {"Authorization": f"Bearer {its}"},
                    "an ended lane's": {"Authorization": f"Bearer {old}"},
                }.items():  # fmt: skip
                    concrete = path.replace("{lane_id}", mine["id"]).replace("{token}", old)
                    concrete = concrete.replace("{", "").replace("}", "")
                    with self.subTest(f"{method} {path}, {name}"):
                        body = {"source": "m", "readings": [{"n": 0}]} if method == "post" else None
                        answer = self.stranger.request(method, concrete, json=body, headers=headers)
                        asked += 1
                        of_lane = "hand" in path and not path.endswith("/level")
                        refused = (410, 422) if of_lane else (404,) if path.startswith("/shared/") else (401,)
                        self.assertIn(answer.status_code, refused, answer.text)
        self.assertGreater(asked, 600)
        self.assertEqual(self.stranger.get(f"/api/hand/{token}").json()["view"]["id"], mine["id"])

    def test_a_lane_in_the_hand_reaches_that_lane_and_ends_with_it(self):
        lane, token = self.lane()
        other, _ = self.lane()
        self.assertEqual(self.stranger.get(f"/api/hand/{token}").json()["view"]["id"], lane["id"])
        typed = {"id": str(uuid.uuid4()), "line": "47"}
        self.assertTrue(self.stranger.post(f"/api/hand/{token}/lines", json=typed).json()["logged"])
        elsewhere = {"id": str(uuid.uuid4()), "line": f"{other['name']} 47"}
        refused = self.stranger.post(f"/api/hand/{token}/lines", json=elsewhere).json()
        self.assertEqual((refused["logged"], refused["echo"]["understood"]), (False, False))
        ending = {"id": str(uuid.uuid4()), "line": "end void from afar", "sure": True}
        refused = self.stranger.post(f"/api/hand/{token}/lines", json=ending).json()
        self.assertEqual((refused["logged"], refused["echo"]["why"]), (False, "a lane is not ended from the hand"))
        for path in ("/api/bench", f"/api/lanes/{lane['id']}", "/api/runs", f"/api/lanes/{lane['id']}/log"):
            bearing = {"Authorization": f"Bearer {token}"}
            self.assertEqual(self.stranger.get(path, headers=bearing).status_code, 401, path)
        rows = {"source": "m", "readings": [{"n": 0, "watts": 1.0}]}
        path = f"/api/lanes/{lane['id']}/readings"
        self.assertEqual(
            self.stranger.post(path, json=rows, headers={"Authorization": f"Bearer {token}"}).status_code, 200
        )
        self.assertEqual(self.stranger.post(path, json=rows).status_code, 401)
        end = {"id": str(uuid.uuid4()), "line": f"{lane['name']} end void enough"}
        self.known.post("/api/bench/lines", json=end)
        self.assertEqual(self.stranger.get(f"/api/hand/{token}").status_code, 410)
        self.assertEqual(self.stranger.post(f"/api/hand/{token}/lines", json=typed).status_code, 410)

    def test_the_code_leads_to_the_address_on_the_network(self):
        lane, token = self.lane()
        link = self.known.get(f"/api/lanes/{lane['id']}/link").json()
        self.assertEqual(link["url"], f"http://192.0.2.7:8417/hand/{token}")
        self.assertIn("can read along", link["note"])
        code = self.known.get(f"/api/lanes/{lane['id']}/link.svg")
        self.assertIn("<svg", code.text)

    def test_a_foreign_host_is_refused_all_the_same(self):
        self.assertEqual(self.known.get("/api/health", headers={"Host": "elsewhere.example"}).status_code, 403)


class OnThisMachine(ServedTest):
    def test_nobody_signs_in(self):
        self.assertEqual(self.web.get("/api/runs").status_code, 200)
        self.assertTrue(self.web.get("/api/network").json()["signed_in"])


class TryingPassphrases(unittest.TestCase):
    def setUp(self):
        self.database = self.enterContext(fresh_database())
        self.now = dt.datetime(2026, 11, 1, 8, tzinfo=dt.UTC)

    def begin(self, address, after_s=0.0):
        self.now += dt.timedelta(seconds=after_s)
        with self.database.session() as session:
            return count_try(session, address, self.now)

    def test_each_counts_before_it_is_checked_and_delays_its_own_address_alone(self):
        self.assertEqual([self.begin("a") for _ in range(FREE_TRIES)], [0.0] * FREE_TRIES)
        self.assertGreater(self.begin("a"), 1.0)
        self.assertEqual(self.begin("b"), 0.0)
        with self.database.session() as session:
            forget_tries(session, "a")
        self.assertEqual(self.begin("a"), 0.0)

    def test_it_waits_ever_longer_up_to_a_limit_and_forgets(self):
        waits = []
        for _ in range(14):
            if wait := self.begin("a"):
                waits.append(wait)
                self.assertEqual(self.begin("a", wait), 0.0)
        self.assertEqual(waits, sorted(waits))
        self.assertEqual(max(waits), 300.0)
        self.assertEqual(self.begin("a", 1000.0), 0.0)

    def test_of_many_addresses_those_that_tried_last_are_kept(self):
        with mock.patch("jaunecharge.store.sign_ins.MOST_ADDRESSES", 2):
            for address in "abc":
                self.begin(address, 1.0)
        with self.database.session() as session:
            self.assertEqual(sorted(t.address for t in session.query(Tried)), ["b", "c"])


class Passphrases(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.database = cls.enterClassContext(fresh_database())

    def setUp(self):
        with self.database.session() as session:
            session.connection().exec_driver_sql("TRUNCATE people, sign_ins")

    def test_kept_as_a_digest_only(self):
        now = dt.datetime.now(dt.UTC)
        with self.database.session() as session:
            with self.assertRaisesRegex(CannotRead, "too short"):
                people.add_person(session, "Ada", "change", "short")
            self.assertFalse(people.somebody_may_change(session))
            ada = people.add_person(session, "Ada", "change", PASSPHRASE)
            self.assertTrue(ada.digest.startswith("$argon2id$"))
            self.assertTrue(people.is_right(ada.digest, PASSPHRASE))
            self.assertFalse(people.is_right(ada.digest, "two yellow lamps"))
            self.assertFalse(people.is_right(None, PASSPHRASE), "nobody of that name: nobody passes")
            token = store.sign_in(session, ada, now)
            session.flush()
            self.assertEqual(store.signed_in(session, token, now).name, "Ada")
            self.assertIsNone(store.signed_in(session, token, now + store.LASTS))
            self.assertNotIn(token, session.connection().exec_driver_sql("SELECT digest FROM sign_ins").scalar_one())

    def test_another_passphrase_ends_the_sessions_of_that_person_alone(self):
        now = dt.datetime.now(dt.UTC)
        with self.database.session() as session:
            ada, ben = (people.add_person(session, name, "change", PASSPHRASE) for name in ("Ada", "Ben"))
            tokens = [store.sign_in(session, person, now) for person in (ada, ben)]
            people.set_passphrase(session, ada, "four yellow lamps")
            self.assertEqual([store.signed_in(session, t, now) is None for t in tokens], [True, False])

    def test_the_one_passphrase_of_before_is_that_of_the_bench(self):
        with fresh_database("0009") as old:
            digest = people.hashed(PASSPHRASE)
            with old.engine.begin() as connection:
                connection.execute(text("INSERT INTO secrets VALUES ('passphrase', :d)"), {"d": digest})
            old.migrate()
            with old.session() as session:
                found = people.by_name(session, "")
                self.assertTrue(people.is_right(found.digest, PASSPHRASE))
                self.assertEqual((found.name, found.role), ("bench", "change"))

    def test_this_machine_on_the_network(self):
        found = on_the_network(8417, True)
        self.assertTrue(found.address.startswith("https://") and found.address.endswith(":8417"))
        self.assertIn("127.0.0.1", found.hosts)
