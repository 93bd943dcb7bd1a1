"""Second devices: phones and tablets that were paired, what each may reach, and the key that each carries.

They belong to this machine and not to the workshop's records: putting an old backup back must not let a device in again whose
access had ended. So they lie in a file of their own beside the database, written whole each time. Of a key only a hash is kept.
"""

import json
import logging
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from hashlib import sha256
from hmac import compare_digest
from pathlib import Path
from secrets import choice, token_hex, token_urlsafe
from threading import Lock
from typing import Literal

from sapolin.core.quantities.model import Model
from sapolin.store.clock import utc_now
from sapolin.store.whole_file import write_whole

__all__ = [
    "ACCESS_LASTS",
    "NoOfferError",
    "PairedDevice",
    "Pairing",
    "PairingCode",
    "Reach",
    "UnknownDeviceError",
    "WrongCodeError",
    "network_directory",
]  # fmt: skip

Reach = Literal["make_and_rack", "everything"]
"""What a device may do: weigh and follow batches, or all that can be done away from the main screen."""
SIGNS = "ABCDEFGHJKLMNPQRSTUVWXYZ23456789"
"""Without those that are mistaken for others: I and 1, O and 0."""
CODE_LENGTH = 8
OFFER_LASTS = timedelta(minutes=10)
ACCESS_LASTS = timedelta(days=365)
"""Then a device has to be paired anew, so that a forgotten one does not stay a door for ever."""
MOST_WRONG_CODES = 20
"""After so many a code is withdrawn: of 32 to the eighth nobody finds it in that."""
SEEN_EVERY = timedelta(minutes=1)
MOST_DEVICES = 50


_log = logging.getLogger("sapolin")


class UnknownDeviceError(Exception):
    """There is no such device."""


class WrongCodeError(Exception):
    """This is not the code, or it has been used."""


class NoOfferError(Exception):
    """No code is open, or its time is over."""


class PairedDevice(Model):
    """A phone or tablet that was paired."""

    id: str
    name: str
    reach: Reach
    paired_at: str
    """UTC, ISO 8601, as all times here."""
    seen_at: str
    """When it last asked for something, to the minute."""
    ended_at: str | None = None
    """Its access ended then; null while it has access."""


class PairingCode(Model):
    """A code that pairs one device, once."""

    code: str
    """Eight signs; blanks, hyphens and small letters do not matter when it is typed."""
    name: str
    reach: Reach
    ends_at: str


def network_directory(database: Path) -> Path:
    """Where the keys of devices and the certificate lie, for the maker alone; made when missing."""
    directory = database.with_name(f"{database.stem}-network")
    directory.mkdir(mode=0o700, exist_ok=True)
    return directory


def _hashed(key: str) -> str:
    return sha256(key.encode()).hexdigest()


def _plain(code: str) -> str:
    return "".join(sign for sign in code.upper() if sign.isalnum())


def _has_access(device: PairedDevice, now: str) -> bool:
    lasts_until = datetime.fromisoformat(device.paired_at) + ACCESS_LASTS
    return device.ended_at is None and datetime.fromisoformat(now) < lasts_until


