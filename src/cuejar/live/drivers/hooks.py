"""Outgoing hooks: one HTTP request per strike, signed by Standard Webhooks, retried if there is no answer.

Address, headers and body are templates; a viewer's text is escaped for its place. A hook only calls
hosts that the streamer listed, and this machine or a private network only if that was allowed for the host.
"""

from __future__ import annotations

import asyncio
import base64
import ipaddress
import json
import socket
import time
import uuid
from collections.abc import AsyncIterator, Callable, Mapping
from datetime import UTC, datetime
from typing import Any
from urllib.parse import unquote, urlsplit

import httpcore
import httpx
import ifaddr
from standardwebhooks import Webhook, WebhookVerificationError
from tenacity import AsyncRetrying, retry_if_exception_type, stop_after_attempt, wait_exponential, wait_random

from cuejar.core.book.book import Book
from cuejar.core.facts.happenings import PropertyValue
from cuejar.core.facts.orders import Strike
from cuejar.core.parts.gear import Gear, HookPlace
from cuejar.core.rules.words import filled
from cuejar.live.drivers.base import AwayError, GearRefused, Greeting, PropertyPath, Report
from cuejar.live.drivers.unheard import unheard_said
from cuejar.live.memories import ALWAYS

FIRST_PAUSE_S = 0.5
PREFIX = "whsec_"
MOST_ANSWER = 64_000
BOX = "/hook/receive"
"""Where the simulated receiver accepts hooks."""


def key_of(secret: str) -> bytes:
    """Returns the key of a secret: base64 after ``whsec_`` (Standard Webhooks), or the text itself."""
    if secret.startswith(PREFIX):
        try:
            return base64.b64decode(secret.removeprefix(PREFIX), validate=True)
        except ValueError:
            pass
    return secret.encode()


def signature(secret: str, message_id: str, timestamp: int, body: bytes) -> str:
    """Returns ``v1,`` and the symmetric signature of a message (Standard Webhooks 1.0)."""
    return Webhook(key_of(secret)).sign(message_id, datetime.fromtimestamp(timestamp, UTC), body.decode())


def is_signed(secret: str, headers: Mapping[str, str], body: bytes) -> bool:
    """Returns whether a message was signed with this secret within the last five minutes (Standard Webhooks 1.0)."""
    try:
        Webhook(key_of(secret)).verify(body, dict(headers), json_parse=False)
    except (WebhookVerificationError, ValueError):
        return False
    return True


def allowed(url: str, places: list[HookPlace]) -> HookPlace:
    """Returns the place that a hook calls.

    Raises:
        GearRefused: it isn't allowed, and why.
    """
    parts = urlsplit(url)
    if parts.scheme not in ("http", "https") or not parts.hostname:
        raise GearRefused(f"“{parts.scheme}://{parts.hostname or ''}” isn’t a web address")
    host = parts.hostname
    place = next((place for place in places if place.host.casefold().strip() == host.casefold()), None)
    if place is None:
        raise GearRefused(f"hooks may not go to {host}; allow it on the Rig page")
    return place


def _steps(url: str) -> list[str]:
    """Returns the steps of a path, decoded however often they were encoded."""
    path = urlsplit(url).path
    for _ in range(5):
        path = unquote(path)
    return path.replace("\\", "/").split("/")


def _refuse_climbing(template: str, url: str) -> None:
    """Raises GearRefused: a value inserted into the path would lead out of it."""
    steps, own = _steps(url), _steps(template)
    if any(step in (".", "..") for step in steps) and not any(step in (".", "..") for step in own):
        raise GearRefused("a value in the hook's address would change its path")


class _NotTaken(GearRefused):
    """The other side didn't accept it this time."""


def _is_here(address: str) -> bool:
    """Returns whether an address is this computer, in whatever form."""
    ip = ipaddress.ip_address(address.partition("%")[0])
    if isinstance(ip, ipaddress.IPv6Address) and ip.ipv4_mapped is not None:
        ip = ip.ipv4_mapped
    if ip.is_loopback or ip.is_unspecified:
        return True
    own = (one.ip if isinstance(one.ip, str) else one.ip[0] for adapter in ifaddr.get_adapters() for one in adapter.ips)
    return str(ip) in own


class _Checked(httpcore.AnyIOBackend):
    """Connects only to addresses that were checked first, so that a name can't mean something else
    by the time of the call. Never to Cue Jar's own ports.
    """

    def __init__(self, place: HookPlace, own_ports: frozenset[int]) -> None:
        super().__init__()
        self._place, self._own_ports = place, own_ports

    async def connect_tcp(self, host: str, port: int, *args: Any, **more: Any) -> httpcore.AsyncNetworkStream:
        try:
            rows = await asyncio.get_running_loop().getaddrinfo(host, port, type=socket.SOCK_STREAM)
        except OSError as error:
            raise httpcore.ConnectError(f"{host} is not known") from error
        addresses = list(dict.fromkeys(str(row[4][0]) for row in rows))
        for address in addresses:
            if not ipaddress.ip_address(address).is_global and not self._place.private:
                raise NotThisWay(f"{host} lies on this machine or in this house's network; allow that on the Rig page")
            if port in self._own_ports and _is_here(address):
                raise NotThisWay(f"{host}:{port} is Cue Jar itself; hooks do not go there")
        return await super().connect_tcp(addresses[0], port, *args, **more)


