"""A plug, thermometer or sensor that publishes to an MQTT broker (MQTT 5.0, OASIS 2019): numbers, or JSON."""

import datetime as dt
import hashlib
import json
import math
import os
import queue
import socket
import ssl
import time
import uuid
from collections import deque
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import paho.mqtt.client as mqtt
from paho.mqtt.packettypes import PacketTypes
from paho.mqtt.properties import Properties
from paho.mqtt.subscribeoptions import SubscribeOptions

from ..core.kit import Mqtt, address_of
from ..core.log import moment_of
from ..instruments.errors import Garbled, NotReached, Silent
from ..settings import settings
from .figures import Figures, within

KEPT_FOR_S = 3600
"""Time for which the broker is asked to keep what is published while the bench is away."""

KEEPALIVE_S, AGAIN_S = 10, (1, 5)
LISTEN_S, TRIED_S = 0.25, 3.0
SILENT_S = 120.0
MOST_UNREAD = 20_000
LONGEST_MESSAGE = 20_000
DOUBLES = 2000
PASSWORD, AUTHORITY = "JAUNECHARGE_MQTT_PASSWORD", "JAUNECHARGE_MQTT_CA"


class TopicFigures:
    """Figures of one topic. It connects again by itself; what the broker kept meanwhile comes then.

    The broker keeps a message until `acknowledge`; one that is delivered again (QoS 1: at least once) counts once.

    Parameters
    ----------
    address : str
    plain : str
        Quantity that a message is, where it is a number and the address says no more.
    lasting : bool
        Whether the session outlasts a connection. One that is merely tried takes nothing from the one that lasts.
    """

    def __init__(self, address: str, plain: str = "watts", lasting: bool = True) -> None:
        where = address_of(address)
        assert isinstance(where, Mqtt)
        self.address, self._where = where.said, where
        self._told = where.told or ((plain, ""),)
        self._arrived: queue.SimpleQueue[tuple[float, mqtt.MQTTMessage]] = queue.SimpleQueue()
        self._read: deque[tuple[int, bytes]] = deque(maxlen=DOUBLES)
        self._fault = f"the broker at {where.host}:{where.port} has not answered yet"
        self._heard = time.monotonic()
        self.left_out = 0
        # The same whichever process of this bench listens, so that the session goes on in the next one.
        own = f"{uuid.getnode()} {settings().state}" if lasting else uuid.uuid4().hex
        name = hashlib.sha256(f"{own} {where.said}".encode()).hexdigest()[:20]
        self._client = mqtt.Client(
            mqtt.CallbackAPIVersion.VERSION2, f"jaunecharge-{name}", protocol=mqtt.MQTTv5, manual_ack=True
        )
        if where.user:
            self._client.username_pw_set(where.user, os.environ.get(PASSWORD) or None)
        if where.secured:
            self._client.tls_set_context(ssl.create_default_context(cafile=os.environ.get(AUTHORITY) or None))
        self._client.on_connect, self._client.on_disconnect = self._connected, self._disconnected
        self._client.on_connect_fail, self._client.on_message = self._failed, self._came
        self._client.reconnect_delay_set(*AGAIN_S)
        lasts = Properties(PacketTypes.CONNECT)
        # The session goes on where the last connection broke off, so that the broker keeps what is published meanwhile.
        lasts.SessionExpiryInterval = KEPT_FOR_S if lasting else 0
        self._client.connect_async(where.host, where.port, KEEPALIVE_S, clean_start=not lasting, properties=lasts)
        self._client.loop_start()

    def read(self, seconds: float = LISTEN_S) -> list[Figures]:
        """Figures of the messages that come within some seconds.

        Raises
        ------
        NotReached, Silent, Garbled
        """
        found, until, why = [], time.monotonic() + seconds, ""
        while (left := until - time.monotonic()) > 0.0:
            try:
                at_s, message = self._arrived.get(timeout=left)
            except queue.Empty:
                break
            self._heard = time.monotonic()
            if self._is_double(message):
                self._client.ack(message.mid, message.qos)
                continue
            try:
                figures = figures_of(bytes(message.payload), self._told, self._where.at, at_s)
            except ValueError as error:
                self.left_out += 1
                why = f"{self._where.topic} sends {_shown(bytes(message.payload))}: {error}"
                self._client.ack(message.mid, message.qos)
            else:
                found.append(replace(figures, mark=message.mid if message.qos else None))
        if why and not found:
            raise Garbled(why)
        if self._fault and not found:
            raise NotReached(self._fault)
        if time.monotonic() - self._heard > SILENT_S:
            raise Silent(f"nothing has come from {self._where.topic} for {time.monotonic() - self._heard:.0f} s")
        return found

    def acknowledge(self, figures: Sequence[Figures]) -> None:
        """Tell the broker that these are safe."""
        for one in figures:
            if one.mark is not None:
                self._client.ack(one.mark, 1)

    def _is_double(self, message: mqtt.MQTTMessage) -> bool:
        """Whether a message came before: said so by the broker, or told by the time of the reading in it.

        A broker that was killed begins again where it had last written to disk, and delivers under new numbers what it
        had delivered since.
        """
        payload = bytes(message.payload)
        mark = (0 if self._where.at else message.mid, payload)
        double = mark in self._read and (message.dup or bool(self._where.at))
        if message.qos and not double:
            self._read.append(mark)
        return double

    def columns(self) -> list[str]:
        """Where each quantity is taken from, in words."""
        return [f"{quantity}: {path or 'the message itself'}" for quantity, path in self._told]

    def close(self) -> None:
        """Listen no more."""
        self._client.disconnect()
        self._client.loop_stop()

    def _connected(self, client: mqtt.Client, data: Any, flags: Any, reason: Any, properties: Any) -> None:
        if reason.is_failure:
            self._fault = f"the broker at {self._where.host}:{self._where.port} refuses: {str(reason).lower()}"
            return
        self._fault = ""
        client.subscribe(self._where.topic, options=SubscribeOptions(qos=1))

    def _disconnected(self, client: mqtt.Client, data: Any, flags: Any, reason: Any, properties: Any) -> None:
        if reason.is_failure and not self._fault:
            self._fault = f"the broker at {self._where.host}:{self._where.port} is away"

    def _failed(self, client: mqtt.Client, data: Any) -> None:
        said = _distrusted(self._where.host, self._where.port) if self._where.secured else ""
        self._fault = said or f"nobody answers at {self._where.host}:{self._where.port}, or not as a broker does"

    def _came(self, client: mqtt.Client, data: Any, message: mqtt.MQTTMessage) -> None:
        # One that the broker has kept since some time is no reading of now.
        if message.retain or len(message.payload) > LONGEST_MESSAGE or self._arrived.qsize() > MOST_UNREAD:
            client.ack(message.mid, message.qos)
            return
        self._arrived.put((time.monotonic(), message))


