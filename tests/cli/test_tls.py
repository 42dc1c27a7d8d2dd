"""TLS by an authority of this machine: what it vouches for, when it is renewed, and what is said of it."""

import datetime as dt
import ipaddress
import ssl
import subprocess
import tempfile
import time
import unittest
from pathlib import Path

import httpx
from cryptography import x509
from cryptography.hazmat.primitives import serialization

from jaunecharge.cli import _whole_tls
from jaunecharge.core.errors import CannotRead
from jaunecharge.local_authority import LASTS, RENEWED_BEFORE, _new_leaf, certificate_for, check
from jaunecharge.secured import Secured, secured_by
from tests.cli.test_serve import COMMAND
from tests.cli.test_stand_in import PASSPHRASE
from tests.live.processes import Served

NOW = dt.datetime(2027, 3, 1, 8, tzinfo=dt.UTC)
NAMES = ["127.0.0.1", "localhost", "::1", "hut", "hut.local", "192.168.1.20"]


class Authority(unittest.TestCase):
    def setUp(self):
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory())) / "tls"

    def made(self, names=NAMES, now=NOW):
        return certificate_for(self.folder, names, now)

    def handshake(self, certificate, key, name):
        """A TLS handshake in memory, by a client that trusts the authority and asks for a name."""
        trusting = ssl.create_default_context(cafile=str(self.folder / "authority.pem"))
        serving = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
        serving.load_cert_chain(certificate, key)
        to_server, to_client = ssl.MemoryBIO(), ssl.MemoryBIO()
        client = trusting.wrap_bio(to_client, to_server, server_hostname=name)
        server = serving.wrap_bio(to_server, to_client, server_side=True)
        for _ in range(6):
            for side in (client, server):
                try:
                    side.do_handshake()
                except ssl.SSLWantReadError:
                    continue
        return client.version()

    def test_who_trusts_it_reaches_every_name_and_no_other(self):
        own = certificate_for(self.folder, NAMES, dt.datetime.now(dt.UTC))
        for name in NAMES:
            self.assertEqual(self.handshake(own.certificate, own.key, name), "TLSv1.3")
        with self.assertRaises(ssl.SSLCertVerificationError):
            self.handshake(own.certificate, own.key, "192.168.1.21")

    def test_its_key_could_vouch_for_no_site_of_the_internet(self):
        now = dt.datetime.now(dt.UTC)
        certificate_for(self.folder, NAMES, now)
        authority = x509.load_pem_x509_certificate((self.folder / "authority.pem").read_bytes())
        key = serialization.load_pem_private_key((self.folder / "authority.key").read_bytes(), None)
        for name in ("example.org", "203.0.113.7"):
            paths = self.folder / "forged.pem", self.folder / "forged.key"
            _new_leaf(*paths, authority, key, [name], now)
            with self.assertRaisesRegex(ssl.SSLCertVerificationError, "permitted subtree"):
                self.handshake(*paths, name)
        # Another private address it may vouch for: those change by themselves.
        _new_leaf(*paths, authority, key, ["10.1.2.3"], now)
        self.assertEqual(self.handshake(*paths, "10.1.2.3"), "TLSv1.3")

    def test_it_stays_as_it_is_until_it_has_to_be_renewed(self):
        first = self.made()
        self.assertTrue(first.made)
        kept = first.certificate.read_bytes()
        again = self.made(now=NOW + dt.timedelta(days=30))
        self.assertEqual((again.certificate.read_bytes(), again.made), (kept, False))
        later = self.made(now=NOW + LASTS - RENEWED_BEFORE)
        self.assertNotEqual(later.certificate.read_bytes(), kept)
        self.assertEqual((later.fingerprint, later.made), (first.fingerprint, False))

    def test_another_address_is_taken_in_without_another_authority(self):
        first = self.made()
        moved = self.made([*NAMES, "10.0.0.7"])
        self.assertEqual((moved.fingerprint, moved.made), (first.fingerprint, False))
        san = x509.load_pem_x509_certificate(moved.certificate.read_bytes()).extensions
        said = san.get_extension_for_class(x509.SubjectAlternativeName).value.get_values_for_type(x509.IPAddress)
        self.assertIn(ipaddress.ip_address("10.0.0.7"), said)

    def test_a_name_that_it_may_not_vouch_for_makes_a_new_authority_and_says_so(self):
        first = self.made()
        renamed = self.made([*NAMES, "other", "203.0.113.7"])
        self.assertNotEqual(renamed.fingerprint, first.fingerprint)
        self.assertTrue(renamed.made)
        self.assertFalse(self.made([*NAMES, "other", "203.0.113.7"]).made)

    def test_an_authority_near_its_end_or_damaged_is_made_anew(self):
        first = self.made()
        self.assertTrue(self.made(now=NOW + dt.timedelta(days=365 * 10 - 300)).made)
        (self.folder / "authority.key").write_text("nonsense")
        self.assertTrue(self.made().made)
        self.assertNotEqual(self.made().fingerprint, first.fingerprint)

    def test_keys_are_open_to_their_owner_alone(self):
        self.made()
        self.assertEqual(self.folder.stat().st_mode & 0o777, 0o700)
        for file in self.folder.iterdir():
            self.assertEqual(file.stat().st_mode & 0o077, 0, file)

    def test_names_that_no_certificate_can_hold_are_left_out(self):
        own = self.made([*NAMES, "hütte", "", "x" * 300, "fe80::1%eth0"])
        self.assertEqual(self.made([*NAMES, "hütte", "", "x" * 300, "fe80::1%eth0"]).until, own.until)


