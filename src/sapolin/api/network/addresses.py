"""The addresses and names by which devices on the local network reach this machine."""

import socket
from dataclasses import dataclass
from ipaddress import IPv4Address, IPv6Address, ip_address, ip_network
from re import compile as pattern

import psutil

__all__ = ["LOCAL_NETWORKS", "LocalNames", "host_of", "is_local", "local_names"]

LOCAL_NETWORKS = tuple(
    ip_network(one)
    for one in ("10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "169.254.0.0/16", "fc00::/7", "fe80::/10")
)
"""Addresses within a house or a workshop (RFC 1918, 3927, 4193, 4291)."""
_HOST = pattern(r"(?:\[(?P<six>[0-9a-fA-F:.]+)\]|(?P<name>[0-9A-Za-z.-]+))(?::(?P<port>\d{1,5}))?")
_NAME = pattern(r"[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?")


@dataclass(frozen=True)
class LocalNames:
    """How this machine is called on its network: `addresses` as text, `names` in small letters."""

    addresses: tuple[str, ...]
    names: tuple[str, ...]

    @property
    def hosts(self) -> frozenset[str]:
        """Every host that a request from the network may name."""
        return frozenset((*self.addresses, *self.names))


def is_local(address: str) -> bool:
    """Whether an address belongs to a private network, and not to the internet or to this machine alone.

    >>> is_local("192.168.1.20"), is_local("fd00::7"), is_local("8.8.8.8"), is_local("127.0.0.1"), is_local("fe80::1%eth0")
    (True, True, False, False, True)
    """
    try:
        found = _unmapped(ip_address(address.partition("%")[0]))
    except ValueError:
        return False
    return any(found.version == network.version and found in network for network in LOCAL_NETWORKS)


def _unmapped(found: IPv4Address | IPv6Address) -> IPv4Address | IPv6Address:
    return (found.ipv4_mapped if isinstance(found, IPv6Address) else None) or found


def host_of(header: str) -> str | None:
    """The host that a Host header names, in one spelling, without port; None when it is no host.

    >>> host_of("Workshop.Local:8720"), host_of("[FD00:0::7]:8720"), host_of("192.168.1.20"), host_of("a/b")
    ('workshop.local', 'fd00::7', '192.168.1.20', None)
    """
    found = _HOST.fullmatch(header)
    if found is None:
        return None
    if found["six"] is not None:
        try:
            return str(_unmapped(ip_address(found["six"])))
        except ValueError:
            return None
    return found["name"].lower().removesuffix(".")


def local_names() -> LocalNames:
    """What this machine has now. Addresses that only a zone makes whole (fe80::…) are left out: browsers do not open them."""
    addresses = [
        entry.address
        for entries in psutil.net_if_addrs().values()
        for entry in entries
        if entry.family in (socket.AF_INET, socket.AF_INET6) and "%" not in entry.address and is_local(entry.address)
    ]
    own = socket.gethostname().lower().partition(".")[0]
    names = (own, f"{own}.local") if _NAME.fullmatch(own) and own != "localhost" else ()
    return LocalNames(tuple(dict.fromkeys(addresses)), names)