def _distrusted(host: str, port: int) -> str:
    """Why the certificate of a broker is not trusted; empty where it is, or where nobody answers."""
    context = ssl.create_default_context(cafile=os.environ.get(AUTHORITY) or None)
    try:
        with socket.create_connection((host, port), TRIED_S) as plain, context.wrap_socket(plain, server_hostname=host):
            return ""
    except ssl.SSLCertVerificationError as error:
        return f"the certificate of {host}:{port} is not trusted: {error.verify_message}"
    except OSError:
        return ""


def _shown(payload: bytes) -> str:
    return f"“{payload[:40].decode('utf-8', 'replace')}”"


def figures_of(payload: bytes, told: tuple[tuple[str, str], ...], at: str, at_s: float) -> Figures:
    """Figures of a message that came at `at_s` [s of the steady clock].

    Raises
    ------
    ValueError
        If a figure is missing, or is none; the message says which.
    """
    try:
        document = json.loads(payload)
    except (ValueError, RecursionError):
        raise ValueError("that is neither a number nor JSON") from None
    found = {quantity: _figure(_at_path(document, path), quantity) for quantity, path in told}
    if at:
        at_s -= max(0.0, dt.datetime.now(dt.UTC).timestamp() - _moment(_at_path(document, at)))
    return Figures(at_s, **found)  # type: ignore[arg-type]


def _at_path(document: Any, path: str) -> Any:
    for part in path.split(".") if path else ():
        try:
            document = document[int(part)] if isinstance(document, list) else document[part]
        except (KeyError, IndexError, TypeError, ValueError):
            raise ValueError(f"there is no {path} in it") from None
    return document


def _figure(value: Any, quantity: str) -> float:
    try:
        number = math.nan if isinstance(value, bool) else float(value)
    except (TypeError, ValueError, OverflowError):
        raise ValueError(f"{quantity} is no number") from None
    if not math.isfinite(number) or not within(quantity, number):
        raise ValueError(f"{quantity} cannot be {str(value)[:20]}")
    return number


def _moment(value: Any) -> float:
    """Seconds since 1970 of a time as sensors write it; UTC where it names no zone."""
    at = moment_of(value)
    return (at if at.tzinfo else at.replace(tzinfo=dt.UTC)).timestamp()
