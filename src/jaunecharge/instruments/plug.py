"""A stand-in of a plug that meters the socket and publishes to an MQTT broker, as JSON."""

import datetime as dt
import json
import threading

import numpy as np
import paho.mqtt.client as mqtt

from ..core.kit import Mqtt
from ..core.simulator import socket_watts
from .errors import NotReached
from .playback import Playback

MAINS_V = 230.0


class Plug:
    """Publishes what a socket gives while a charge is played behind it.

    Parameters
    ----------
    playback : Playback
    where : Mqtt
        Broker and topic.
    every_s : float [s]
        Between two messages, by the clock on the wall.

    Raises
    ------
    NotReached
        If the broker is not there.
    """

    def __init__(self, playback: Playback, where: Mqtt, every_s: float = 1.0) -> None:
        self.playback, self._where, self._every_s = playback, where, every_s
        self._over = threading.Event()
        self._client = mqtt.Client(mqtt.CallbackAPIVersion.VERSION2, protocol=mqtt.MQTTv5)
        try:
            self._client.connect(where.host, where.port, 30)
        except OSError as error:
            raise NotReached(f"no broker answers at {where.host}:{where.port}") from error
        self.published: list[float] = []
        """Watts of each message that the broker has acknowledged."""

        self._thread = threading.Thread(target=self._run, name="a plug that publishes", daemon=True)

    def start(self) -> "Plug":
        """Begin to publish."""
        self._client.loop_start()
        self._thread.start()
        return self

    def stop(self) -> None:
        """Publish no more."""
        self._over.set()
        self._thread.join(30)
        self._client.disconnect()
        self._client.loop_stop()

    def _run(self) -> None:
        while not self._over.wait(self._every_s):
            shown = self.playback.read()
            watts = round(float(socket_watts(np.array(shown.volts * shown.amps))), 2)
            message = {
                "power": watts, "voltage": MAINS_V, "current": round(watts / MAINS_V, 4),
                "time": dt.datetime.now(dt.UTC).isoformat(timespec="milliseconds"),
            }  # fmt: skip
            sent = self._client.publish(self._where.topic, json.dumps(message), qos=1)
            try:
                sent.wait_for_publish(10)
            except (RuntimeError, ValueError):
                continue
            if sent.is_published():
                self.published.append(watts)