class Others(unittest.TestCase):
    """Certificates that somebody else made."""

    def setUp(self):
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        own = certificate_for(self.folder / "a", NAMES, NOW)
        self.certificate, self.key = own.certificate, own.key

    def refused(self, certificate, key, now=NOW):
        with self.assertRaises(CannotRead) as raised:
            check(certificate, key, now)
        return str(raised.exception)

    def test_run_out_not_yet_valid_or_soon_to_run_out(self):
        self.assertIn(
            "the certificate ran out on 2028-03-31", self.refused(self.certificate, self.key, NOW + 2 * LASTS)
        )
        early = self.refused(self.certificate, self.key, NOW - dt.timedelta(days=9))
        self.assertIn("valid only from 2027-02-28", early)
        self.assertEqual(check(self.certificate, self.key, NOW), "")
        self.assertIn("runs out on", check(self.certificate, self.key, NOW + LASTS - dt.timedelta(days=8)))

    def test_no_certificate_no_key_or_another_s_key(self):
        other = certificate_for(self.folder / "b", NAMES, NOW)
        (self.folder / "x").write_text("nonsense")
        self.assertIn("no certificate in PEM", self.refused(self.folder / "x", self.key))
        self.assertIn("no private key", self.refused(self.certificate, self.folder / "x"))
        self.assertIn("not the key of that certificate", self.refused(self.certificate, other.key))
        with self.assertRaises(CannotRead):
            secured_by((str(self.certificate), str(self.folder / "gone")), NAMES, self.folder)

    def test_auto_stands_for_the_pair_that_the_option_takes(self):
        self.assertEqual(_whole_tls(["serve", "--tls", "auto", "--lan"]), ["serve", "--tls", "auto", "auto", "--lan"])
        self.assertEqual(_whole_tls(["serve", "--tls=auto"]), ["serve", "--tls", "auto", "auto"])
        self.assertEqual(_whole_tls(["serve", "--tls", "a", "b"]), ["serve", "--tls", "a", "b"])
        own = secured_by(("auto", "auto"), NAMES, self.folder)
        self.assertIsInstance(own, Secured)
        self.assertIn("new authority", own.said)
        self.assertEqual(secured_by(("auto", "auto"), NAMES, self.folder).said, "")


class Auto(unittest.TestCase):
    def test_on_the_network_with_one_word(self):
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        folder.chmod(0o755)
        served = Served(folder)
        self.addCleanup(served.stop)
        served.environment["JAUNECHARGE_PASSPHRASE"] = PASSPHRASE
        served.start("--lan", "--tls", "auto")
        authority = Path(served.environment["JAUNECHARGE_STATE"]) / "tls" / "authority.pem"
        end = time.monotonic() + 300
        while not authority.exists():
            self.assertLess(time.monotonic(), end)
            time.sleep(0.05)
        trusting = ssl.create_default_context(cafile=str(authority))
        with httpx.Client(base_url=f"https://localhost:{served.port}", verify=trusting, timeout=60) as web:
            while True:
                try:
                    if web.get("/api/health").status_code == 200:
                        break
                except httpx.TransportError:
                    self.assertLess(time.monotonic(), end)
                    time.sleep(0.05)
            page = web.get("/trust")
            self.assertEqual(page.status_code, 200)
            self.assertNotIn("Strict-Transport-Security", page.headers)
            given = web.get("/authority.crt")
            self.assertEqual(given.headers["content-type"], "application/x-x509-ca-cert")
            self.assertEqual(given.content, ssl.PEM_cert_to_DER_cert(authority.read_text()))
            self.assertEqual(web.get("/authority.pem").text, authority.read_text())
            printed = x509.load_der_x509_certificate(given.content)
            self.assertIn(printed.fingerprint(printed.signature_hash_algorithm).hex(":").upper(), page.text)
            self.assertEqual(web.get("/api/runs").status_code, 401)
            self.assertTrue(web.get("/api/network").json()["secure"])

    def test_a_certificate_that_has_run_out_is_said_in_one_line(self):
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        own = certificate_for(folder, NAMES, dt.datetime(2020, 1, 1, tzinfo=dt.UTC))
        done = subprocess.run(
            [COMMAND, "serve", "--tls", own.certificate, own.key], capture_output=True, text=True, timeout=400,
            env=Served(folder).environment,
        )  # fmt: skip
        self.assertEqual(done.returncode, 2)
        self.assertRegex(done.stderr, r"^.*server\.pem.*the certificate ran out on 2021-\d\d-\d\d; renew it.*\n$")
