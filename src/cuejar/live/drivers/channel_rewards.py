"""The rewards of a channel, synchronised both ways.

The wanted values of book and engine are compared with the channel's, field by field, and with those it last confirmed:

    it has what is wanted                    nothing to do
    it has what it last confirmed            ours: the channel is asked for what is wanted
    it has what it was asked for             ours too: done without an answer, or reported late
    it has something else                    changed by hand: the hand wins, and the book follows

A request is written down before it goes out, so that it is recognised as ours after a crash. A channel may report an
old state for a moment after it confirmed a new one: a value that is *back* counts as changed by hand only after
`SURE_S`. A missing reward was removed by hand: the streamer decides whether to make it again or remove it; a restarted
channel (another ``boot``) gets all of them again. Rewards made elsewhere are known, and never changed, settled or
removed.
"""

from __future__ import annotations

import asyncio
import secrets
import time
from collections.abc import Awaitable, Callable, Mapping
from functools import partial
from typing import Any, Literal, NamedTuple
from urllib.parse import quote

import httpx
from sqlalchemy import Connection, delete, select
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session, sessionmaker

from cuejar.core.book.book import Reward
from cuejar.core.facts.origin import joined, parted
from cuejar.core.facts.paths import reward_path
from cuejar.core.rules.tickets import cues_of, limits_of, prompt_of
from cuejar.live.drivers import channel_wire as wire
from cuejar.live.drivers.reward_given import GivenPictures
from cuejar.live.drivers.reward_memory import LATE_S, Asked, There, Values
from cuejar.live.drivers.said import Unreadable, read, readable
from cuejar.live.runner import Runner
from cuejar.live.settling import words
from cuejar.live.wirelog import WireLog
from cuejar.store.models import Base, LinkRow, RewardThereRow

MADE_BY = "cue-jar"
REWARD_LINK = "reward"
AT_ONCE = 8
"""How many rewards are changed at the same time."""
KEPT = "what the channel has of rewards"
HandAt = Callable[[str, str, Values, Values], Awaitable[None]]
"""Gets the channel, the reward, what was changed by hand, and its former value."""
Standing = Literal["in_step", "waiting", "gone", "refused", "elsewhere", "missing"]


class Stand(NamedTuple):
    """The state of a reward at a channel, and the reason."""

    standing: Standing
    problem: str = ""


