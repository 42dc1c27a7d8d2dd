"""`jaunecharge stand-in` and `jaunecharge serve --lan`, as processes of their own."""

import signal
import ssl
import subprocess
import tempfile
import time
import unittest
from pathlib import Path

import httpx

from jaunecharge.instruments.scpi import Scpi
from tests.live.processes import COMMAND, Served
from tests.serving import PASSPHRASE


class StandIn(unittest.TestCase):
    def start(self, *options):
        process = subprocess.Popen(
            [COMMAND, "stand-in", *options], stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True
        )
        self.addCleanup(process.stderr.close)
        self.addCleanup(process.stdout.close)
        self.addCleanup(process.wait, 60)
        self.addCleanup(process.kill)
        return process

    def test_it_says_where_it_is_answers_and_ends(self):
        process = self.start("--speed", "60", "--start-percent", "20", "--place-after", "0")
        instrument = Scpi(process.stdout.readline().strip())
        self.addCleanup(instrument.close)
        self.assertEqual(instrument.identify().model, "stand-in both")
        self.assertEqual(instrument.ask("SIM:SPEED?"), "60")
        for _ in range(1200):
            if (watts := instrument.volts() * instrument.amps()) > 10.0:
                break
            time.sleep(0.05)
        self.assertGreater(watts, 10.0)
        process.send_signal(signal.SIGINT)
        self.assertEqual(process.wait(60), 0)

    def test_what_cannot_be_is_one_line(self):
        for options, said in (
            (("--role", "kettle"), "no role of a stand-in"),
            (("--fault", "fire"), "“fire” is no fault"),
            (("--push", "tea"), "“tea” is not pushed"),
            (("--speed", "500"), "less than or equal to 120"),
            (("--kind", "phone"), "give the token of its code"),
            (("--kind", "plug", "--broker", "hut:1"), "is no broker with a topic"),
            (("--kind", "plug", "--broker", "mqtt://127.0.0.1:1/t"), "no broker answers"),
        ):
            with self.subTest(options):
                process = self.start(*options)
                self.assertEqual(process.wait(120), 2)
                error = process.stderr.read()
                self.assertEqual((error.count("\n"), said in error), (1, True), error)


class OnTheNetwork(unittest.TestCase):
    def setUp(self):
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory(prefix="jaunecharge-lan-")))
        self.folder.chmod(0o755)
        self.served = Served(self.folder)
        self.addCleanup(self.served.stop)

    def certificate(self):
        """A certificate of one's own; openssl comes with Debian's PostgreSQL packages."""
        cert, key = self.folder / "cert.pem", self.folder / "key.pem"
        subprocess.run(
            ["openssl", "req", "-x509", "-newkey", "ec", "-pkeyopt", "ec_paramgen_curve:prime256v1", "-nodes",
             "-days", "2", "-keyout", key, "-out", cert, "-subj", "/CN=127.0.0.1",
             "-addext", "subjectAltName=IP:127.0.0.1"],
            check=True, capture_output=True,
        )  # fmt: skip
        return cert, key

    def test_with_a_certificate_it_is_https_and_asks_for_the_passphrase(self):
        cert, key = self.certificate()
        self.served.environment["JAUNECHARGE_PASSPHRASE"] = PASSPHRASE
        self.served.start("--lan", "--tls", cert, key)
        trusted = ssl.create_default_context(cafile=str(cert))
        address = f"https://127.0.0.1:{self.served.port}"
        with httpx.Client(base_url=address, verify=trusted, timeout=60) as web:
            for _ in range(2400):
                try:
                    if web.get("/api/health").status_code == 200:
                        break
                except httpx.HTTPError:
                    time.sleep(0.05)
            self.assertEqual(web.get("/api/runs").status_code, 401)
            self.assertTrue(web.get("/api/network").json()["secure"])
            given = web.post("/api/sign-in", json={"passphrase": PASSPHRASE})
            self.assertIn("Secure", given.headers["set-cookie"])
            self.assertIn("HttpOnly", given.headers["set-cookie"])
            self.assertIn("__Host-jaunecharge=", given.headers["set-cookie"])
            self.assertIn("Strict-Transport-Security", given.headers)
            self.assertEqual(web.get("/api/runs").status_code, 200)
            for line in ("phone Ostrel Max 4700mAh mpp", "puck Cairn disc mpp asks 9V2.22A", "adapter Plug 20 20W"):
                web.post("/api/kit/line", json={"line": line, "keep": True}).raise_for_status()
            factors = {"phone": "Ostrel Max", "charger": "Cairn disc", "adapter": "Plug 20"}
            lane = web.post("/api/lanes", json={"factors": factors, "practice": 120.0}).json()["view"]
            web.post(f"/api/lanes/{lane['id']}/placed").raise_for_status()
            for _ in range(1200):
                if web.get(f"/api/lanes/{lane['id']}").json()["view"]["percent"] is not None:
                    break
                time.sleep(0.05)
            else:
                self.fail("the stand-in's phone does not report under a certificate made by hand")

    def test_without_a_passphrase_it_does_not_start(self):
        done = subprocess.run(
            [COMMAND, "serve", "--lan"], env=self.served.environment, capture_output=True, text=True, timeout=400,
            stdin=subprocess.DEVNULL,
        )  # fmt: skip
        self.assertEqual(done.returncode, 2)
        self.assertIn("no passphrase is set", done.stderr)

    def test_a_certificate_that_is_not_there(self):
        done = subprocess.run(
            [COMMAND, "serve", "--tls", "no.pem", "no.key"], env=self.served.environment, capture_output=True,
            text=True, timeout=400,
        )  # fmt: skip
        self.assertEqual(done.returncode, 2)
        self.assertIn("no.pem", done.stderr)
