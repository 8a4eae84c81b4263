"""Passwords and keys of the gear: in the system's key store if there is one, otherwise in a file only its owner can
read.

They are never in the book, in a log, in an answer of the API or in an export.
"""

from __future__ import annotations

import json
from pathlib import Path

import keyring
from keyring.backends import fail
from keyring.errors import KeyringError, PasswordDeleteError

from cuejar.platform import open_private, put

SERVICE = "cue-jar"


class Secrets:
    """Secrets of a data folder, by the id of their owner."""

    def __init__(self, folder: Path, use_key_store: bool = True) -> None:
        self._file = folder / "secrets.json"
        self._folder = str(folder.resolve())
        self._key_store = use_key_store and self.has_key_store()

    @staticmethod
    def has_key_store() -> bool:
        """Returns whether the system has a usable key store."""
        try:
            there = keyring.get_keyring()
            return not isinstance(there, fail.Keyring) and there.priority >= 1
        except (KeyringError, RuntimeError):
            return False

    def _user(self, thing: str) -> str:
        return f"{self._folder}#{thing}"

    def _all(self) -> dict[str, str]:
        try:
            found: dict[str, str] = json.loads(self._file.read_text("utf-8"))
        except (OSError, ValueError):
            return {}
        return found

    def get(self, thing: str) -> str:
        """Returns the secret; empty if there is none."""
        if self._key_store:
            try:
                return keyring.get_password(SERVICE, self._user(thing)) or ""
            except KeyringError:
                self._key_store = False
        return self._all().get(thing, "")

    def forget(self, thing: str) -> None:
        """Deletes a secret, if there is one."""
        if self._key_store:
            try:
                keyring.delete_password(SERVICE, self._user(thing))
            except PasswordDeleteError:
                return
            except KeyringError:
                self._key_store = False
        if thing in (secrets := self._all()):
            del secrets[thing]
            self._write(secrets)

    def put(self, thing: str, secret: str) -> None:
        if self._key_store:
            try:
                keyring.set_password(SERVICE, self._user(thing), secret)
                return
            except KeyringError:
                self._key_store = False
        self._write({**self._all(), thing: secret})

    def _write(self, secrets: dict[str, str]) -> None:
        beside = self._file.with_suffix(".new")
        with open_private(beside) as file:
            json.dump(secrets, file)
        put(beside, self._file)
