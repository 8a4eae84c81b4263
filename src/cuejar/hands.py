"""The hands: presses the keys of this computer for the Cue Jar on another one (`cuejar hands`).

It connects to the pads' port there, proves that it is paired, and carries out what is asked: each request must be the
next one and correctly signed. What it did is on the disk before it is answered, so that a request repeated after a cut
presses nothing. If it is ended in the middle of a press, nobody can say whether that was done: then its memory gets a
new name, and Cue Jar asks about that latch instead of guessing.
"""

from __future__ import annotations

import asyncio
import json
import os
import secrets
import ssl
from collections import OrderedDict
from collections.abc import Callable
from pathlib import Path
from typing import Annotated, Any, Literal, Protocol
from urllib.parse import urlsplit

import websockets
from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from cuejar.core.facts.gate import Key
from cuejar.core.measures.keys import code
from cuejar.core.rules.pairing import SignedLine, key_of_device, of_code, signed
from cuejar.live.drivers.base import GearRefused
from cuejar.live.messages import Pong
from cuejar.live.padmessages import (
    HandsAnswer,
    HandsAsk,
    PadsChallenge,
    PadsHello,
    PadsPaired,
    PadsProve,
    PadsRefused,
    PadsWelcome,
)
from cuejar.pauses import Pauses
from cuejar.platform import open_private, put

REMEMBERED = 1_000
"""How many taps' ids are remembered, with their answers."""
MOST_KEYS, MOST_IDS = 8, 100
ANSWER_S, MOST_PAUSE_S, MOST_MESSAGE = 5.0, 5.0, 8_000
REFUSED = {
    "unknown": "This computer is no longer paired. Make a new code on the Rig page, under Keys.",
    "expired": "The code has expired or was used. Make a new one on the Rig page, under Keys.",
    "locked": "This computer is locked after too many wrong signatures. Remove it on the Rig page, and pair it again.",
}
"""Why it can't go on, in words."""


class Over(Exception):
    """It can't go on, and why."""


class Lost(Exception):
    """The connection ended; it is tried again after ``wait_s``."""

    def __init__(self, why: str, wait_s: float = 0.0) -> None:
        super().__init__(why)
        self.wait_s = wait_s


class Presser(Protocol):
    """Presses keys together and releases them. Raises GearRefused: this keyboard has no such key."""

    async def tap(self, codes: list[str], tap_id: str) -> None: ...


class Kept(BaseModel):
    """What the file holds: where Cue Jar is, what this computer is there, its key, and what it did.

    ``pressing`` is the id of a tap that was begun and not finished.
    """

    model_config = ConfigDict(extra="ignore")
    address: Annotated[str, Field(max_length=300)] = ""
    device: Annotated[str, Field(max_length=40)] = ""
    key: Annotated[str, Field(pattern=r"^([0-9a-f]{64})?$")] = ""
    memory: Annotated[str, Field(max_length=80)] = ""
    pressing: Annotated[str, Field(max_length=200)] = ""
    known: dict[str, list[str]] = {}


class Memory:
    """Who this computer is, and what it did, in a file that only its owner can read."""

    def __init__(self, path: Path) -> None:
        """Raises Over: the file can't be read or written."""
        self._path = path
        try:
            self.kept = Kept.model_validate_json(path.read_bytes()) if path.exists() else Kept()
        except (OSError, ValidationError) as error:
            raise Over(f"{path} can’t be read ({getattr(error, 'strerror', None) or 'it is damaged'}).") from error
        self._known: OrderedDict[str, list[str]] = OrderedDict(self.kept.known)
        if self.kept.pressing or not self.kept.memory:
            self.kept.pressing, self.kept.memory = "", secrets.token_hex(8)
            self._known.clear()
            self.save()

    def save(self) -> None:
        """Raises Over: it can't be written."""
        self.kept.known = dict(self._known)
        draft = self._path.with_suffix(".new")
        try:
            self._path.parent.mkdir(parents=True, exist_ok=True)
            with open_private(draft) as file:
                file.write(self.kept.model_dump_json())
                file.flush()
                os.fsync(file.fileno())
            put(draft, self._path)
        except OSError as error:
            raise Over(f"{self._path} can’t be written: {error.strerror or error}.") from error

    def pair(self, address: str, device: str, key: bytes) -> None:
        self.kept.address, self.kept.device, self.kept.key = address, device, key.hex()
        self.save()

    def answer(self, tap_id: str) -> list[str] | None:
        """Returns which keys were pressed for this tap; None: it wasn't done."""
        return self._known.get(tap_id)

    def begins(self, tap_id: str) -> None:
        self.kept.pressing = tap_id
        self.save()

    def done(self, tap_id: str, keys: list[str] | None) -> None:
        """Notes the end of a tap; ``keys`` None: nothing was pressed."""
        self.kept.pressing = ""
        if keys is not None:
            self._known[tap_id] = keys
            while len(self._known) > REMEMBERED:
                self._known.popitem(last=False)
        self.save()


