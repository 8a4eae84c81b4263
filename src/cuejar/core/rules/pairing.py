"""Who may press a pad from another device: keys, signatures, and penalties for wrong ones.

A device and Cue Jar share a key that never crosses the network. On every connection each side sends a nonce; the
device's requests are counted from one and signed over both nonces, the count and the words (HMAC-SHA-256, RFC 2104), so
that nothing can be forged, altered, or replayed, on this connection or another.
"""

from __future__ import annotations

import base64
import hashlib
import hmac
import re
import secrets
from bisect import bisect_right
from dataclasses import dataclass, field
from typing import Final

KEY_BYTES: Final = 32
OFFER_MS: Final = 120_000
"""How long a device may take to use its pairing link."""
MOST_BAD: Final = 10
"""The number of wrong signatures within `REMEMBERED_MS` that locks a device."""
REMEMBERED_MS: Final = 3_600_000
MOST_SENDERS: Final = 1_000
FIRST_WAIT_MS, MOST_WAIT_MS = 250, 30_000
NUMBER = re.compile(r"[0-9a-f]{32,128}")
"""A nonce, as both sides write it."""


def signed(key: bytes, *words: str) -> str:
    """Returns the signature of some words, in hex: HMAC-SHA-256 over them, one per line. Only the last may contain line
    breaks.
    """
    return hmac.new(key, "\n".join(words).encode(), hashlib.sha256).hexdigest()


def key_of_device(offered: bytes, device: str, theirs: str, ours: str) -> bytes:
    """Returns the key of a paired device: made from the link's key and both nonces, so that the link alone is useless
    afterwards.
    """
    return bytes.fromhex(signed(offered, "device", device, theirs, ours))


CODE_BYTES: Final = 10
"""A code that is typed has 80 bits: nobody can find it from what crossed the network."""


def new_code() -> str:
    """Returns a code for pairing that can be typed: four groups of four letters and digits."""
    letters = base64.b32encode(secrets.token_bytes(CODE_BYTES)).decode()
    return "-".join(letters[at : at + 4] for at in range(0, len(letters), 4))


def of_code(code: str) -> tuple[str, bytes]:
    """Returns the id and the key of the offer that a code stands for, however it was typed.

    Raises:
        ValueError: it can't be one.
    """
    letters = re.sub(r"[\s-]", "", code).upper().replace("0", "O").replace("1", "I").replace("8", "B")
    if not re.fullmatch(r"[A-Z2-7]{16}", letters):
        raise ValueError("A code has four groups of four letters and digits, such as K7QX-2MPA-RB5D-XW3F.")
    return hashlib.sha256(f"offer {letters}".encode()).hexdigest()[:16], hashlib.sha256(
        f"key {letters}".encode()
    ).digest()


@dataclass(slots=True)
class SignedLine:
    """One connection of a device, with what was signed on it so far. ``theirs`` and ``ours`` are the nonces of its two
    sides.
    """

    key: bytes
    theirs: str
    ours: str
    count: int = 0

    def proves(self, signature: str, what: str = "prove") -> bool:
        """Returns whether the other side has the key."""
        return self._is(signature, signed(self.key, what, self.theirs, self.ours))

    def welcome(self) -> str:
        """Returns what proves to the device that this is the Cue Jar it was paired with."""
        return signed(self.key, "welcome", self.theirs, self.ours)

    def sign(self, what: str, number: int, body: str) -> str:
        """Returns the signature of a request or an answer, by its kind and number."""
        return signed(self.key, what, self.theirs, self.ours, str(number), body)

    def takes(self, number: int, body: str, signature: str, what: str = "do") -> bool:
        """Returns whether a request is the next on this connection and correctly signed; if so, counts it."""
        if not self._is(signature, self.sign(what, number, body)) or number != self.count + 1:
            return False
        self.count = number
        return True

    @staticmethod
    def _is(told: str, right: str) -> bool:
        return hmac.compare_digest(told.encode(), right.encode())


class Known:
    """Addresses from which a device recently proved itself."""

    def __init__(self) -> None:
        self._all: dict[str, None] = {}

    def add(self, address: str) -> None:
        self._all.pop(address, None)
        self._all[address] = None
        while len(self._all) > MOST_SENDERS:
            del self._all[next(iter(self._all))]

    def __contains__(self, address: str) -> bool:
        return address in self._all


class Senders:
    """Senders of wrong proofs, by address: each one delays the next attempt from there. At most `MOST_SENDERS` are
    remembered.
    """

    def __init__(self) -> None:
        self._all: dict[str, Conduct] = {}

    def wrong(self, sender: str, now: int) -> None:
        self._all.setdefault(sender, Conduct()).wrong(now)
        while len(self._all) > MOST_SENDERS:
            del self._all[next(iter(self._all))]

    def wait_ms(self, sender: str, now: int) -> int:
        """Returns how long it must still wait before the next attempt."""
        conduct = self._all.get(sender)
        return conduct.wait_ms(now) if conduct is not None else 0


@dataclass(slots=True)
class Conduct:
    """The wrong signatures of one device or sender, by time (ms). Each delays the next attempt; many lock the device."""

    bad: list[int] = field(default_factory=list)
    locked: bool = False

    def wrong(self, now: int) -> None:
        del self.bad[: bisect_right(self.bad, now - REMEMBERED_MS)]
        self.bad.append(now)
        if len(self.bad) >= MOST_BAD:
            self.locked = True

    def wait_ms(self, now: int) -> int:
        """Returns how long it must still wait before the next attempt."""
        if not self.bad:
            return 0
        pause: int = min(MOST_WAIT_MS, FIRST_WAIT_MS * 2 ** (len(self.bad) - 1))
        return max(0, self.bad[-1] + pause - now)

    def unlock(self) -> None:
        self.bad.clear()
        self.locked = False
