"""A certificate authority of this machine alone, and the certificate by which it serves over TLS (RFC 5280).

The authority may vouch for this machine's names and for private addresses, and for nothing else: name constraints
(RFC 5280, 4.2.1.10) bound what could be done with its key, which never leaves the state folder.
"""

import datetime as dt
import hashlib
import ipaddress
import os
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path

from cryptography import x509
from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

from .core.errors import CannotRead

AUTHORITY_YEARS = 10
LASTS = dt.timedelta(days=397)
"""Browsers refuse certificates that last longer than 398 days, or 825 of one's own authority (from memory)."""

RENEWED_BEFORE = dt.timedelta(days=30)
SLOW_CLOCK = dt.timedelta(days=1)
"""Valid from a day ago on, for phones whose clock is slow."""

WARNED_BEFORE = dt.timedelta(days=14)

PRIVATE = (
    "127.0.0.0/8", "10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "169.254.0.0/16", "100.64.0.0/10", "::1/128",
    "fc00::/7", "fe80::/10",
)  # fmt: skip
"""Loopback, private, link-local and shared addresses (RFC 1918, 3927, 4193, 4291, 6598)."""


@dataclass(frozen=True)
class Served:
    """Files to serve with over TLS, and the authority that vouches for them; fingerprint : SHA-256 of the authority.

    made : whether the authority is new, so that whoever trusted an earlier one has to do so again.
    """

    certificate: Path
    key: Path
    authority: Path
    fingerprint: str
    until: dt.datetime
    made: bool = False


def certificate_for(folder: Path, names: Sequence[str], now: dt.datetime) -> Served:
    """The certificate of this machine, made or renewed where it has to be.

    Parameters
    ----------
    folder : Path
        Where authority and keys are kept, open to their owner alone.
    names : sequence of str
        Names and addresses by which this machine is reached.
    now : datetime
    """
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    folder.chmod(0o700)
    paths = [folder / name for name in ("authority.pem", "authority.key", "server.pem", "server.key")]
    wanted = list(dict.fromkeys(n for n in names if _general(n) is not None))
    kept = _kept(paths[0], paths[1])
    made = kept is None or not _vouches(kept[0], wanted, now)
    authority, key = _new_authority(paths[0], paths[1], wanted, now) if kept is None or made else kept
    leaf = _kept(paths[2], paths[3])
    if leaf is None or not _serves(leaf[0], authority, wanted, now):
        leaf = _new_leaf(paths[2], paths[3], authority, key, wanted, now)
    digest = authority.fingerprint(hashes.SHA256()).hex(":").upper()
    return Served(paths[2], paths[3], paths[0], digest, leaf[0].not_valid_after_utc, made)


def check(certificate: Path, key: Path, now: dt.datetime) -> str:
    """Check a certificate that somebody else made; a remark on it, empty where there is none.

    Raises
    ------
    CannotRead
        If it has run out or is not valid yet, if it cannot be read, or if the key is not its own.
    """
    try:
        own = x509.load_pem_x509_certificate(certificate.read_bytes())
    except (ValueError, OSError) as error:
        raise CannotRead(
            "it is no certificate in PEM", "name the certificate and its key, or --tls auto", file=str(certificate)
        ) from error
    try:
        private = serialization.load_pem_private_key(key.read_bytes(), None)
    except (ValueError, TypeError, OSError) as error:
        raise CannotRead(
            "it is no private key in PEM, or has a passphrase", "name its key without one", file=str(key)
        ) from error
    if _public(private.public_key()) != _public(own.public_key()):
        raise CannotRead("it is not the key of that certificate", "name the key that was made with it", file=str(key))
    until, since = own.not_valid_after_utc, own.not_valid_before_utc
    if until <= now:
        raise CannotRead(
            f"the certificate ran out on {until:%Y-%m-%d}", "renew it, or start with --tls auto", file=str(certificate)
        )
    if since > now:
        raise CannotRead(
            f"the certificate is valid only from {since:%Y-%m-%d} on", "see whether this machine's clock is right",
            file=str(certificate),
        )  # fmt: skip
    return f"The certificate runs out on {until:%Y-%m-%d}: renew it." if until - now < WARNED_BEFORE else ""


def _public(key: object) -> bytes:
    return key.public_bytes(  # type: ignore[attr-defined]
        serialization.Encoding.DER, serialization.PublicFormat.SubjectPublicKeyInfo
    )


def _kept(certificate: Path, key: Path) -> tuple[x509.Certificate, ec.EllipticCurvePrivateKey] | None:
    """A certificate and its key as they were made before; None where they are not there, or damaged."""
    try:
        own = x509.load_pem_x509_certificate(certificate.read_bytes())
        private = serialization.load_pem_private_key(key.read_bytes(), None)
    except (ValueError, TypeError, OSError):
        return None
    if not isinstance(private, ec.EllipticCurvePrivateKey) or _public(private.public_key()) != _public(
        own.public_key()
    ):
        return None
    return own, private