class Pairing:
    """The paired devices of one database, and the one code that may be open. Safe to use from several threads."""

    def __init__(self, database: Path, now: Callable[[], str] = utc_now) -> None:
        self._database = database
        self._now = now
        self._lock = Lock()
        self._offer: PairingCode | None = None
        self._wrong = 0
        self._devices: dict[str, PairedDevice] = {}
        self._hashes: dict[str, str] = {}
        self._read()

    def _file(self) -> Path:
        return self._database.with_name(f"{self._database.stem}-network") / "devices.json"

    def _read(self) -> None:
        file = self._file()
        if not file.is_file():
            return
        try:
            for row in json.loads(file.read_text(encoding="utf-8")):
                key = row.pop("key_sha256")
                device = PairedDevice.model_validate(row)
                self._hashes[key], self._devices[device.id] = device.id, device
        except (ValueError, TypeError, KeyError, AttributeError):
            # Who had access cannot be told: nobody has, until paired anew. The rest of the workshop is not held up by it.
            self._hashes, self._devices = {}, {}
            file.replace(file.with_name("devices.json.damaged"))
            _log.warning("the list of paired devices cannot be read: no device has access until it is paired anew")

    def _write(self) -> None:
        hash_of = {device_id: key for key, device_id in self._hashes.items()}
        rows = [one.model_dump(mode="json") | {"key_sha256": hash_of[one.id]} for one in self._devices.values()]
        write_whole(network_directory(self._database) / "devices.json", json.dumps(rows, indent=1).encode())

    def devices(self) -> tuple[PairedDevice, ...]:
        """All of them, those whose access ended too, the newest first."""
        with self._lock:
            return tuple(sorted(self._devices.values(), key=lambda one: one.paired_at, reverse=True))

    def offer(self, name: str, reach: Reach) -> PairingCode:
        """Open a code for one device; one that was open is withdrawn."""
        ends_at = (datetime.fromisoformat(self._now()) + OFFER_LASTS).astimezone(UTC).isoformat()
        with self._lock:
            self._wrong = 0
            self._offer = PairingCode(
                code="".join(choice(SIGNS) for _ in range(CODE_LENGTH)), name=name, reach=reach, ends_at=ends_at
            )
            return self._offer

    def withdraw(self) -> None:
        """Close the code that is open."""
        with self._lock:
            self._offer = None

    def open_offer(self) -> PairingCode | None:
        """The code that is open now."""
        with self._lock:
            if self._offer is not None and datetime.fromisoformat(self._offer.ends_at) <= datetime.fromisoformat(
                self._now()
            ):
                self._offer = None
            return self._offer

    def accept(self, code: str) -> tuple[PairedDevice, str]:
        """Pair the device that sends the code: the device, and the key it carries from now on.

        Raises NoOfferError and WrongCodeError. The device is kept on the disk when this returns.
        """
        offer = self.open_offer()
        if offer is None:
            raise NoOfferError
        with self._lock:
            if self._offer is not offer:
                raise NoOfferError
            if not compare_digest(_plain(code).encode(), offer.code.encode()):
                self._wrong += 1
                if self._wrong >= MOST_WRONG_CODES:
                    self._offer = None
                raise WrongCodeError
            self._offer = None
            key, at = token_urlsafe(32), self._now()
            device = PairedDevice(id=token_hex(8), name=offer.name, reach=offer.reach, paired_at=at, seen_at=at)
            self._devices[device.id] = device
            self._hashes[_hashed(key)] = device.id
            self._forget_oldest_ended()
            self._write()
            return device, key

    def _forget_oldest_ended(self) -> None:
        ended = sorted(
            (one for one in self._devices.values() if one.ended_at is not None), key=lambda one: one.paired_at
        )
        for one in ended[: max(0, len(self._devices) - MOST_DEVICES)]:
            del self._devices[one.id]
            self._hashes = {key: device_id for key, device_id in self._hashes.items() if device_id != one.id}

    def device_with(self, key: str) -> PairedDevice | None:
        """The device that carries a key, while it has access; notes that it was seen."""
        with self._lock:
            device = self._devices.get(self._hashes.get(_hashed(key), ""))
            now = self._now()
            if device is None or not _has_access(device, now):
                return None
            if datetime.fromisoformat(now) - datetime.fromisoformat(device.seen_at) >= SEEN_EVERY:
                device = self._devices[device.id] = device.model_copy(update={"seen_at": now})
                self._write()
            return device

    def has_access(self, device_id: str) -> bool:
        """Whether its access has not ended."""
        with self._lock:
            device = self._devices.get(device_id)
            return device is not None and _has_access(device, self._now())

    def change(self, device_id: str, *, name: str | None = None, reach: Reach | None = None) -> PairedDevice:
        """Name it anew, or let it reach more or less. Raises UnknownDeviceError."""
        changed = {key: value for key, value in (("name", name), ("reach", reach)) if value is not None}
        return self._changed(device_id, changed)

    def end(self, device_id: str) -> PairedDevice:
        """End its access, for good: to come back it has to be paired anew. Raises UnknownDeviceError."""
        return self._changed(device_id, {"ended_at": self._now()})

    def _changed(self, device_id: str, changed: dict[str, str]) -> PairedDevice:
        with self._lock:
            device = self._devices.get(device_id)
            if device is None or device.ended_at is not None:
                raise UnknownDeviceError(device_id)
            self._devices[device_id] = device.model_copy(update=changed)
            self._write()
            return self._devices[device_id]