class NotThisWay(GearRefused):
    """The host's address is one that hooks may not call."""


class _Transport(httpx.AsyncHTTPTransport):
    def __init__(self, place: HookPlace, own_ports: frozenset[int]) -> None:
        super().__init__()
        context = httpx.create_ssl_context()
        backend = _Checked(place, own_ports)
        self._pool = httpcore.AsyncConnectionPool(ssl_context=context, network_backend=backend)


async def _read_some(answer: httpx.Response) -> None:
    """Reads an answer up to `MOST_ANSWER`; nobody needs more."""
    read = 0
    async for part in answer.aiter_raw():
        read += len(part)
        if read >= MOST_ANSWER:
            return


class HookDriver:
    """One hook. It has nothing to show; it is in step while it is switched on."""

    def __init__(
        self, gear: Gear, secret: str, book: Callable[[], Book], own_ports: frozenset[int] = frozenset(), box: int = 0
    ) -> None:
        """Args:
        own_ports: Cue Jar's ports on this computer.
        box: one more, on which only the simulated receiver may be reached; 0: none.
        """
        self.gear, self._secret, self._book = gear, secret, book
        self._own_ports, self._box = own_ports, box
        self.actual: dict[PropertyPath, PropertyValue] = {}
        self.sent = 0

    async def connect(self) -> Greeting:
        return Greeting()

    async def show(self, wanted: Mapping[PropertyPath, PropertyValue]) -> Mapping[PropertyPath, PropertyValue | None]:
        return dict.fromkeys(wanted)

    async def reports(self) -> AsyncIterator[Report]:
        await asyncio.Event().wait()
        yield Greeting()

    def memory(self) -> str:
        """Returns `ALWAYS`: by Standard Webhooks a receiver does a repeated ``webhook-id`` only once."""
        return ALWAYS

    async def strike(self, strike: Strike, strike_id: str) -> None:
        """Calls once, retried with growing pauses for 5xx and for no answer. Raises AwayError or GearRefused."""
        value = strike.value
        values: Mapping[str, Any] = value.get("values") or {}
        hook = self.gear.hook
        try:
            url = filled(self.gear.address, values, "url")
            _refuse_climbing(self.gear.address, url)
            headers = {name: filled(text, values, "header") for name, text in hook.headers.items()}
            body = value.get("payload") or filled(hook.body, values, "json")
        except ValueError as error:
            raise GearRefused(str(error)) from error
        content = b"" if hook.method == "GET" else (body or json.dumps({"run": strike.run})).encode()
        if content:
            try:
                json.loads(content)
            except ValueError as error:
                raise GearRefused(f"its body is not JSON: {error}") from error
        await self._send(allowed(url, self._book().house.hook_places), url, headers, content, strike_id)

    async def _send(self, place: HookPlace, url: str, headers: dict[str, str], content: bytes, message_id: str) -> None:
        hook = self.gear.hook

        async def once() -> None:
            now = int(time.time())
            told = {**headers, "webhook-id": message_id, "webhook-timestamp": str(now)}
            if content:
                told.setdefault("content-type", "application/json")
            if self._secret:
                told["webhook-signature"] = signature(self._secret, message_id, now, content)
            await self._post(client, url, told, content)

        wait = wait_exponential(FIRST_PAUSE_S) + wait_random(0, FIRST_PAUSE_S / 4)
        stop = stop_after_attempt(hook.tries)
        again = AsyncRetrying(retry=retry_if_exception_type(_NotTaken), stop=stop, wait=wait, reraise=True)
        ports = self._own_ports if urlsplit(url).path == BOX else self._own_ports | {self._box}
        transport = _Transport(place, ports)
        async with httpx.AsyncClient(timeout=hook.timeout_s, transport=transport, follow_redirects=False) as client:
            await again(once)

    async def _post(self, client: httpx.AsyncClient, url: str, headers: dict[str, str], content: bytes) -> None:
        """Sends one request. Raises _NotTaken if retrying may help, GearRefused if it doesn't."""
        hook, host = self.gear.hook, urlsplit(url).hostname
        try:
            async with asyncio.timeout(hook.timeout_s):
                async with client.stream(hook.method, url, headers=headers, content=content or None) as answer:
                    await _read_some(answer)
        except TimeoutError:
            raise _NotTaken(f"{host} didn’t answer within {hook.timeout_s:g} s") from None
        except httpx.HTTPError as error:
            raise _NotTaken(f"{host} isn’t answering ({unheard_said(error)})") from error
        except (UnicodeError, httpx.InvalidURL) as error:
            raise GearRefused(f"its address can’t be read: {error}") from error
        self.sent += 1
        if answer.is_success:
            return
        kind = _NotTaken if answer.status_code >= 500 else GearRefused
        raise kind(f"{host} answers {answer.status_code}")

    async def test(self) -> str:
        """Sends one call as a viewer of the demo would cause it. Raises AwayError."""
        values = {"viewer": "hopper_kit", "text": "a test", "reward": "Test", "cost": 0}
        try:
            told = {"hook": self.gear.id, "payload": "", "values": values}
            await self.strike(Strike("test", "test", "hook", told), f"test_{uuid.uuid4().hex}")
        except GearRefused as error:
            raise AwayError(str(error)) from error
        return "Sent and accepted."

    async def picture(self) -> bytes | None:
        return None

    async def close(self) -> None: ...