def _vouches(authority: x509.Certificate, names: Iterable[str], now: dt.datetime) -> bool:
    """Whether the authority is valid for another year and more, and may vouch for all of these names."""
    if not authority.not_valid_before_utc <= now <= authority.not_valid_after_utc - LASTS:
        return False
    try:
        allowed = authority.extensions.get_extension_for_class(x509.NameConstraints).value.permitted_subtrees or []
    except x509.ExtensionNotFound:
        return False
    domains = [a.value for a in allowed if isinstance(a, x509.DNSName)]
    networks = [a.value for a in allowed if isinstance(a, x509.IPAddress)]

    def may(name: str) -> bool:
        general = _general(name)
        if isinstance(general, x509.IPAddress):
            return any(general.value in n for n in networks)  # type: ignore[operator]
        return name in domains

    return all(map(may, names))


def _serves(leaf: x509.Certificate, authority: x509.Certificate, names: Sequence[str], now: dt.datetime) -> bool:
    if not leaf.not_valid_before_utc <= now <= leaf.not_valid_after_utc - RENEWED_BEFORE:
        return False
    try:
        leaf.verify_directly_issued_by(authority)
        own = leaf.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    except (ValueError, TypeError, InvalidSignature, x509.ExtensionNotFound):
        return False
    said = {*own.get_values_for_type(x509.DNSName), *map(str, own.get_values_for_type(x509.IPAddress))}
    return set(names) <= said


def _general(name: str) -> x509.DNSName | x509.IPAddress | None:
    """A name or an address as a certificate has it; None where none can."""
    try:
        return x509.IPAddress(ipaddress.ip_address(name.partition("%")[0]))
    except ValueError:
        pass
    try:
        return x509.DNSName(name) if name and len(name) <= 253 else None
    except ValueError:
        return None


def _new_authority(
    certificate: Path, key: Path, names: Sequence[str], now: dt.datetime
) -> tuple[x509.Certificate, ec.EllipticCurvePrivateKey]:
    private = ec.generate_private_key(ec.SECP256R1())
    host = next((n for n in names if isinstance(_general(n), x509.DNSName) and n != "localhost"), "this machine")
    title = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, f"Jaunecharge bench on {host}"[:64])])
    generals = [g for n in names if (g := _general(n)) is not None]
    networks = [ipaddress.ip_network(n) for n in PRIVATE]
    networks += [
        ipaddress.ip_network(str(g.value))
        for g in generals if isinstance(g, x509.IPAddress) and not any(g.value in n for n in networks)
    ]  # fmt: skip
    allowed = [*(g for g in generals if isinstance(g, x509.DNSName)), *map(x509.IPAddress, networks)]
    own = (
        x509.CertificateBuilder()
        .subject_name(title).issuer_name(title).public_key(private.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - SLOW_CLOCK).not_valid_after(now + dt.timedelta(days=365 * AUTHORITY_YEARS))
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .add_extension(_usage(signs=True), critical=True)
        .add_extension(x509.NameConstraints(allowed, None), critical=True)
        .add_extension(x509.SubjectKeyIdentifier.from_public_key(private.public_key()), critical=False)
        .sign(private, hashes.SHA256())
    )  # fmt: skip
    _write(certificate, key, own, private)
    return own, private


def _new_leaf(
    certificate: Path, key: Path, authority: x509.Certificate, signs: ec.EllipticCurvePrivateKey,
    names: Sequence[str], now: dt.datetime,
) -> tuple[x509.Certificate, ec.EllipticCurvePrivateKey]:  # fmt: skip
    private = ec.generate_private_key(ec.SECP256R1())
    own = (
        x509.CertificateBuilder()
        .subject_name(x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Jaunecharge")]))
        .issuer_name(authority.subject).public_key(private.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - SLOW_CLOCK).not_valid_after(now + LASTS - SLOW_CLOCK)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(_usage(signs=False), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .add_extension(x509.SubjectAlternativeName([g for n in names if (g := _general(n))]), critical=False)
        .add_extension(x509.AuthorityKeyIdentifier.from_issuer_public_key(signs.public_key()), critical=False)
        .add_extension(x509.SubjectKeyIdentifier.from_public_key(private.public_key()), critical=False)
        .sign(signs, hashes.SHA256())
    )  # fmt: skip
    _write(certificate, key, own, private)
    return own, private


def _usage(signs: bool) -> x509.KeyUsage:
    return x509.KeyUsage(
        digital_signature=not signs, content_commitment=False, key_encipherment=False, data_encipherment=False,
        key_agreement=False, key_cert_sign=signs, crl_sign=signs, encipher_only=False, decipher_only=False,
    )  # fmt: skip


def _write(certificate: Path, key: Path, own: x509.Certificate, private: ec.EllipticCurvePrivateKey) -> None:
    """Write both, each whole or not at all, the key open to its owner alone."""
    secret = private.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )
    for path, content in ((key, secret), (certificate, own.public_bytes(serialization.Encoding.PEM))):
        fresh = path.with_name(f"{path.name}.{hashlib.sha256(os.urandom(16)).hexdigest()[:8]}")
        with os.fdopen(os.open(fresh, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as file:
            file.write(content)
        fresh.replace(path)
