"""A channel: viewers' calls come in, rewards follow the book, redemptions are settled, replies are said.

On every connect it first reads what it missed (unsettled redemptions; whether the stream is on), brings the rewards
of the book to the channel, and sends every unconfirmed settlement. Redemptions are recognised by their id, so
reading them twice does no harm.
"""

from __future__ import annotations

import asyncio
import logging
import time
from base64 import b64decode
from collections.abc import AsyncGenerator, Callable, Sequence
from contextlib import aclosing, suppress
from datetime import UTC, datetime, timedelta
from email.utils import parsedate_to_datetime
from typing import Any, cast
from urllib.parse import quote, urlsplit

import httpx
import websockets
from sqlalchemy import select
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session, sessionmaker

from cuejar.core.engine.night import Timed
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.facts.origin import joined
from cuejar.core.kinds.gear import CHANNEL, REWARDS
from cuejar.live.drivers import channel_wire as wire
from cuejar.live.drivers.base import AwayError, GearRefused, State, Unanswered
from cuejar.live.drivers.channel_rewards import HandAt, Rewards
from cuejar.live.drivers.limits import ALIVE, Limited, Pace
from cuejar.live.drivers.reward_given import GivenPictures, Pictures
from cuejar.live.drivers.said import Unreadable, read
from cuejar.live.drivers.unheard import unheard_said
from cuejar.live.faces import Fetch
from cuejar.live.runner import Runner
from cuejar.live.settling import Settling, retry_after
from cuejar.live.wirelog import WireLog
from cuejar.media.face import NoFace, NotNow
from cuejar.pauses import Pauses, pauses
from cuejar.store.models import LinkRow

log = logging.getLogger(__name__)
Met = Callable[[str, str, Fetch], None]
"""Gets a viewer, what was told of their picture, and how it is fetched."""
CURSOR_LINK, BOOT_LINK = "cursor", "boot"
KEPT_S = 2.0
"""A connection isn't reused after this pause: many servers close theirs after five seconds, and a request just then is
lost.
"""
UNSURE_S = 1.0
"""After how long rewards are checked again whose report may have been outdated."""
CURSOR_S = 2.0
CONNECT_S = 3.0
UNHEARD = (OSError, websockets.WebSocketException, httpx.HTTPError, ValueError, TimeoutError)
"""Errors for a channel that doesn't answer, or not properly."""
OWN_ECHOES = ("settled", "reply")
"""Events about our own requests."""
SUBPROTOCOL = websockets.Subprotocol("cloudevents.json")
"""Defined by the CloudEvents binding for WebSockets (1.0)."""
MOST_WAIT_S = 60.0