class _Params(BaseModel):
    model_config = ConfigDict(extra="ignore", strict=True)


class Hello(_Params):
    method: Literal["hello"]


class _Ids(_Params):
    ids: Annotated[list[Key], Field(max_length=MOST_IDS)]


class Known(_Params):
    method: Literal["known"]
    params: _Ids


class _Keys(_Params):
    keys: Annotated[list[Annotated[str, Field(max_length=40)]], Field(min_length=1, max_length=MOST_KEYS)]
    id: Key


class Tap(_Params):
    method: Literal["tap"]
    params: _Keys


ASKED: TypeAdapter[Hello | Known | Tap] = TypeAdapter(Annotated[Hello | Known | Tap, Field(discriminator="method")])
TOLD: TypeAdapter[Any] = TypeAdapter(
    Annotated[PadsChallenge | PadsPaired | PadsWelcome | HandsAsk | PadsRefused | Pong, Field(discriminator="t")]
)


class Hands:
    """Serves one Cue Jar until it is stopped."""

    def __init__(
        self,
        memory: Memory,
        keyboard: Presser,
        say: Callable[[str], None],
        code: str = "",
        trust: ssl.SSLContext | None = None,
    ) -> None:
        """Args:
        say: gets what a person should know, one line each.
        code: pairs with it first.
        trust: for a Cue Jar with a certificate of its own.
        """
        self._memory, self._keyboard, self._say, self._code, self._trust = memory, keyboard, say, code, trust

    async def serve(self, address: str) -> None:
        """Connects, and again after every cut. Raises Over."""
        pauses, said = Pauses(most_s=MOST_PAUSE_S), ""
        while True:
            try:
                await self._serve_once(address)
            except Lost as lost:
                if said == "":
                    pauses.reset()
                if str(lost) != said:
                    said = str(lost)
                    self._say(f"Disconnected: {said}. Trying again…")
                await asyncio.sleep(max(lost.wait_s, pauses.next()))
            if self._line_was_good:
                said = ""
                pauses.reset()

    async def _serve_once(self, address: str) -> None:
        self._line_was_good = False
        try:
            async with websockets.connect(
                _socket_address(address),
                proxy=None,
                compression=None,
                max_size=MOST_MESSAGE,
                open_timeout=ANSWER_S,
                close_timeout=1,
                ping_interval=5,
                ping_timeout=5,
                ssl=self._trust if address.startswith("https:") else None,
            ) as socket:
                line = await self._proved(socket, address)
                self._line_was_good = True
                self._say(f"Connected to {address}. Keys are pressed here when a cue asks for it.")
                while True:
                    await self._take(socket, line)
        except ssl.SSLCertVerificationError as error:
            raise Over(f"The certificate of {address} isn’t trusted. Name it: --trust FILE.") from error
        except (OSError, TimeoutError, websockets.WebSocketException) as error:
            raise Lost(getattr(error, "strerror", None) or str(error) or "no answer") from error

    async def _heard(self, socket: websockets.ClientConnection, wait_s: float | None) -> Any:
        """Returns the next message. Raises Over, Lost."""
        async with asyncio.timeout(wait_s):
            text = await socket.recv()
        try:
            said = TOLD.validate_json(text)
        except ValidationError as error:
            raise Lost("a message can’t be read", MOST_PAUSE_S) from error
        if isinstance(said, PadsRefused):
            if said.why in REFUSED:
                raise Over(REFUSED[said.why])
            raise Lost("it can’t let us in now", said.wait_ms / 1000)
        return said

    async def _expect(self, socket: websockets.ClientConnection, kind: type[Any]) -> Any:
        said = await self._heard(socket, ANSWER_S)
        if not isinstance(said, kind):
            raise Lost("it says something else than was expected", MOST_PAUSE_S)
        return said

    async def _proved(self, socket: websockets.ClientConnection, address: str) -> SignedLine:
        """Pairs if there is a code, proves the key, and checks that the other side has it too. Raises Over, Lost."""
        offer, key = (
            of_code(self._code) if self._code else (self._memory.kept.device, bytes.fromhex(self._memory.kept.key))
        )
        mine, pairs = secrets.token_hex(32), bool(self._code)
        await _send(socket, PadsHello(t="hello", device=offer, number=mine, pair=pairs))
        theirs: str = (await self._expect(socket, PadsChallenge)).number
        what = "pair" if pairs else "prove"
        await _send(socket, PadsProve(t="prove", signature=signed(key, what, mine, theirs)))
        if pairs:
            device: str = (await self._expect(socket, PadsPaired)).device
            key = key_of_device(key, device, mine, theirs)
        line = SignedLine(key, mine, theirs)
        welcome = await self._expect(socket, PadsWelcome)
        if not secrets.compare_digest(welcome.signature.encode(), line.welcome().encode()):
            raise Over("Something else answers there, not the Cue Jar that this computer is paired with.")
        if pairs:
            self._memory.pair(address, device, key)
            self._code = ""
        return line

    async def _take(self, socket: websockets.ClientConnection, line: SignedLine) -> None:
        """Carries out one request, and answers it. Raises Lost: it isn't what may come."""
        ask = await self._heard(socket, None)
        if not isinstance(ask, HandsAsk) or not line.takes(ask.n, ask.body, ask.signature, "ask"):
            raise Lost("a request was wrongly signed; nothing was pressed", MOST_PAUSE_S)
        body = json.dumps(await self.do(ask.body))
        await _send(socket, HandsAnswer(t="answer", n=ask.n, body=body, signature=line.sign("answer", ask.n, body)))

    async def do(self, body: str) -> dict[str, Any]:
        """Carries out a request of the wire of the keys. Returns its result or error."""
        try:
            asked = ASKED.validate_json(body)
        except ValidationError:
            return {"error": {"message": "this version of cuejar hands doesn’t know that request"}}
        if isinstance(asked, Hello):
            return {"result": {"version": 1, "memory": self._memory.kept.memory, "remembers": REMEMBERED}}
        if isinstance(asked, Known):
            known = [one for one in asked.params.ids if self._memory.answer(one) is not None]
            return {"result": {"known": known}}
        keys, tap_id = asked.params.keys, asked.params.id
        if (done := self._memory.answer(tap_id)) is not None:
            return {"result": {"tapped": done}}
        if odd := [key for key in keys if code(key) is None]:
            return {"error": {"message": f"“{', '.join(odd)}” isn’t a key"}}
        self._memory.begins(tap_id)
        try:
            await self._keyboard.tap(keys, tap_id)
        except GearRefused as error:
            self._memory.done(tap_id, None)
            return {"error": {"message": str(error)}}
        self._memory.done(tap_id, keys)
        self._say(f"Pressed {' + '.join(keys)}.")
        return {"result": {"tapped": keys}}


async def _send(socket: websockets.ClientConnection, message: BaseModel) -> None:
    await socket.send(message.model_dump_json())


def _socket_address(address: str) -> str:
    scheme, rest = address.split("://", 1)
    return f"{'wss' if scheme == 'https' else 'ws'}://{rest.rstrip('/')}/hands"


def address_of(told: str) -> str:
    """Returns the address of Cue Jar's pads as a person typed it: a host with or without port, or a link.

    Raises:
        ValueError: it can't be one.
    """
    told = told.strip().strip("\"'")
    parts = urlsplit(told if "://" in told else f"http://{told}")
    if parts.scheme not in ("http", "https") or not parts.hostname or len(told) > 200:
        raise ValueError(f"“{told[:60]}” isn’t an address such as 192.168.1.20 or http://192.168.1.20:8705.")
    try:
        port = parts.port
    except ValueError as error:
        raise ValueError(f"“{told[:60]}” has no valid port.") from error
    host = f"[{parts.hostname}]" if ":" in parts.hostname else parts.hostname
    return f"{parts.scheme}://{host}:{port or 8705}"
