"""Serving over TLS: with somebody's certificate, or by an authority of this machine, renewed while it serves."""

import datetime as dt
import threading
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

from .core.errors import CannotRead

AUTO = "auto"
LOOK_EVERY_S = 3600.0
NEW = "A new authority was made: devices that trusted an earlier one have to trust it again."


@dataclass(frozen=True)
class Secured:
    """Files to serve with; authority, fingerprint : of a machine that vouches for itself; said : what is to be told."""

    certificate: Path
    key: Path
    authority: Path | None = None
    fingerprint: str = ""
    said: str = ""


def secured_by(tls: tuple[str, str], names: Sequence[str], state: Path) -> Secured:
    """Files to serve with over TLS.

    Raises
    ------
    CannotRead
        If a file is not there, has run out, or does not go with the other.
    """
    from .local_authority import certificate_for, check

    now = dt.datetime.now(dt.UTC)
    if tls == (AUTO, AUTO):
        own = certificate_for(state / "tls", names, now)
        said = (
            "A new authority was made: devices that trusted an earlier one have to trust it again." if own.made else ""
        )
        return Secured(own.certificate, own.key, own.authority, own.fingerprint, said)
    certificate, key = map(Path, tls)
    for file in (certificate, key):
        if not file.is_file():
            raise CannotRead("there is no such file", "name a certificate and its key, or --tls auto", file=str(file))
    return Secured(certificate, key, said=check(certificate, key, now))


def keep_renewed(
    names: Sequence[str], state: Path, take: Callable[[Path, Path], None], tell: Callable[[str], None]
) -> None:
    """Look every hour, in the background, whether the certificate is to be renewed; `take` gets the new one."""
    from .local_authority import certificate_for

    def look() -> None:
        until = None
        while True:
            now = dt.datetime.now(dt.UTC)
            try:
                own = certificate_for(state / "tls", names, now)
                if until is not None and own.until != until:
                    take(own.certificate, own.key)
                    tell(f"  The certificate was renewed; it is good until {own.until:%Y-%m-%d}.")
                until = own.until
            except (OSError, ValueError) as error:
                tell(f"  The certificate could not be renewed: {error}")
            asleep.wait(LOOK_EVERY_S)

    asleep = threading.Event()
    threading.Thread(target=look, name="renews the certificate", daemon=True).start()
