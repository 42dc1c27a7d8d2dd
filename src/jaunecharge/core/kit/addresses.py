"""Addresses of instruments: SCPI over TCP, a serial port with SCPI or lines of figures, a topic of an MQTT broker."""

import re
from dataclasses import dataclass
from typing import Literal
from urllib.parse import parse_qsl, quote, unquote

from ..errors import CannotRead

Speaks = Literal["", "scpi", "csv"]
USUAL_BAUD = 115_200
BAUDS = (1200, 2_000_000)
MOST_COLUMNS = 40
_TCP = re.compile(r"^(?:tcp://)?(?P<host>\[[0-9a-f:]+\]|[a-z0-9._-]+):(?P<port>[0-9]{1,5})$")
_SERIAL = re.compile(
    r"^serial:(?P<port>(?:/dev/)?[A-Za-z0-9._/-]{1,120})(?:\?(?P<options>[^\x00]{0,400}))?$", re.IGNORECASE
)
HINT = "host:port, as 192.168.1.40:5025; serial:ttyUSB0?baud=115200; or mqtt://host/topic?watts=power"
_MQTT = re.compile(
    r"^(?P<secured>mqtts?)://(?:(?P<user>[^/@:]{1,120})(?P<password>:[^/@]*)?@)?"
    r"(?P<host>\[[0-9a-f:]+\]|[a-z0-9._-]{1,253})(?::(?P<port>[0-9]{1,5}))?/(?P<topic>[^?]{1,250})(?:\?(?P<options>.{0,400}))?$",
    re.IGNORECASE,
)
MQTT_PORT, MQTTS_PORT = 1883, 8883
TOLD = ("watts", "volts", "amps", "celsius", "percent", "humidity")
"""Quantities that a topic may tell."""


@dataclass(frozen=True)
class Tcp:
    """Host and port, where SCPI is spoken."""

    host: str
    port: int

    @property
    def said(self) -> str:
        """Address as it is stored: `192.168.1.40:5025`."""
        return f"[{self.host}]:{self.port}" if ":" in self.host else f"{self.host}:{self.port}"


@dataclass(frozen=True)
class Serial:
    """A serial port: its device, its speed [baud], what is spoken there (empty: found out by listening), and the
    columns of its lines where it writes no headings."""

    device: str
    baud: int = USUAL_BAUD
    speaks: Speaks = ""
    columns: tuple[str, ...] = ()

    @property
    def said(self) -> str:
        """Address as it is stored: `serial:/dev/ttyUSB0?baud=115200`."""
        return f"serial:{self.device}?baud={self.baud}" + (
            (f"&speaks={self.speaks}" if self.speaks else "")
            + (f"&columns={','.join(self.columns)}" if self.columns else "")
        )


@dataclass(frozen=True)
class Mqtt:
    """A topic of an MQTT broker.

    told : each quantity with the path to it in JSON, as `sensors.0.power`; an empty path: the message is the number.
    Without any, a number is what is wanted of the instrument. at : path of the time of a reading, empty without one.
    The password of `user` is none of the address: it is given where the bench is started.
    """

    host: str
    port: int
    topic: str
    secured: bool = False
    user: str = ""
    told: tuple[tuple[str, str], ...] = ()
    at: str = ""

    @property
    def said(self) -> str:
        """Address as it is stored: `mqtts://bench@hut.local:8883/plug/power?watts=power`."""
        who, host = (
            f"{quote(self.user, safe='')}@" if self.user else "",
            f"[{self.host}]" if ":" in self.host else self.host,
        )
        options = "&".join(
            f"{q}={quote(path, safe='.')}" for q, path in (*self.told, *([("at", self.at)] if self.at else []))
        )
        where = f"mqtt{'s' if self.secured else ''}://{who}{host}:{self.port}/{quote(self.topic, safe='/')}"
        return where + (f"?{options}" if options else "")


