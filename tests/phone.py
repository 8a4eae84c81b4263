"""A device with pads, as the page on a phone: it signs with the standard library alone, by docs/reference/pads.md."""

from __future__ import annotations

import hashlib
import hmac
import json
import secrets
import ssl
from contextlib import ExitStack
from typing import Any

from websockets.exceptions import ConnectionClosed
from websockets.sync.client import ClientConnection, connect

from tests.running import PATIENCE_S


def signature(key: str, *words: str) -> str:
    return hmac.new(bytes.fromhex(key), "\n".join(words).encode(), hashlib.sha256).hexdigest()


class Phone:
    """``device`` and ``key`` are its memory; ``told`` is the latest of each kind of message."""

    def __init__(
        self, address: str, device: str, key: str, pair: bool = False, tls: ssl.SSLContext | None = None, of: str = ""
    ) -> None:
        """Args:
        of: the address it connects from; empty: the usual one.
        """
        self.address, self.device, self.key, self.pair, self.tls = address, device, key, pair, tls
        self.socket: ClientConnection | None = None
        self.of: dict[str, Any] = {"source_address": (of, 0)} if of else {}
        self.line = ExitStack()
        self.told: dict[str, Any] = {}
        self.count = 0
        self.mine = self.theirs = ""

    @classmethod
    def of_link(cls, link: str, tls: ssl.SSLContext | None = None) -> Phone:
        """Returns a phone that scanned a code."""
        home, _, offer = link.partition("#pair.")
        device, key = offer.split(".")
        return cls(f"{home.replace('http', 'ws', 1)}feed", device, key, pair=True, tls=tls)

    def hello(self) -> dict[str, Any]:
        """Connects and says who it is. Returns the answer."""
        self.mine, self.count = secrets.token_hex(32), 0
        self.leave()
        self.socket = self.line.enter_context(connect(self.address, proxy=None, ssl=self.tls, **self.of))
        self.send({"t": "hello", "device": self.device, "number": self.mine, "pair": self.pair})
        told = self.hear()
        self.theirs = told.get("number", "")
        return told

    def join(self) -> Phone:
        """Connects, and proves its key; pairing gives it a key of its own."""
        assert self.hello()["t"] == "challenge", self.told
        self.send(
            {"t": "prove", "signature": signature(self.key, "pair" if self.pair else "prove", self.mine, self.theirs)}
        )
        told = self.hear()
        if told["t"] == "paired":
            self.key = signature(self.key, "device", told["device"], self.mine, self.theirs)
            self.device, self.pair = told["device"], False
            told = self.hear()
        if told["t"] == "welcome":
            assert told["signature"] == signature(self.key, "welcome", self.mine, self.theirs)
            self.until(lambda: "now" in self.told)
        return self

    def send(self, said: dict[str, Any]) -> None:
        assert self.socket is not None
        self.socket.send(json.dumps(said))

    def hear(self) -> dict[str, Any]:
        assert self.socket is not None
        told: dict[str, Any] = json.loads(self.socket.recv(timeout=PATIENCE_S))
        self.told[told["t"]] = told
        return told

    def until(self, check: Any) -> Any:
        while not (found := check()):
            self.hear()
        return found

    def signed(self, wish: dict[str, Any]) -> dict[str, Any]:
        """Returns a request as it goes over the network."""
        self.count += 1
        body = json.dumps(wish)
        right = signature(self.key, "do", self.mine, self.theirs, str(self.count), body)
        return {"t": "do", "n": self.count, "body": body, "signature": right}

    def ask(self, **wish: Any) -> str:
        """Sends a request and waits for the answer. Returns why it wasn't done."""
        said = self.signed(wish)
        self.send(said)
        self.until(lambda: self.told.get("done", {}).get("n") == said["n"])
        return str(self.told["done"]["what"])

    def press(self, cue: str) -> str:
        return self.ask(do="press", cue=cue)

    def let_go(self, cue: str) -> str:
        return self.ask(do="let_go", cue=cue)

    def row(self, cue: str) -> dict[str, Any] | None:
        return next((row for row in self.told["now"]["rows"] if row["cue"] == cue), None)

    def leave(self) -> None:
        self.line.close()

    def is_ended(self) -> bool:
        """Returns whether the other side ends the connection now."""
        try:
            while True:
                self.hear()
        except ConnectionClosed:
            return True
