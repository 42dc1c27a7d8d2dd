"""Reach of the application: this machine alone, or others on the network, once they have signed in."""

import contextlib
import socket
from dataclasses import dataclass
from pathlib import Path
from urllib.parse import urlsplit

from ..core.errors import CannotRead

LOOPBACK = ("127.0.0.1", "localhost", "::1")


@dataclass(frozen=True)
class Network:
    """Address and protection of the application.

    reachable : whether it listens on the network; secure : whether what is sent cannot be read there; address : where
    others find it, empty where they do not; names : hosts that it answers to beside those of this machine alone;
    certificate : with which it serves, where it does so with TLS; authority, fingerprint : where that is its own, which
    devices are to trust, and its SHA-256.
    """

    reachable: bool = False
    secure: bool = True
    address: str = ""
    names: tuple[str, ...] = ()
    certificate: Path | None = None
    authority: Path | None = None
    fingerprint: str = ""

    @property
    def hosts(self) -> tuple[str, ...]:
        """The hosts that a request may name."""
        return (*LOOPBACK, *self.names)


def on_the_network(port: int, secure: bool) -> Network:
    """This machine as others on the network reach it."""
    name = socket.gethostname()
    addresses = own_addresses()
    host = next((a for a in addresses if not a.startswith("127.")), name)
    scheme = "https" if secure else "http"
    return Network(True, secure, f"{scheme}://{host}:{port}", tuple(dict.fromkeys((*addresses, name, f"{name}.local"))))


def behind(address: str, network: Network | None = None) -> Network:
    """This application as others reach it through a proxy at an address; on the network itself as well, where it is.

    Raises
    ------
    CannotRead
        If the address is none of the web.
    """
    parts = urlsplit(address)
    if parts.scheme not in ("http", "https") or not parts.hostname or parts.path.strip("/"):
        raise CannotRead(f"“{address}” is no address of a proxy", "name one as https://bench.example", file="--behind")
    names = (parts.hostname, *(network.names if network else ()))
    return Network(True, parts.scheme == "https", f"{parts.scheme}://{parts.netloc}", names)


def own_addresses() -> list[str]:
    """Addresses of this machine, that of its way out first; nothing is sent to find it."""
    addresses = []
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(("192.0.2.1", 9))
            addresses.append(str(probe.getsockname()[0]))
        except OSError:
            pass
    with contextlib.suppress(OSError):
        addresses += [str(info[4][0]) for info in socket.getaddrinfo(socket.gethostname(), None, socket.AF_INET)]
    return list(dict.fromkeys(addresses))