Address = Tcp | Serial | Mqtt


def address_of(text: str) -> Address:
    """An instrument's address, understood.

    Raises
    ------
    CannotRead
    """
    text = text.strip()
    if text.lower().startswith("serial:"):
        return _serial(text)
    if text.lower().startswith(("mqtt:", "mqtts:")):
        return _mqtt(text)
    match = _TCP.match(text.lower())
    if match is None or not 1 <= int(match["port"]) <= 65535:
        raise CannotRead(f"“{text}” is no address", HINT)
    return Tcp(match["host"].strip("[]"), int(match["port"]))


def _serial(text: str) -> Serial:
    match = _SERIAL.match(text)
    if match is None or ".." in match["port"]:
        raise CannotRead(f"“{text[:80]}” names no serial port", "its name, as serial:ttyUSB0?baud=115200")
    port, options = match["port"], dict(parse_qsl(match["options"] or "", keep_blank_values=True))
    if unknown := options.keys() - {"baud", "speaks", "columns"}:
        raise CannotRead(
            f"“{min(unknown)[:20]}” is not known of a serial port",
            "baud=115200, speaks=csv or speaks=scpi, columns=ms,V,mA",
        )
    baud, speaks = options.get("baud", str(USUAL_BAUD)), options.get("speaks", "").lower()
    if not (baud.isascii() and baud.isdecimal() and len(baud) < 9 and BAUDS[0] <= int(baud) <= BAUDS[1]):
        raise CannotRead(f"“{baud[:20]}” is no speed of a serial port", f"{BAUDS[0]} to {BAUDS[1]}, as baud=115200")
    if speaks not in {"", "scpi", "csv"}:
        raise CannotRead(f"“{speaks[:20]}” is not spoken", "speaks=csv for lines of figures, or speaks=scpi")
    windows = re.fullmatch(r"com\d+", port, re.IGNORECASE)
    device = port.upper() if windows else port if port.startswith("/dev/") else f"/dev/{port.lstrip('/')}"
    columns = tuple(c.strip() for c in options.get("columns", "").split(",")) if options.get("columns") else ()
    if len(columns) > MOST_COLUMNS or any(not c.isprintable() or len(c) > 40 for c in columns):
        raise CannotRead("these are no columns", "a heading or a unit each, as columns=ms,V,mA")
    return Serial(device, int(baud), "csv" if columns else speaks, columns)


def _mqtt(text: str) -> Mqtt:
    match = _MQTT.match(text)
    if match is None or not text.isprintable():
        raise CannotRead(f"“{text[:80]}” names no topic", "host and topic, as mqtt://hut.local/plug/power?watts=power")
    if match["password"]:
        mend = "leave it out, and set JAUNECHARGE_MQTT_PASSWORD where the bench is started"
        raise CannotRead("a password stands in the address, where everybody reads it", mend)
    secured = match["secured"].lower() == "mqtts"
    port = int(match["port"] or (MQTTS_PORT if secured else MQTT_PORT))
    topic = unquote(match["topic"])
    if not 1 <= port <= 65535 or "#" in topic or "+" in topic or not topic.isprintable():
        raise CannotRead(f"“{text[:80]}” names no single topic", "one topic without + and #, and a port up to 65535")
    options = parse_qsl(match["options"] or "", keep_blank_values=True, max_num_fields=20)
    if unknown := {q for q, _ in options} - {*TOLD, "at"}:
        raise CannotRead(f"“{min(unknown)[:20]}” is not told by a topic", f"one of {', '.join(TOLD)}, or at")
    told = tuple((q, path) for q, path in options if q != "at")
    if len({q for q, _ in told}) < len(told):
        raise CannotRead("a quantity is named twice", "each quantity once, with its path")
    at = next((path for q, path in options if q == "at"), "")
    return Mqtt(match["host"].strip("[]").lower(), port, topic, secured, unquote(match["user"] or ""), told, at)
