"""Certificates of a studio's own: an authority made once, and a leaf for the names and addresses of this machine, made
anew when these change or it runs out.

A browser lets a page hear the microphone, keep the screen awake and work without a network only where it trusts the
server. The authority may vouch for addresses and names of a house's network and this machine's own name only (name
constraints, critical): what a phone trusts by it reaches no further.

Source: RFC 5280, sections 4.2.1.6, 4.2.1.9, 4.2.1.10; how long a leaf may hold: from memory.
"""

from __future__ import annotations

import hashlib
import ipaddress
import os
import socket
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

from laptick.core.base.errors import StorageError

Address = ipaddress.IPv4Address | ipaddress.IPv6Address

#: How long the authority and a leaf hold, and how long before its end a leaf is made anew.
AUTHORITY_HOLDS, LEAF_HOLDS, ANEW_BEFORE = timedelta(days=3650), timedelta(days=180), timedelta(days=30)

#: A clock that is a little behind finds it good already.
BEHIND = timedelta(hours=26)

#: Networks of houses and of one machine (RFC 1918, 3927, 4193, 4291); the authority vouches for no other.
NETWORKS = tuple(
    ipaddress.ip_network(one)
    for one in ("10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "169.254.0.0/16", "127.0.0.0/8",
                "fc00::/7", "fe80::/10", "::1/128")
)  # fmt: skip


@dataclass(frozen=True)
class Reach:
    """By what this machine is reached: addresses, and names."""

    addresses: tuple[Address, ...]
    names: tuple[str, ...]


@dataclass(frozen=True)
class Leaf:
    """Files that a server presents; ``chain``: the leaf and its authority."""

    chain: Path
    key: Path


def reach_of(host: str) -> Reach:
    """By what the machine is reached that listens at ``host``: an address, a name, or ``0.0.0.0`` for every one.

    Raises:
        StorageError: this machine has no such address.
    """
    name = socket.gethostname().partition(".")[0].lower()
    names = ("localhost", *((name, f"{name}.local") if name.isascii() and name != "localhost" else ()))
    try:
        listened = ipaddress.ip_address(host)
    except ValueError:
        try:
            found = {info[4][0] for info in socket.getaddrinfo(host, None)}
        except OSError:
            raise StorageError(
                f"this machine does not know the name “{host}”.", where="--host", kept="Nothing was started."
            ) from None
        return Reach(tuple(sorted(map(ipaddress.ip_address, found), key=str)), (*names, host.lower()))
    if not listened.is_unspecified:
        return Reach((listened,), names)
    return Reach(tuple(dict.fromkeys((*_outward(), ipaddress.ip_address("127.0.0.1")))), names)


def _outward() -> Iterable[Address]:
    """The addresses by which this machine would speak to others; nothing is sent."""
    for family, far in ((socket.AF_INET, "192.0.2.1"), (socket.AF_INET6, "2001:db8::1")):
        try:
            with socket.socket(family, socket.SOCK_DGRAM) as asked:
                asked.connect((far, 9))
                yield ipaddress.ip_address(asked.getsockname()[0])
        except OSError:
            continue


def authority(folder: Path) -> x509.Certificate:
    """The studio's own, made where there is none.

    Raises:
        StorageError: the folder cannot be written to, or what lies in it is none.
    """
    certificate, key = folder / "authority.pem", folder / "authority.key"
    try:
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        if certificate.is_file() and key.is_file():
            return x509.load_pem_x509_certificate(certificate.read_bytes())
        made_key = ec.generate_private_key(ec.SECP256R1())
        made = _authority(made_key)
        _write(key, _private(made_key))
        _write(certificate, made.public_bytes(serialization.Encoding.PEM))
        return made
    except (OSError, ValueError) as error:
        raise StorageError(
            "the studio’s certificates cannot be kept.",
            where=str(folder),
            kept="Nothing was started.",
            todo="Make the folder writable; what lies in it can be deleted: it is made anew, and phones trust it anew.",
        ) from error


def leaf(folder: Path, reach: Reach) -> Leaf:
    """For a machine reached so; the one there is where it still fits and holds, else a new one.

    Raises:
        StorageError: as ``authority``.
    """
    root = authority(folder)
    chain, key = folder / "server.pem", folder / "server.key"
    wanted = _alternatives(reach, root)
    try:
        if not (key.is_file() and _fits(chain, wanted, root)):
            made_key = ec.generate_private_key(ec.SECP256R1())
            root_key = serialization.load_pem_private_key((folder / "authority.key").read_bytes(), None)
            assert isinstance(root_key, ec.EllipticCurvePrivateKey)
            made = _leaf(made_key, wanted, root, root_key)
            _write(key, _private(made_key))
            _write(chain, b"".join(one.public_bytes(serialization.Encoding.PEM) for one in (made, root)))
    except (OSError, ValueError) as error:
        raise StorageError("the studio’s certificates cannot be kept.", where=str(folder)) from error
    return Leaf(chain, key)


