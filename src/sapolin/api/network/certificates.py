"""The workshop's own certificate: an authority that is made once, and a certificate for the addresses of today.

No public authority vouches for an address within a house, so the maker does: devices either accept the certificate once, after
comparing its fingerprint with the one on the main screen, or are given the authority's file. That authority can vouch for
addresses and names of local networks only, whoever should get hold of its key.
"""

from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from ipaddress import ip_address
from pathlib import Path

from cryptography import x509
from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

from sapolin.api.network.addresses import LOCAL_NETWORKS, LocalNames
from sapolin.store.whole_file import write_whole

__all__ = ["Certificate", "own_certificate"]

AUTHORITY_LASTS = timedelta(days=3650)
CERTIFICATE_LASTS = timedelta(days=397)
"""Browsers refuse those that last longer."""
RENEWED_BEFORE = timedelta(days=45)


@dataclass(frozen=True)
class Certificate:
    """What TLS is served with."""

    chain: Path
    """Certificate and authority, PEM."""
    key: Path
    authority: Path
    """What a device is given to trust it, PEM."""
    fingerprint: str
    """SHA-256 of the certificate, in pairs of hexadecimal signs, as browsers show it."""


def own_certificate(directory: Path, names: LocalNames, now: datetime | None = None) -> Certificate:
    """The certificate in `directory` for these names; made, or made anew when the names changed or its time runs out."""
    at = now or datetime.now(UTC)
    found = Certificate(directory / "server.pem", directory / "server.key", directory / "authority.pem", "")
    authority_key, authority = _authority(directory, names, at)
    kept = _kept(found, authority, names, at)
    if kept is None:
        key = ec.generate_private_key(ec.SECP256R1())
        kept = _signed(names, key, authority, authority_key, at)
        write_whole(found.key, _key_pem(key))
        write_whole(found.chain, _pem(kept) + _pem(authority))
    pairs = kept.fingerprint(hashes.SHA256()).hex(":").upper()
    return Certificate(found.chain, found.key, found.authority, pairs)


def _pem(certificate: x509.Certificate) -> bytes:
    return certificate.public_bytes(serialization.Encoding.PEM)


def _key_pem(key: ec.EllipticCurvePrivateKey) -> bytes:
    return key.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )


def _alternatives(names: LocalNames) -> list[x509.GeneralName]:
    return [
        *(x509.IPAddress(ip_address(one)) for one in names.addresses),
        *(x509.DNSName(one) for one in names.names),
    ]


def _authority(directory: Path, names: LocalNames, at: datetime) -> tuple[ec.EllipticCurvePrivateKey, x509.Certificate]:
    """The one that was made before, while it lasts and may vouch for these names; else a new one."""
    key_file, file = directory / "authority.key", directory / "authority.pem"
    own_names = [x509.DNSName("local"), *(x509.DNSName(one) for one in names.names if "." not in one)]
    # What cannot be read is made anew, like what is not there.
    with suppress(ValueError, TypeError, OSError, x509.ExtensionNotFound):
        key = serialization.load_pem_private_key(key_file.read_bytes(), None)
        authority = x509.load_pem_x509_certificate(file.read_bytes())
        allowed = authority.extensions.get_extension_for_class(x509.NameConstraints).value.permitted_subtrees or []
        lasts = authority.not_valid_after_utc - at > CERTIFICATE_LASTS
        fits = lasts and key.public_key() == authority.public_key() and all(one in allowed for one in own_names)
        if isinstance(key, ec.EllipticCurvePrivateKey) and fits:
            return key, authority
    key = ec.generate_private_key(ec.SECP256R1())
    subject = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, f"Sapolin at {(names.names or ('home',))[0]}")])
    permitted = [*own_names, *(x509.IPAddress(one) for one in LOCAL_NETWORKS)]
    authority = (
        _begun(subject, subject, key.public_key(), at, AUTHORITY_LASTS)
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .add_extension(x509.NameConstraints(permitted, None), critical=True)
        .add_extension(_usage(signs_certificates=True), critical=True)
        .add_extension(x509.SubjectKeyIdentifier.from_public_key(key.public_key()), critical=False)
        .sign(key, hashes.SHA256())
    )
    write_whole(key_file, _key_pem(key))
    write_whole(file, _pem(authority))
    return key, authority


def _kept(files: Certificate, authority: x509.Certificate, names: LocalNames, at: datetime) -> x509.Certificate | None:
    """The certificate there is, when it still serves."""
    # What cannot be read, or is of another authority, is made anew, like what is not there.
    with suppress(ValueError, TypeError, OSError, InvalidSignature, x509.ExtensionNotFound):
        key = serialization.load_pem_private_key(files.key.read_bytes(), None)
        certificate = x509.load_pem_x509_certificate(files.chain.read_bytes())
        certificate.verify_directly_issued_by(authority)
        named = certificate.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
        lasts = certificate.not_valid_after_utc - at > RENEWED_BEFORE
        if lasts and key.public_key() == certificate.public_key() and set(named) == set(_alternatives(names)):
            return certificate
    return None


def _signed(
    names: LocalNames, key: ec.EllipticCurvePrivateKey, authority: x509.Certificate,
    authority_key: ec.EllipticCurvePrivateKey, at: datetime,
) -> x509.Certificate:  # fmt: skip
    subject = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Sapolin")])
    return (
        _begun(subject, authority.subject, key.public_key(), at, CERTIFICATE_LASTS)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(x509.SubjectAlternativeName(_alternatives(names)), critical=False)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .add_extension(_usage(signs_certificates=False), critical=True)
        .add_extension(x509.AuthorityKeyIdentifier.from_issuer_public_key(authority_key.public_key()), critical=False)
        .sign(authority_key, hashes.SHA256())
    )


def _begun(
    subject: x509.Name, issuer: x509.Name, key: ec.EllipticCurvePublicKey, at: datetime, lasts: timedelta
) -> x509.CertificateBuilder:  # fmt: skip
    # A tablet whose clock is a little behind must not find it not valid yet.
    return (
        x509.CertificateBuilder()
        .subject_name(subject)
        .issuer_name(issuer)
        .public_key(key)
        .serial_number(x509.random_serial_number())
        .not_valid_before(at - timedelta(days=1))
        .not_valid_after(at - timedelta(days=1) + lasts)
    )


def _usage(*, signs_certificates: bool) -> x509.KeyUsage:
    return x509.KeyUsage(
        digital_signature=True, content_commitment=False, key_encipherment=False, data_encipherment=False,
        key_agreement=False, key_cert_sign=signs_certificates, crl_sign=signs_certificates,
        encipher_only=False, decipher_only=False,
    )  # fmt: skip
