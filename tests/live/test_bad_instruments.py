"""An instrument at fault says so on its lane: text on a topic, a port that is none or another program's, a broker
whose certificate has run out; a good one beside them is heard."""

import datetime as dt
import ipaddress
import os
import tempfile
import uuid
from dataclasses import replace
from pathlib import Path
from unittest import mock

import paho.mqtt.client as mqtt
import serial
from cryptography import x509
from cryptography.hazmat.primitives import hashes
from cryptography.hazmat.primitives import serialization as written
from cryptography.hazmat.primitives.asymmetric import ec

from jaunecharge.core.kit.one_line import kit_from_line
from jaunecharge.live.topic_figures import AUTHORITY, PASSWORD
from jaunecharge.store.kit import add_all
from tests.api.test_bench import BenchTest
from tests.live.test_serial import Port
from tests.live.test_topics import Broker

DAY = dt.timedelta(days=1)


class Vouched(Broker):
    """A broker that speaks TLS with a certificate of its own authority, and lets in who knows a password."""

    def __init__(self, folder, ends):
        super().__init__(folder)
        now, key = dt.datetime.now(dt.UTC), ec.generate_private_key(ec.SECP256R1())
        name = x509.Name([x509.NameAttribute(x509.NameOID.COMMON_NAME, f"a hut's broker, {folder.name}")])
        addresses = x509.SubjectAlternativeName([x509.IPAddress(ipaddress.ip_address("127.0.0.1"))])
        certificate = (
            x509.CertificateBuilder().subject_name(name).issuer_name(name).public_key(key.public_key())
            .serial_number(x509.random_serial_number()).not_valid_before(now - 30 * DAY).not_valid_after(now + ends)
            .add_extension(addresses, False).add_extension(x509.BasicConstraints(True, 0), True)
            .sign(key, hashes.SHA256())
        )  # fmt: skip
        self.certificate = folder / "broker.pem"
        self.certificate.write_bytes(certificate.public_bytes(written.Encoding.PEM))
        plain = (written.Encoding.PEM, written.PrivateFormat.PKCS8, written.NoEncryption())
        (folder / "broker.key").write_bytes(key.private_bytes(*plain))
        (folder / "broker.key").chmod(0o644)
        self.settings.write_text(
            self.settings.read_text() + f"certfile {self.certificate}\nkeyfile {folder}/broker.key\n"
        )

    def publisher(self):
        client = mqtt.Client(mqtt.CallbackAPIVersion.VERSION2, protocol=mqtt.MQTTv5)
        client.tls_set(str(self.certificate))
        client.connect("127.0.0.1", self.port, 10)
        client.loop_start()
        return client


class OnTheLane(BenchTest):
    def made_folder(self):
        return Path(self.enterContext(tempfile.TemporaryDirectory()))

    def meters(self, **addresses):
        pieces = [replace(kit_from_line(f"meter {name} 1%"), address=a) for name, a in addresses.items()]
        with self.database.session() as session:
            add_all(session, pieces, "")
        return {
            name: self.web.post("/api/lanes", json={"factors": {"phone": name}, "meter": name}).json()["view"]
            for name in addresses
        }

    def test_each_is_said_and_the_good_one_is_heard(self):
        plain = Broker(self.made_folder()).start()
        self.addCleanup(plain.stop)
        good, over = Vouched(self.made_folder(), 30 * DAY), Vouched(self.made_folder(), -DAY)
        both = self.made_folder() / "authorities.pem"
        both.write_bytes(good.certificate.read_bytes() + over.certificate.read_bytes())
        self.enterContext(mock.patch.dict(os.environ, {AUTHORITY: str(both), PASSWORD: "three yellow lamps"}))
        for broker in (good, over):
            broker.start()
            self.addCleanup(broker.stop)
        port = Port()
        self.addCleanup(port.pull)
        taken = serial.Serial(port.device, exclusive=True)
        self.addCleanup(taken.close)
        topic = uuid.uuid4().hex
        lanes = self.meters(
            Text=f"mqtt://127.0.0.1:{plain.port}/{topic}", Nowhere="serial:ttyNOTHING?speaks=csv", Taken=port.address,
            Expired=f"mqtts://127.0.0.1:{over.port}/{topic}", Good=f"mqtts://hut@127.0.0.1:{good.port}/{topic}",
        )  # fmt: skip
        talks = plain.publisher(), good.publisher()
        for client in talks:
            self.addCleanup(client.loop_stop)

        def heard():
            talks[0].publish(topic, "the kettle is on", qos=1)
            talks[1].publish(topic, "14.5", qos=1)
            return self.view(lanes["Good"])["watts"] == 14.5

        self.until(heard, "the good one is not heard", 120.0)
        for name, words in (
            ("Text", "the kettle is on.*neither a number nor JSON"), ("Nowhere", "there is no serial port"),
            ("Taken", "in use"), ("Expired", "certificate of .* is not trusted: certificate has expired"),
        ):  # fmt: skip
            with self.subTest(name):
                alarm = self.until(
                    lambda name=name, words=words: next(
                        (a for a in self.view(lanes[name])["alarms"] if a["key"] == "meter silent"), heard() and None
                    ),
                    f"{name}: nothing is said",
                    180.0,
                )
                self.assertRegex(alarm["do"], words)
        # What was typed meanwhile stands all the same.
        self.assertTrue(self.type(lanes["Text"]["name"].lower(), "47")["logged"])
        self.assertEqual(self.view(lanes["Text"])["percent"], 47.0)