class ChannelDriver:
    """Keeps the connection to one channel, and both sides in step."""

    def __init__(
        self,
        channel: str,
        address: str,
        token: str,
        runner: Runner,
        sessions: sessionmaker[Session],
        streamed: Callable[[str, wire.Stream, str | None], None],
        on_hand: HandAt,
        met: Met,
        pictures: Pictures,
        changed: Callable[[], None] = lambda: None,
    ) -> None:
        """Args:
        channel: the id of its gear; empty: given at start-up.
        token: our access token; empty: it needs none.
        streamed: gets reports about its stream, and the event they came in.
        on_hand: takes changes by hand to its rewards.
        met: is told of a viewer's picture, and how to fetch it.
        pictures: the pictures of rewards.
        changed: is told when its state changes.
        """
        self.channel, self._token = channel, token.strip()
        address, self._unusable = _usable(address.rstrip("/").removesuffix("/channel"), self._token)
        self.address, self._runner, self._sessions, self._tell_stream = address.rstrip("/"), runner, sessions, streamed
        self.state: State = "away"
        self.since = runner.clock.now()
        self.problem = ""
        self._changed, self._met = changed, met
        self._headers = {"Authorization": f"Bearer {self._token}"} if self._token and not self._unusable else {}
        self._http = httpx.AsyncClient(
            base_url="http://127.0.0.1/channel" if self._unusable else f"{self.address}/channel",
            headers=self._headers,
            timeout=httpx.Timeout(5, connect=CONNECT_S),
            trust_env=False,
            event_hooks={"response": [self._clocked]},
            transport=Limited(httpx.AsyncHTTPTransport(trust_env=False, limits=httpx.Limits(keepalive_expiry=KEPT_S))),
        )
        self._ahead: datetime | None = None
        """What the channel's clock showed when this machine's steady clock began; None if it doesn't say."""
        self.can = wire.Can()
        """The abilities that it reported."""
        self._told_boot = ""
        self._cursor_name = joined(channel, "") if channel else CHANNEL
        self._sync_now = asyncio.Event()
        self._connected = asyncio.Event()
        self.settling = Settling(self._http, self._connected, runner.recorder.confirmed, self._settling_is)
        self._tasks: list[asyncio.Task[None]] = []
        with sessions() as session:
            of_ours = select(LinkRow.kind, LinkRow.value).where(LinkRow.thing == self._cursor_name)
            kept = {row.kind: row.value for row in session.execute(of_ours)}
        self._cursor: str = kept.get(CURSOR_LINK, "")
        self._boot: str = kept.get(BOOT_LINK, "")
        self._moved = asyncio.Event()
        self._streamed_at: datetime | None = None
        self.wire = WireLog()
        given = GivenPictures(channel, self._http, runner, sessions, self.wire, pictures)
        self.rewards = Rewards(channel, self._http, runner, sessions, self.wire, on_hand, given)

    def start(self) -> None:
        watch, name = self._runner.watch, f"channel {self.channel}".strip()
        self._tasks = [
            watch.keep(f"{name}: what comes in", self._listen, self._fell),
            watch.keep(f"{name}: settling", self.settling.run),
            watch.keep(f"{name}: rewards", self._sync),
            watch.keep(f"{name}: cursor", self._keep_cursor),
        ]

    async def stop(self) -> None:
        await self._runner.watch.let_go(self._tasks)
        await self._http.aclose()

    def hear(self, timed: Sequence[Timed]) -> None:
        if any(isinstance(order, o.Set) and order.path.startswith(REWARDS) for _, order in timed):
            self._sync_now.set()

    def book_changed(self) -> None:
        self._sync_now.set()

    def _become(self, state: State, problem: str = "") -> None:
        if (state, problem) == (self.state, self.problem):
            return
        if state != self.state:
            self.since = self._runner.clock.now()
        self.state, self.problem = state, problem
        self._changed()

    def _fell(self, problem: str) -> None:
        self._connected.clear()
        self._become("away", f"Internal error: {problem}")

    def lacks(self) -> list[str]:
        """Returns what it can't do, and what that means; nothing until it has reported."""
        said = [] if self.can.rewards else ["It has no rewards. Viewers can call cues by chat, tips and other events."]
        return said + ([] if self.can.replies else ["It takes no replies, so reply beats do nothing there."])

    def _settling_is(self, problem: str) -> None:
        """Notes that settling goes well (no problem), or why it doesn't."""
        if self._connected.is_set():
            self._become("catching_up" if problem else "in_step", problem)

    # Input

    async def _listen(self) -> None:
        """Listens to the channel for good: reconnects by itself, each time from the last event."""
        if self._unusable:
            self._become("away", self._unusable)
            await asyncio.Event().wait()  # Another address or token needs another driver.
        address = self.address.replace("http", "ws", 1) + "/channel/events"
        own = Pauses()
        while True:
            url = f"{address}?after={quote(self._cursor, safe='')}" if self._cursor else address
            line = websockets.connect(
                url, proxy=None, compression=None, max_size=1 << 20, open_timeout=CONNECT_S, subprotocols=[SUBPROTOCOL],
                **ALIVE, additional_headers=self._headers, process_exception=self._unheard, reconnect_delays=pauses,
            )  # fmt: skip
            async with aclosing(cast(AsyncGenerator[websockets.ClientConnection], aiter(line))) as sockets:
                socket, wait_s = await anext(sockets), None
                try:
                    self._become("catching_up")
                    await self._catch_up()
                    self._connected.set()
                    self.settling.stir()
                    self._become("in_step")
                    own.reset()
                    pace = Pace()
                    async for text in socket:
                        self._hear(text)
                        await pace.take(len(text))
                    raise ConnectionAbortedError
                except UNHEARD as error:
                    self._unheard(error)
                    wait_s = _told_to_wait(error)
            await asyncio.sleep(own.next() if wait_s is None else wait_s)

    def _unheard(self, error: Exception) -> Exception | None:
        """Handles a lost channel. Returns the error if retrying doesn't help."""
        if not isinstance(error, UNHEARD):
            return error
        self._connected.clear()
        self._become("away", self._why(error))
        return None

    def _why(self, error: Exception) -> str:
        """Returns why the channel is disconnected, in the user's words."""
        answer = error.response if isinstance(error, (websockets.InvalidStatus, httpx.HTTPStatusError)) else None
        status = answer.status_code if answer is not None else None
        if status in (401, 403):
            what = "the token is wrong" if self._token else "it asks for a token"
            return f"It refused the connection: {what} ({status})."
        if status == 404:
            return f"At {self.address} there is no channel (404)."
        if status == 429:
            return "It asked us to slow down (429)."
        if status is not None:
            return f"{self.address} answers {status}."
        return f"{self.address} isn’t answering ({unheard_said(error)})."

    async def _catch_up(self) -> None:
        await self._ask_what_it_can()
        await self._meet_rewards()
        try:
            stream = read(wire.Stream, (await self._get("/stream")) or {})
            self._tell_stream(self.channel, stream.model_copy(update={"state": stream.state or "ended"}), None)
        except Unreadable as error:
            self._leave_out(error)
        for row in _rows(await self._get("/redemptions", state="unfulfilled")) if self.can.rewards else []:
            try:
                redemption = read(wire.Redemption, row)
                # It was received under its bare id before this channel was in the book.
                known = self._runner.journal.knows
                if not known(joined(self.channel, redemption.id)) and not known(redemption.id):
                    self._redeemed(redemption)
            except Unreadable as error:
                self._leave_out(error)

    async def _ask_what_it_can(self) -> None:
        """Asks for its abilities; a channel that doesn't report any has all of them."""
        answer = await self._http.get(f"{self.address}/channel")
        if answer.status_code in (404, 405):
            self.can = wire.Can()
            return
        answer.raise_for_status()
        try:
            about = read(wire.About, answer.json())
            self.can, self._told_boot = about.can, about.boot
        except Unreadable as error:
            self._leave_out(error)

    async def test(self) -> str:
        """Raises AwayError."""
        if self._unusable:
            raise AwayError(self._unusable)
        begun = time.perf_counter()
        try:
            await self._get("/stream")
            await self._ask_what_it_can()
        except UNHEARD as error:
            raise AwayError(self._why(error)) from error
        took = (time.perf_counter() - begun) * 1000
        able = [name for name, it in self.can.model_dump().items() if it]
        return f"It answers in {took:.0f} ms, and has {', '.join(able) or 'events alone'}."

    async def _get(self, path: str, **query: str) -> Any:
        answer = await self._http.get(path, params=query)
        answer.raise_for_status()
        return answer.json()

    def _hear(self, text: str | bytes) -> None:
        """Takes one message. An unreadable one is ignored, and the connection goes on."""
        try:
            event, message = wire.read_event(text)
            self._event(event, message)
        except Unreadable as error:
            self._leave_out(error)
        except Exception as error:
            log.exception("A message from the channel could not be handled.")
            self._leave_out(Unreadable(str(text[:1000]), f"internal error: {error}"))

    def _leave_out(self, error: Unreadable) -> None:
        fresh = self.wire.leave_out(error.message, str(error))
        if (redemption := wire.redemption_in(error.message)) is not None:
            self._runner.leave_out("redemption", joined(self.channel, redemption), str(error))
        elif fresh:
            self._runner.leave_out("channel", None, f"a message from the channel can’t be read: {error}")
        self._changed()

    def _key(self, event: wire.Event) -> str:
        return joined(self.channel, event.key) if self.channel else event.key

    def _event(self, event: wire.Event, message: Any) -> None:
        if event.what == "redemption":
            self._redeemed(read(wire.Redemption, event.data, message, sound=True), self._key(event))
        elif event.what in ("reward", "reward-gone"):
            if event.what == "reward-gone" or not self.rewards.is_echo(event.data):
                self._sync_now.set()
        elif event.what == "stream":
            self._streamed(read(wire.Stream, event.data, message, sound=True), event)
        elif event.what == "present":
            if self._runner.view.book.asks_who_is_there:
                told = read(wire.Present, event.data, message, sound=True)
                own = [viewer.model_copy(update={"id": joined(self.channel, viewer.id)}) for viewer in told.viewers]
                for viewer in own:
                    self._sees(viewer)
                left = tuple(joined(self.channel, viewer) for viewer in told.left)
                self._runner.put(h.Present(tuple(viewer.fact() for viewer in own), left), self._key(event))
        elif event.what in wire.CALLS:
            model, made = wire.CALLS[event.what]
            call = made(self._own(read(model, event.data, message, sound=True)))
            late_s = self._late_s(event)
            if late_s > self._runner.view.book.house.late_s:
                self._runner.ignore(call, "too_late", f"it is {late_s:.0f} s old", self._key(event))
            else:
                self._runner.put(call, self._key(event))
        elif event.what not in OWN_ECHOES:
            self.wire.pass_over(event.type)
        if event.id != self._cursor:
            self._cursor = event.id
            self._moved.set()

    def _late_s(self, event: wire.Event) -> float:
        """Returns how old an event is; 0 if it doesn't say. Clocks that differ, or are set, make nothing late: it counts
        as old only by this machine's clock and by the channel's own.
        """
        if event.said_at is None:
            return 0.0
        ages = [datetime.now(UTC)] if self._ahead is None else [datetime.now(UTC), self._ahead + _running()]
        return min((now - event.said_at).total_seconds() for now in ages)

    async def _clocked(self, answer: httpx.Response) -> None:
        """Notes what the channel's clock shows (RFC 9110, Date)."""
        with suppress(ValueError, TypeError):
            self._ahead = parsedate_to_datetime(answer.headers.get("Date", "")).astimezone(UTC) - _running()

    def _streamed(self, stream: wire.Stream, event: wire.Event) -> None:
        """Notes the stream's state by the event's own time: an event older than the last one changes nothing."""
        if event.said_at is not None:
            if self._streamed_at is not None and event.said_at < self._streamed_at:
                return
            self._streamed_at = event.said_at
        self._tell_stream(self.channel, stream, self._key(event))

    def _own(self, said: wire.T) -> wire.T:
        """Returns an event with ids that tell its viewers and calls apart from those of other channels."""
        viewer = getattr(said, "viewer", None)
        if not self.channel:
            if viewer is not None:
                self._sees(viewer)
            return said
        own: dict[str, Any] = {}
        if viewer is not None:
            own["viewer"] = viewer.model_copy(update={"id": joined(self.channel, viewer.id)})
            self._sees(own["viewer"])
        if getattr(said, "id", None):
            own["id"] = joined(self.channel, said.id)  # type: ignore[attr-defined]
        return said.model_copy(update=own)

    def _redeemed(self, told: wire.Redemption, event: str | None = None) -> None:
        data = self._own(told)
        reward = self.rewards.ours(data.reward)
        self._runner.put(h.Redemption(data.id, reward, data.viewer.fact(), data.text, data.cost), event)

    def _sees(self, viewer: wire.Viewer) -> None:
        if viewer.picture:
            self._met(viewer.id, viewer.picture, self._picture)

    async def _picture(self, told: str) -> bytes:
        """Returns the content of a viewer's picture: what an event brought, or what the channel has at an address. No
        other host is asked. Raises NoFace.
        """
        if told.startswith("data:"):
            kind, _, data = told.partition(",")
            try:
                return b64decode(data, validate=True) if kind.endswith(";base64") else b""
            except ValueError as error:
                raise NoFace("its data isn’t base64") from error
        try:
            url = httpx.URL(f"{self.address}/channel/").join(told)
            here = httpx.URL(self.address)
            if (url.scheme, url.host, url.port) != (here.scheme, here.host, here.port) or url.userinfo:
                raise NoFace("it lies elsewhere than its channel")
            answer = await self._http.get(url)
        except (httpx.InvalidURL, httpx.UnsupportedProtocol, ValueError) as error:
            raise NoFace(f"its address can’t be used ({error})") from error
        except httpx.HTTPError as error:
            raise NotNow(f"it can’t be fetched ({error or type(error).__name__})") from error
        if answer.status_code == 429 or answer.status_code >= 500:
            raise NotNow(f"the channel answers {answer.status_code}")
        if not answer.is_success:
            raise NoFace(f"the channel answers {answer.status_code}")
        return answer.content

    async def _keep_cursor(self) -> None:
        """Saves the last event from time to time; repeated ones are recognised by their ids."""
        while True:
            await self._moved.wait()
            self._moved.clear()
            await self._keep_link(CURSOR_LINK, self._cursor)
            await asyncio.sleep(CURSOR_S)

    # Rewards

    async def _meet_rewards(self) -> None:
        """Syncs rewards on connecting; a channel that restarted since then knows none of them."""
        self.rewards.can = self.can
        boot, self._told_boot = self._told_boot, ""
        if boot and self._boot and boot != self._boot:
            self.rewards.forget()
        try:
            await self.rewards.make()
        except (httpx.HTTPError, ValueError) as error:
            # Calls are taken anyway; the rewards are synchronised as soon as possible.
            log.warning("The rewards are out of sync: %s", error or type(error).__name__)
            self._sync_now.set()
        if boot and boot != self._boot:
            self._boot = boot
            await self._keep_link(BOOT_LINK, boot)
        if self.rewards.unsure:
            self._sync_now.set()

    async def _keep_link(self, kind: str, value: str) -> None:
        row = {"kind": kind, "thing": self._cursor_name, "value": value}
        query = insert(LinkRow).values(row).on_conflict_do_update(index_elements=["kind", "thing"], set_=row)
        await self._runner.later.keep(f"a channel's {kind}", lambda c: c.execute(query))

    async def _sync(self) -> None:
        own = Pauses()
        while True:
            await self._sync_now.wait()
            await self._connected.wait()
            self._sync_now.clear()
            try:
                await self.rewards.make()
                own.reset()
                self._changed()
                if self.rewards.unsure:
                    self._sync_now.set()
                    await asyncio.sleep(UNSURE_S)
                if self.state == "catching_up":
                    self._become("in_step")
            except (httpx.HTTPError, ValueError) as error:
                self._become("catching_up", f"Its rewards are out of sync. {self._why(error)}")
                self._sync_now.set()
                wait_s = _told_to_wait(error)
                await asyncio.sleep(own.next() if wait_s is None else wait_s)

    # Replies

    async def reply(self, text: str, strike_id: str) -> None:
        """Says something in chat, once however often it comes with the same id. Raises AwayError, Unanswered or
        GearRefused.
        """
        if not self.can.replies:
            raise GearRefused("this channel takes no replies")
        try:
            answer = await self._http.post("/replies", json={"text": text}, headers={"Idempotency-Key": strike_id})
        except httpx.ConnectError as error:
            raise AwayError("the channel does not answer") from error
        except httpx.HTTPError as error:
            raise Unanswered("the channel does not answer") from error
        if answer.status_code == 429 or answer.status_code >= 500:
            raise AwayError(f"the channel answers {answer.status_code}")
        if not answer.is_success:
            raise GearRefused(f"the channel answers {answer.status_code}")


def _running() -> timedelta:
    """Returns what this machine's steady clock shows, which nobody can set."""
    return timedelta(seconds=time.monotonic())


def _usable(address: str, token: str) -> tuple[str, str]:
    """Returns the address, and why it or the token is unusable; empty if both are fine."""
    try:
        parts = urlsplit(address)
        fits = parts.scheme in ("http", "https") and bool(parts.hostname) and (parts.port is None or parts.port > 0)
    except ValueError:
        fits = False
    if not fits:
        return address, f"“{address}” is no address of a channel; write it as http://127.0.0.1:8710."
    if not token.isascii() or not token.isprintable():
        return address, "The token has a character that no token can have; copy it once more."
    return address, ""


def _rows(told: Any) -> list[Any]:
    """Returns the rows of a list; none of anything else."""
    return told if isinstance(told, list) else []


def _told_to_wait(error: Exception) -> float | None:
    """Returns how long the channel asks us to wait."""
    answer = getattr(error, "response", None)
    wait_s = retry_after(answer.headers) if answer is not None else None
    return min(MOST_WAIT_S, wait_s) if wait_s is not None else None
