"""The bench's own certificate, made at its first opening: what travels through the house is encrypted, and who opens
the page for the first time can compare its fingerprint with the one that the terminal tells.
"""

from __future__ import annotations

import ipaddress
import os
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

VALID, RENEWED_BEFORE = timedelta(days=397), timedelta(days=30)


@dataclass(frozen=True)
class Certificate:
    """Where a certificate and its key lie, and its SHA-256 fingerprint in pairs."""

    path: Path
    key: Path
    fingerprint: str


def _named(address: str) -> x509.GeneralName:
    try:
        return x509.IPAddress(ipaddress.ip_address(address))
    except ValueError:
        return x509.DNSName(address)


def _made(names: Sequence[x509.GeneralName], key: ec.EllipticCurvePrivateKey, now: datetime) -> x509.Certificate:
    who = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Tenugui")])
    return (
        x509.CertificateBuilder()
        .subject_name(who)
        .issuer_name(who)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(hours=1))
        .not_valid_after(now + VALID)
        .add_extension(x509.SubjectAlternativeName(names), critical=False)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .sign(key, hashes.SHA256())
    )


def _still_good(path: Path, names: Sequence[x509.GeneralName], now: datetime) -> x509.Certificate | None:
    try:
        held = x509.load_pem_x509_certificate(path.read_bytes())
        told = held.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    except (OSError, ValueError, x509.ExtensionNotFound):
        return None
    good = set(names) <= set(told) and held.not_valid_after_utc - now > RENEWED_BEFORE
    return held if good else None


def certificate(folder: Path, address: str, now: datetime | None = None) -> Certificate:
    """The certificate in `folder` for `address`, made anew where there is none, it is for another, or it ends within a
    month. Both files are their owner's alone.
    """
    now = datetime.now(UTC) if now is None else now
    path, key_path, names = folder / "certificate.pem", folder / "key.pem", [_named(address)]
    held = _still_good(path, names, now) if key_path.is_file() else None
    if held is None:
        key = ec.generate_private_key(ec.SECP256R1())
        held = _made(names, key, now)
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        _write(
            key_path,
            key.private_bytes(
                serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
            ),
        )
        _write(path, held.public_bytes(serialization.Encoding.PEM))
    return Certificate(path, key_path, held.fingerprint(hashes.SHA256()).hex(":").upper())


def _write(path: Path, data: bytes) -> None:
    beside = path.with_suffix(".new")
    beside.unlink(missing_ok=True)
    with open(os.open(beside, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as file:
        file.write(data)
    beside.replace(path)
