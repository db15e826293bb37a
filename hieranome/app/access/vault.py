"""Where the secrets of mailboxes are kept: the system's keyring, a file sealed with the sign-in password, or a plain
file that only its owner may read. Never the database, the log, an answer of the API or an error.
"""

from __future__ import annotations

import base64
import contextlib
import json
import os
import secrets
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Any, Literal

import keyring
from argon2.low_level import Type, hash_secret_raw
from cryptography.fernet import Fernet, InvalidToken
from keyring.backends import fail
from keyring.errors import KeyringError

from hieranome.core.errors import Conflict, WorldError

Kind = Literal["keyring", "sealed", "file"]
FILE = "secrets.json"
SERVICE = "hieranome"


def has_keyring() -> bool:
    """Whether this system has a keyring that works without asking."""
    try:
        backend = keyring.get_keyring()
        return not isinstance(backend, fail.Keyring) and backend.priority >= 1
    except (KeyringError, RuntimeError):
        return False


class Vault:
    """The secrets of one data folder, by mailbox address.

    Sealed secrets can be read after :meth:`unlock` only; a secret that cannot be read is None.
    """

    def __init__(self, folder: Path) -> None:
        self._path = folder / FILE
        self._folder = str(folder.absolute())
        self._key: bytes | None = None
        self._lock = threading.RLock()
        self._told: list[Callable[[], None]] = []

    @property
    def unlocked(self) -> bool:
        """Whether sealed secrets can be read and written."""
        return self._key is not None

    def on_unlock(self, told: Callable[[], None]) -> None:
        """Call ``told`` whenever sealed secrets become readable."""
        self._told.append(told)

    def unlock(self, password: str) -> None:
        """Derive the key from the sign-in password, which was checked before."""
        with self._lock:
            kept = self._read()
            if "salt" not in kept:
                kept["salt"] = base64.b64encode(secrets.token_bytes(16)).decode()
                self._write(kept)
            self._key = _key(password, base64.b64decode(kept["salt"]))
        for told in self._told:
            told()

    def reseal(self, password: str) -> None:
        """Seal everything with another password. Raises :class:`Conflict` while it cannot be read."""
        with self._lock:
            kept = self._read()
            if self._key is None and kept.get("sealed"):
                raise Conflict("The secrets are locked. Sign in with the old password first.")
            opened = {address: self._opened(token) for address, token in kept.get("sealed", {}).items()}
            kept["salt"] = base64.b64encode(secrets.token_bytes(16)).decode()
            self._key = _key(password, base64.b64decode(kept["salt"]))
            kept["sealed"] = {address: self._seal(secret) for address, secret in opened.items() if secret is not None}
            self._write(kept)

    def drop_sealed(self) -> None:
        """Forget all sealed secrets, which nobody can open any more."""
        with self._lock:
            kept = self._read()
            for address in kept.pop("sealed", {}):
                kept.get("kinds", {}).pop(address, None)
            if kept:
                self._write(kept)

    def put(self, address: str, secret: str, kind: Kind) -> None:
        """Keep a secret; one kept before, of whatever kind, is forgotten. Raises :class:`Conflict` while sealed
        secrets are locked, :class:`WorldError` when the keyring or the disk refuses."""
        with self._lock:
            if kind == "sealed" and self._key is None:
                raise Conflict(
                    "A sealed secret needs a sign-in password. Set one, or choose the keyring or a plain file."
                )
            if kind == "keyring":
                self._into_keyring(address, secret)
            elif self.kind(address) == "keyring":
                self._out_of_keyring(address)
            kept = self._read()
            for part in ("sealed", "plain"):
                kept.get(part, {}).pop(address, None)
            kept.setdefault("kinds", {})[address] = kind
            if kind == "sealed":
                kept.setdefault("sealed", {})[address] = self._seal(secret)
            elif kind == "file":
                kept.setdefault("plain", {})[address] = secret
            self._write(kept)

    def _into_keyring(self, address: str, secret: str) -> None:
        try:
            keyring.set_password(SERVICE, self._name(address), secret)
        except (KeyringError, RuntimeError) as exc:
            raise WorldError(
                "The system's keyring did not take the secret. Unlock it, or choose another place to keep it."
            ) from exc

    def _out_of_keyring(self, address: str) -> None:
        with contextlib.suppress(KeyringError, RuntimeError):
            keyring.delete_password(SERVICE, self._name(address))

    def get(self, address: str) -> str | None:
        """The secret of a mailbox, or None when there is none or it cannot be read now."""
        with self._lock:
            kept = self._read()
            kind = self.kind(address)
            if kind == "keyring":
                try:
                    return keyring.get_password(SERVICE, self._name(address))
                except (KeyringError, RuntimeError):
                    return None
            if kind == "sealed":
                return self._opened(kept.get("sealed", {}).get(address, ""))
            plain: str | None = kept.get("plain", {}).get(address)
            return plain

    def kind(self, address: str) -> Kind | None:
        """How the secret of a mailbox is kept."""
        kind: Kind | None = self._read().get("kinds", {}).get(address)
        return kind

    def forget(self, address: str) -> None:
        """Forget the secret of a mailbox."""
        with self._lock:
            kept = self._read()
            if kept.get("kinds", {}).pop(address, None) == "keyring":
                self._out_of_keyring(address)
            for part in ("sealed", "plain"):
                kept.get(part, {}).pop(address, None)
            if kept:
                self._write(kept)

    def _name(self, address: str) -> str:
        return f"{address} {self._folder}"

    def _seal(self, secret: str) -> str:
        assert self._key is not None
        return Fernet(self._key).encrypt(secret.encode("utf-8")).decode("ascii")

    def _opened(self, token: str) -> str | None:
        if self._key is None or not token:
            return None
        try:
            return Fernet(self._key).decrypt(token.encode("ascii")).decode("utf-8")
        except InvalidToken:
            return None

    def _read(self) -> dict[str, Any]:
        try:
            found = json.loads(self._path.read_text(encoding="utf-8"))
        except (OSError, ValueError):
            return {}
        return found if isinstance(found, dict) else {}

    def _write(self, kept: dict[str, Any]) -> None:
        write_private(self._path, json.dumps(kept, indent=1))


def _key(password: str, salt: bytes) -> bytes:
    """Argon2id (RFC 9106, section 4, second choice) of the password, as a Fernet key."""
    raw = hash_secret_raw(password.encode("utf-8"), salt, 3, 65_536, 4, 32, Type.ID)
    return base64.urlsafe_b64encode(raw)


def write_private(path: Path, text: str) -> None:
    """Write a file that only its owner may read, whole or not at all. Raises :class:`WorldError`."""
    beside = path.with_name(f"{path.name}.new")
    try:
        handle = os.open(beside, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
        with os.fdopen(handle, "w", encoding="utf-8") as file:
            file.write(text)
            file.flush()
            os.fsync(file.fileno())
        beside.replace(path)
    except OSError as exc:
        raise WorldError(
            f"{path} cannot be written ({exc.strerror}), so nothing was changed. Free some space, or see to its "
            "permissions, and try again."
        ) from exc