class Rewards:
    """Both sides' rewards of one channel."""

    def __init__(
        self,
        channel: str,
        http: httpx.AsyncClient,
        runner: Runner,
        sessions: sessionmaker[Session],
        log: WireLog,
        on_hand: HandAt,
        pictures: GivenPictures,
    ) -> None:
        """Args:
        channel: the id of its gear; empty: given at start-up.
        on_hand: takes changes by hand at the channel into the book.
        pictures: what it was given of the pictures of rewards.
        """
        self.channel, self._http, self._runner, self._log, self._on_hand = channel, http, runner, log, on_hand
        self.pictures = pictures
        self.can = wire.Can()
        self._lock, self._writing = asyncio.Lock(), asyncio.Lock()
        self._there: dict[str, There] = {}
        self._refused: dict[str, str] = {}
        self._sorted: list[str] = []
        self.others: list[wire.Reward] = []
        """Rewards at the channel that were made elsewhere."""
        self._asked: dict[str, Asked] = {}
        """Unconfirmed requests to make rewards, by the book's reward."""
        self._made: list[str] = []
        self._deleted: set[str] = set()
        """Rewards that we asked the channel to remove: their absence isn't a change by hand."""
        self._unwritten: dict[str, tuple[str, There | None] | None] = {}
        self._whole = True
        self.unsure = False
        """Whether some data may be outdated, and must be checked again."""
        with sessions() as session:
            links = session.scalars(select(LinkRow).where(LinkRow.kind == REWARD_LINK))
            parts = [(*parted(row.thing), row.value) for row in links]
            self.ids = {reward: theirs for of, reward, theirs in parts if of == channel}
            for row in session.scalars(select(RewardThereRow)):
                of, reward = parted(row.thing)
                if of == channel:
                    self._there[reward] = There(dict(row.told), row.gone, row.asked)

    def ours(self, theirs: str) -> str:
        """Returns the book's reward for one of the channel's, if any."""
        return next((ours for ours, other in self.ids.items() if other == theirs), theirs)

    def is_echo(self, told: Any) -> bool:
        """Returns whether a report about a reward only repeats what was asked for here."""
        theirs = told.get("id") if isinstance(told, dict) else None
        there = self._there.get(self.ours(theirs)) if isinstance(theirs, str) else None
        if there is None or there.gone:
            return False
        # During a request the confirmed value may be a later change by hand.
        values = there.wish or there.values
        return bool(values) and all(told.get(name) == value for name, value in values.items())

    def stands(self, connected: bool) -> dict[str, Stand]:
        """Returns the state of each reward of the book at this channel."""
        rewards = self._of_book()
        wanted = self._all_wanted(rewards)
        return {reward.id: self._stand(reward, wanted[reward.id], connected) for reward in rewards}

    def _stand(self, reward: Reward, wanted: Values, connected: bool) -> Stand:
        there = self._there.get(reward.id)
        if not self.can.rewards:
            return Stand("missing", "The channel has no rewards.")
        if reward.elsewhere:
            found = any(other.id == self.ids.get(reward.id) for other in self.others)
            if connected and not found:
                return Stand("missing", "It is no longer at the channel.")
            return Stand("elsewhere", "It was made elsewhere, so it can’t be changed or refunded here.")
        if there is not None and there.gone:
            return Stand("gone", "It was removed at the channel by hand.")
        if reward.id in self._refused:
            return Stand("refused", self._refused[reward.id])
        if not connected or there is None or there.values != wanted:
            return Stand("waiting")
        return Stand("in_step")

    def _of_book(self) -> list[Reward]:
        return [r for r in self._runner.view.book.rewards if r.channel in (None, self.channel)]

    def _all_wanted(self, rewards: list[Reward]) -> dict[str, Values]:
        """Returns what the channel should have, as far as it can."""
        view = self._runner.view
        book, cues, out = view.book, cues_of(view.book), {}
        for reward in rewards:
            on, cost = view.showing(reward_path(reward.id, "on")), view.showing(reward_path(reward.id, "cost"))
            called, paused = cues.get(reward.id, []), view.showing(reward_path(reward.id, "paused")) is True
            shows = on if isinstance(on, bool) else reward.on
            wanted: Values = {
                "title": reward.title,
                "cost": cost if isinstance(cost, int) else reward.cost,
                "prompt": prompt_of(reward, called, book.house.most_text),
                "text": reward.text,
                "on": shows if self.can.pause else shows and not paused,
            }
            if self.can.pause:
                wanted["paused"] = paused
            if self.can.colours:
                wanted["colour"] = reward.colour or ""
            if self.can.limits:
                wanted["limits"] = limits_of(called, book)._asdict()
            out[reward.id] = wanted
        return out

    # Synchronising

    async def make(self) -> None:
        """Brings both sides in step; correct values are left alone.

        Raises:
            httpx.HTTPError: the channel doesn't answer properly; everything done so far stays done.
        """
        if not self.can.rewards:
            return
        async with self._lock:
            self.unsure = False
            try:
                await self._make()
            finally:
                await self._write()

    async def _make(self) -> None:
        there = {reward.id: reward for reward in await self._listed()}
        self.others = [reward for reward in there.values() if reward.made_by != MADE_BY]
        rewards = self._of_book()
        await self._take_away({reward.id for reward in rewards}, there)
        wanted = self._all_wanted(rewards)
        linked = set(self.ids.values())
        free = {r.title.casefold(): r.id for r in there.values() if r.made_by == MADE_BY and r.id not in linked}
        jobs: list[Callable[[], Awaitable[None]]] = []
        for reward in rewards:
            if reward.elsewhere:
                await self._meet(reward)
            else:
                jobs.append(partial(self._one, reward, wanted[reward.id], there, free))
        await _side_by_side(jobs)
        if self.can.pictures:
            ours = {r.id: self.ids[r.id] for r in rewards if r.id in self.ids and not r.elsewhere}
            await self.pictures.give(
                {reward: theirs for reward, theirs in ours.items() if not self.is_gone(reward)}, self.can.pictures
            )
        await self._sort(list(there), rewards)

    async def _listed(self) -> list[wire.Reward]:
        """Returns the channel's readable rewards. Raises ValueError: it isn't a list."""
        answer = await self._http.get("/rewards")
        answer.raise_for_status()
        told = answer.json()
        if not isinstance(told, list):
            raise ValueError("the channel lists no rewards")
        rewards = readable(wire.Reward, told, self._log.leave_out)
        self._whole = len(rewards) == len(told)
        return rewards

    def forget(self) -> None:
        """Forgets everything about the channel, which has restarted without memory."""
        self._sorted = []
        for there in self._there.values():
            there.gone = False
            there.values, there.wish, there.before, there.wishes = {}, {}, [], {}
        self.ids = {}
        self.pictures.forget()

    async def _take_away(self, wanted: set[str], there: Mapping[str, wire.Reward]) -> None:
        """Removes what the book no longer has, if Cue Jar made it; including requests that were carried out without an
        answer.
        """
        linked, now = set(self.ids.values()), time.monotonic()
        for gone in set(self._asked) - wanted:
            asked = self._asked[gone]
            for one in there.values():
                if one.made_by == MADE_BY and one.id not in linked and one.title.casefold() in asked.titles:
                    await self._delete(one.id)
            if now > asked.until:
                del self._asked[gone]
            else:
                self.unsure = True
        for gone in set(self.ids) - wanted:
            theirs = self.ids[gone]
            if theirs in there and there[theirs].made_by == MADE_BY:
                await self._delete(theirs)
            self._unlink(gone)
        for gone in set(self._there) - wanted:
            self._unlink(gone)
        self._refused = {reward: why for reward, why in self._refused.items() if reward in wanted}

    async def _delete(self, theirs: str) -> None:
        self._deleted.add(theirs)
        answer = await self._http.delete(f"/rewards/{quote(theirs, safe='')}")
        if answer.status_code not in (404, 410):
            answer.raise_for_status()

    async def _meet(self, reward: Reward) -> None:
        """Recognises a reward that was made elsewhere by its id, at first by its title."""
        if any(other.id == self.ids.get(reward.id) for other in self.others):
            return
        title = reward.title.casefold()
        found = next((other.id for other in self.others if other.title.casefold() == title), None)
        if found is not None:
            self._link(reward.id, found, None)

    async def _one(
        self, reward: Reward, wanted: Values, there: Mapping[str, wire.Reward], free: Mapping[str, str]
    ) -> None:
        known = self._there.get(reward.id)
        theirs = self.ids.get(reward.id)
        if theirs is not None and theirs in there and there[theirs].made_by != MADE_BY:
            theirs = None  # It was made elsewhere, and is to be ours now.
        elif theirs is not None and theirs not in there and theirs in self._deleted:
            theirs, known = None, None
        elif theirs is not None and theirs not in there:
            if known is not None and known.values:
                # A slow channel may not list yet what it has just made.
                if not self._whole or known.is_fresh(time.monotonic()):
                    self.unsure = True
                else:
                    known.is_there(False)
                    self._link(reward.id, theirs, known)
                return
            theirs = None
        elif theirs is None and known is not None and known.gone:
            return
        if theirs is None:
            theirs = free.get(reward.title.casefold())
            if theirs is not None:
                known = There()
        if theirs is None:
            await self._make_one(reward, wanted)
        else:
            await self._keep(reward, theirs, wanted, there[theirs], known or There())

    async def _make_one(self, reward: Reward, wanted: Values) -> None:
        asked = self._asked.setdefault(reward.id, Asked(f"rw_{secrets.token_hex(12)}"))
        asked.titles.add(reward.title.casefold())
        asked.until = time.monotonic() + LATE_S
        body = {**wanted, "made_by": MADE_BY}
        answer = await self._http.post("/rewards", json=body, headers={"Idempotency-Key": asked.key})
        if answer.status_code in (400, 403, 409, 422):
            self._refuse(reward, answer)
            return
        answer.raise_for_status()
        try:
            told = answer.json()
            made = read(wire.Reward, {**wanted, **(told if isinstance(told, dict) else {})})
        except (Unreadable, ValueError) as error:
            self._log.leave_out(answer.text[:1000], str(error))
            return
        there = There()
        self._refused.pop(reward.id, None)
        self._asked.pop(reward.id, None)
        self._made.append(made.id)
        # A repeated request with this key gets the first answer.
        there.confirmed({name: _told(made, name) for name in wanted}, time.monotonic())
        self._link(reward.id, made.id, there)
        if there.values != wanted:
            await self._patch(reward, made.id, wanted, there.values, there)

    def _refuse(self, reward: Reward, answer: httpx.Response) -> None:
        title = reward.title.casefold()
        why = words(answer)
        if answer.status_code == 409 and any(other.title.casefold() == title for other in self.others):
            why = f"“{reward.title}” already exists there, made elsewhere. Remove it at the channel so that Cue Jar can create its own."
        self._refused[reward.id] = why

    async def _keep(self, reward: Reward, theirs: str, wanted: Values, shows: wire.Reward, known: There) -> None:
        now, told = time.monotonic(), {name: _told(shows, name) for name in wanted}
        hand: Values = {}
        old = False
        for name, value in told.items():
            if value == wanted[name] or name not in known.values or value == known.values[name]:
                continue
            if known.is_ours(name, value, now):
                continue
            if known.may_be_old(name, value, now):
                old = True
            elif name != "limits":
                hand[name] = value
        if old:
            self.unsure = True
            return
        if hand:
            was = {name: known.values[name] for name in hand}
            known.confirmed(told, now)
            self._link(reward.id, theirs, known)
            await self._on_hand(self.channel, reward.id, hand, was)
            return
        if told == wanted:
            self._refused.pop(reward.id, None)
            known.confirmed(told, now)
            known.is_there(True)
            self._link(reward.id, theirs, known)
            return
        await self._patch(reward, theirs, wanted, told, known)

    async def _patch(self, reward: Reward, theirs: str, wanted: Values, told: Values, known: There) -> None:
        """Asks for the differences, after writing the request down."""
        change = {name: value for name, value in wanted.items() if told.get(name) != value}
        held = [name for name in change if self._runner.view.is_held(reward_path(reward.id, name))]
        known.asked(change, time.monotonic(), held)
        self._link(reward.id, theirs, known)
        if not await self._write():
            self.unsure = True  # An unwritten request would, after a crash, look for ever like a change by hand.
            return
        answer = await self._http.patch(f"/rewards/{quote(theirs, safe='')}", json=change)
        if answer.status_code in (400, 403, 409, 422):
            self._refuse(reward, answer)
            return
        answer.raise_for_status()
        self._refused.pop(reward.id, None)
        known.confirmed(wanted, time.monotonic(), change)
        known.is_there(True)
        self._link(reward.id, theirs, known)

    async def _sort(self, there: list[str], rewards: list[Reward]) -> None:
        """Sends the order, once per order of ours: it may be changed by hand meanwhile."""
        if not self.can.order:
            return
        ours = [self.ids[r.id] for r in rewards if r.id in self.ids and not r.elsewhere and not self.is_gone(r.id)]
        if ours == self._sorted:
            return
        made, self._made = self._made, []
        # Several made at the same time came in any order.
        if len(made) > 1 or [one for one in [*there, *made] if one in set(ours)] != ours:
            (await self._http.put("/rewards/order", json={"order": ours})).raise_for_status()
        self._sorted = ours

    # The streamer's decisions

    def is_gone(self, reward: str) -> bool:
        """Returns whether it was removed by hand at the channel, and the streamer hasn't decided yet."""
        there = self._there.get(reward)
        return there is not None and there.gone

    async def again(self, reward: str) -> bool:
        """Makes a removed reward again. Returns whether it was removed here."""
        async with self._lock:
            if not self.is_gone(reward):
                return False
            self._unlink(reward)
            await self._write()
        return True

    # Memory

    def _link(self, reward: str, theirs: str, there: There | None) -> None:
        """Saves which of the channel's rewards is ours, and its last confirmed state."""
        known = self._there.get(reward)
        same = self.ids.get(reward) == theirs and there is known
        self.ids[reward] = theirs
        if there is not None:
            self._there[reward] = there
        if not same or there is None or there.is_unwritten:
            self._unwritten[reward] = (theirs, there)

    def _unlink(self, reward: str) -> None:
        self.ids.pop(reward, None)
        self._there.pop(reward, None)
        self._unwritten[reward] = None

    async def _write(self) -> bool:
        """Writes everything unwritten at once. Returns whether it is written now; otherwise that is done as soon as
        possible.
        """
        async with self._writing:
            return await self._write_all()

    async def _write_all(self) -> bool:
        if not self._unwritten:
            return self._runner.later.is_kept(KEPT)
        rows, self._unwritten = self._unwritten, {}
        links, told, gone = [], [], []
        for reward, row in rows.items():
            thing = joined(self.channel, reward)
            if row is None:
                gone.append(thing)
                continue
            theirs, there = row
            links.append({"kind": REWARD_LINK, "thing": thing, "value": theirs})
            if there is not None:
                there.is_unwritten = False
                told.append(
                    {"thing": thing, "told": there.values, "gone": there.gone, "asked": there.unconfirmed or None}
                )

        def write(connection: Connection) -> None:
            for thing in gone:
                mine = (LinkRow.kind == REWARD_LINK) & (LinkRow.thing == thing)
                connection.execute(delete(LinkRow).where(mine))
                connection.execute(delete(RewardThereRow).where(RewardThereRow.thing == thing))
            if links:
                connection.execute(_put(LinkRow, "kind", "thing"), links)
            if told:
                connection.execute(_put(RewardThereRow, "thing"), told)

        return await self._runner.later.keep(KEPT, write)


def _put(table: type[Base], *keys: str) -> Any:
    """Returns an insert that replaces rows with the same keys."""
    query = insert(table)
    columns = {
        column.name: query.excluded[column.name] for column in table.__table__.columns if column.name not in keys
    }
    return query.on_conflict_do_update(index_elements=list(keys), set_=columns)


def _told(reward: wire.Reward, name: str) -> Any:
    value = getattr(reward, name)
    return value.model_dump() if isinstance(value, wire.Limits) else value


async def _side_by_side(jobs: list[Callable[[], Awaitable[None]]]) -> None:
    """Runs all of them, some at once; after a failure no other one is started. Raises its error."""
    line, wrong = iter(jobs), list[Exception]()

    async def some() -> None:
        for job in line:
            if wrong:
                return
            try:
                await job()
            except Exception as error:
                wrong.append(error)

    await asyncio.gather(*(some() for _ in range(min(AT_ONCE, len(jobs)))))
    if wrong:
        raise wrong[0]