def fingerprint(certificate: x509.Certificate) -> str:
    """As a phone shows it: SHA-256, in pairs."""
    text = hashlib.sha256(certificate.public_bytes(serialization.Encoding.DER)).hexdigest().upper()
    return ":".join(text[at : at + 2] for at in range(0, len(text), 2))


# -- beneath ---------------------------------------------------------------------------------------------


def _alternatives(reach: Reach, root: x509.Certificate) -> list[x509.GeneralName]:
    """Those that the authority may vouch for: one name too many, and nobody trusts the others either. (A machine that
    was called otherwise when the authority was made is known by its addresses and as ``.local``.)"""
    limits = root.extensions.get_extension_for_class(x509.NameConstraints).value.permitted_subtrees or []
    known = {one.value for one in limits if isinstance(one, x509.DNSName)}
    names = [one for one in reach.names if any(one == name or one.endswith(f".{name}") for name in known)]
    addresses = [one for one in reach.addresses if any(one in network for network in NETWORKS)]
    return [*map(x509.DNSName, names), *map(x509.IPAddress, addresses)]


def _fits(chain: Path, wanted: list[x509.GeneralName], root: x509.Certificate) -> bool:
    try:
        found = x509.load_pem_x509_certificates(chain.read_bytes())[0]
        named = found.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
        found.verify_directly_issued_by(root)
    except (OSError, ValueError, TypeError, IndexError, x509.ExtensionNotFound):
        return False
    except Exception:  # of another authority: the library has an error of its own for every kind
        return False
    return list(named) == wanted and found.not_valid_after_utc - datetime.now(UTC) > ANEW_BEFORE


def _named(text: str) -> x509.Name:
    return x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, text)])


def _begun(
    subject: x509.Name, issuer: x509.Name, key: ec.EllipticCurvePrivateKey, holds: timedelta
) -> x509.CertificateBuilder:
    now = datetime.now(UTC)
    return (
        x509.CertificateBuilder()
        .subject_name(subject)
        .issuer_name(issuer)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - BEHIND)
        .not_valid_after(now + holds)
        .add_extension(x509.SubjectKeyIdentifier.from_public_key(key.public_key()), critical=False)
    )


def _usage(*, signs_others: bool) -> x509.KeyUsage:
    return x509.KeyUsage(
        digital_signature=not signs_others, key_cert_sign=signs_others, crl_sign=signs_others, content_commitment=False,
        key_encipherment=False, data_encipherment=False, key_agreement=False, encipher_only=False, decipher_only=False,
    )  # fmt: skip


def _authority(key: ec.EllipticCurvePrivateKey) -> x509.Certificate:
    host = socket.gethostname().partition(".")[0].lower()
    # What a phone lists it by: two studios in one house are told apart.
    name = _named(f"Lap Tick studio on {host[:30]} ({os.urandom(2).hex()})")
    names = [x509.DNSName(one) for one in ("localhost", "local", *((host,) if host.isascii() else ()))]
    permitted = [*names, *map(x509.IPAddress, NETWORKS)]
    return (
        _begun(name, name, key, AUTHORITY_HOLDS)
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .add_extension(_usage(signs_others=True), critical=True)
        .add_extension(x509.NameConstraints(permitted_subtrees=permitted, excluded_subtrees=None), critical=True)
        .sign(key, hashes.SHA256())
    )


def _leaf(
    key: ec.EllipticCurvePrivateKey,
    wanted: list[x509.GeneralName],
    root: x509.Certificate,
    root_key: ec.EllipticCurvePrivateKey,
) -> x509.Certificate:
    identifier = root.extensions.get_extension_for_class(x509.SubjectKeyIdentifier).value
    return (
        _begun(_named("Lap Tick"), root.subject, key, LEAF_HOLDS)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(_usage(signs_others=False), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .add_extension(x509.AuthorityKeyIdentifier.from_issuer_subject_key_identifier(identifier), critical=False)
        .add_extension(x509.SubjectAlternativeName(wanted), critical=False)
        .sign(root_key, hashes.SHA256())
    )


def _private(key: ec.EllipticCurvePrivateKey) -> bytes:
    return key.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )


def _write(path: Path, content: bytes) -> None:
    """Whole or not at all, and for nobody else to read."""
    beside = path.with_suffix(".new")
    descriptor = os.open(beside, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
    with os.fdopen(descriptor, "wb") as file:
        file.write(content)
    beside.replace(path)
