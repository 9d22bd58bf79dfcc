"""Tokens and passwords: in the system's keyring where there is one, else in a file that only its
owner can read. Never in the database, a log, a pack, a backup or an answer."""

import json
import os
from contextlib import suppress
from pathlib import Path

import keyring
import keyring.errors

_SERVICE = "Air Trim"
_FILE = "secrets.json"


class Secrets:
    """The secrets of one folder of data, by the ids of what they are for."""

    def __init__(self, data_dir: Path) -> None:
        self._path = data_dir / _FILE
        self._folder = str(data_dir.resolve())

    def keep(self, key: str, secret: str) -> None:
        """Keep a secret, in place of the one that was there."""
        if _has_keyring():
            with suppress(keyring.errors.KeyringError):
                keyring.set_password(_SERVICE, self._name(key), secret)
                return
        self._write({**self._read(), key: secret})

    def of(self, key: str) -> str:
        """A secret; empty where there is none."""
        if _has_keyring():
            with suppress(keyring.errors.KeyringError):
                found = keyring.get_password(_SERVICE, self._name(key))
                if found is not None:
                    return found
        return self._read().get(key, "")

    def forget(self, key: str) -> None:
        """Forget one."""
        if _has_keyring():
            with suppress(keyring.errors.KeyringError):
                keyring.delete_password(_SERVICE, self._name(key))
        kept = self._read()
        if kept.pop(key, None) is not None:
            self._write(kept)

    def _name(self, key: str) -> str:
        return f"{self._folder}:{key}"

    def _read(self) -> dict[str, str]:
        try:
            found = json.loads(self._path.read_text())
        except (OSError, ValueError):
            return {}
        return {str(key): str(value) for key, value in found.items()}

    def _write(self, secrets: dict[str, str]) -> None:
        part = self._path.with_suffix(".part")
        part.unlink(missing_ok=True)
        # Made for its owner alone from the first byte on.
        with os.fdopen(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as file:
            json.dump(secrets, file)
            file.flush()
            os.fsync(file.fileno())
        part.replace(self._path)


def _has_keyring() -> bool:
    """Whether there is one that works without a window: those that do not have no priority."""
    try:
        return bool(keyring.get_keyring().priority >= 1)
    except Exception:
        return False
