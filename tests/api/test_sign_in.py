"""On the network everything asks for a sign-in, but for a lane in the hand, which reaches its lane and nothing else."""

import datetime as dt
import unittest
import uuid

import httpx

from jaunecharge.api.network import Network, on_the_network
from jaunecharge.api.signed import MOST_WRONG
from jaunecharge.core.errors import CannotRead
from jaunecharge.core.kit_line import kit_from_line
from jaunecharge.store import sign_ins as store
from jaunecharge.store.kit import add_all
from tests.serving import ServedTest, fresh_database, served

PASSPHRASE = "three yellow lamps"
OPEN = ("/api/health", "/api/network")


class OnTheNetwork(ServedTest):
    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.address = cls.enterClassContext(
            served(cls.database, cls.folder / "lan" / "uploads", Network(True, False, "http://192.0.2.7:8417"))
        )

    @classmethod
    def fill(cls):
        with cls.database.session() as session:
            add_all(session, [kit_from_line("phone Ostrel Max 4620mAh mpp")], "")
            store.set_passphrase(session, PASSPHRASE)

    def setUp(self):
        self.stranger = self.enterContext(httpx.Client(base_url=self.address, timeout=60))
        self.known = self.enterContext(httpx.Client(base_url=self.address, timeout=60))
        self.assertEqual(self.sign_in(self.known), 204)

    def sign_in(self, client, passphrase=PASSPHRASE):
        return client.post("/api/sign-in", json={"passphrase": passphrase}).status_code

    def lane(self):
        made = self.known.post("/api/lanes", json={"factors": {"phone": "Ostrel Max"}}).json()["view"]
        return made, self.known.get(f"/api/lanes/{made['id']}/link").json()["token"]

    def test_every_route_asks_for_it(self):
        spec = self.known.get("/api/openapi.json").json()
        for path, methods in spec["paths"].items():
            if path in OPEN or path == "/api/sign-in" or path.startswith("/api/hand/") or path.endswith("/readings"):
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
            "reachable": True, "secure": False, "address": "", "signed_in": False,
        })  # fmt: skip

    def test_wrong_passphrases(self):
        self.assertEqual(self.sign_in(self.stranger, "two yellow lamps"), 403)
        self.assertEqual(self.stranger.get("/api/runs").status_code, 401)
        self.assertEqual(self.stranger.get("/api/runs", headers={"Cookie": "jaunecharge=made-up"}).status_code, 401)
        for _ in range(MOST_WRONG):
            self.sign_in(self.stranger, "guess guess guess")
        self.assertEqual(self.sign_in(self.stranger), 429, "even the right one waits after many wrong ones")

    def test_signing_out(self):
        self.assertEqual(self.known.delete("/api/sign-in").status_code, 204)
        self.assertEqual(self.known.get("/api/runs").status_code, 401)

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
        self.assertIn("can be read on this network", link["note"])
        code = self.known.get(f"/api/lanes/{lane['id']}/link.svg")
        self.assertIn("<svg", code.text)

    def test_a_foreign_host_is_refused_all_the_same(self):
        self.assertEqual(self.known.get("/api/health", headers={"Host": "elsewhere.example"}).status_code, 403)


class OnThisMachine(ServedTest):
    def test_nobody_signs_in(self):
        self.assertEqual(self.web.get("/api/runs").status_code, 200)
        self.assertTrue(self.web.get("/api/network").json()["signed_in"])


class Passphrases(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.database = cls.enterClassContext(fresh_database())

    def setUp(self):
        with self.database.session() as session:
            session.connection().exec_driver_sql("TRUNCATE secrets, sign_ins")

    def test_kept_as_a_digest_only(self):
        now = dt.datetime.now(dt.UTC)
        with self.database.session() as session:
            with self.assertRaisesRegex(CannotRead, "too short"):
                store.set_passphrase(session, "short")
            self.assertFalse(store.passphrase_is_set(session))
            self.assertIsNone(store.sign_in(session, PASSPHRASE, now), "none is set: nobody passes")
            store.set_passphrase(session, PASSPHRASE)
            kept = session.connection().exec_driver_sql("SELECT digest FROM secrets").scalar_one()
            self.assertTrue(kept.startswith("$argon2id$"))
            token = store.sign_in(session, PASSPHRASE, now)
            self.assertTrue(store.signed_in(session, token, now))
            self.assertFalse(store.signed_in(session, token, now + store.LASTS))
            self.assertNotIn(token, session.connection().exec_driver_sql("SELECT digest FROM sign_ins").scalar_one())

    def test_another_passphrase_signs_everybody_out(self):
        now = dt.datetime.now(dt.UTC)
        with self.database.session() as session:
            store.set_passphrase(session, PASSPHRASE)
            token = store.sign_in(session, PASSPHRASE, now)
            store.set_passphrase(session, "four yellow lamps")
            self.assertFalse(store.signed_in(session, token, now))

    def test_this_machine_on_the_network(self):
        found = on_the_network(8417, True)
        self.assertTrue(found.address.startswith("https://") and found.address.endswith(":8417"))
        self.assertIn("127.0.0.1", found.hosts)
