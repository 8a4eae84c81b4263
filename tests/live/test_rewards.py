"""Rewards synchronised with a channel, both ways: over the real wire, with a channel that fails, lags, answers twice
and forgets.
"""

from __future__ import annotations

import asyncio
import random
import time
from collections import Counter
from pathlib import Path
from typing import Any

import httpx
import pytest

from cuejar.core.book.book import Book
from cuejar.core.book.files import book_json
from cuejar.core.facts import happenings as h
from cuejar.core.rules.tickets import by_hand
from cuejar.live.drivers import channel_rewards, reward_memory
from cuejar.live.drivers.channel import ChannelDriver
from cuejar.standins.channel import Trouble
from cuejar.standins.channel_rewards import NewReward, RewardChange
from tests.inside import Inside
from tests.live.standin import NoPictures, StandIn
from tests.running import Running, until

INTERLEAVINGS = 200
TITLES = ("Tea", "Horn", "Whistle", "Toss", "Fog")


class Two:
    """A show in this process and a channel in another thread of it, with the history of both."""

    def __init__(self, folder: Path, there: StandIn) -> None:
        self.there, self.channel = there, there.app.state.channel
        self.inside = Inside(folder, Book())
        self.hands: list[tuple[str, dict[str, Any]]] = []
        self.made: Counter[str] = Counter()

    async def start(self) -> None:
        runner = self.inside.runner
        self.driver = ChannelDriver(
            "",
            f"http://127.0.0.1:{self.there.port}",
            "",
            runner,
            self.inside.database.sessions,
            lambda *_: None,
            self._by_hand,
            lambda *_: None,
            NoPictures(),
        )
        runner.ears = [self.driver]
        self.inside.start()
        self.driver.start()
        await self.in_step()

    async def _by_hand(self, channel: str, reward: str, hand: dict[str, Any], was: dict[str, Any]) -> None:
        """As the composition does it: the change by hand is reported, then the book follows."""
        self.hands.append((reward, hand))
        for name in ("on", "cost", "paused"):
            if name in hand:
                await self.inside.runner.post(h.Hand(f"reward/{reward}/{name}", hand[name]))
        book = self.book
        rows = [
            by_hand(r, hand, 0) if r.id == reward else row for r, row in zip(book.rewards, self._rows(), strict=True)
        ]
        await self.take(rewards=rows)

    @property
    def book(self) -> Book:
        return self.inside.runner.view.book

    def _rows(self) -> list[dict[str, Any]]:
        return list(book_json(self.book).get("rewards", []))

    async def take(self, **parts: Any) -> None:
        await self.inside.runner.post(h.NewBook({**book_json(self.book), **parts}))
        self.driver.book_changed()

    def at_channel(self) -> dict[str, dict[str, Any]]:
        """Returns rewards by their titles; a duplicate title is an error."""
        rows = self.there.call(self.channel.rewards.public)
        assert len({row["title"].casefold() for row in rows}) == len(rows), rows
        return {row["title"]: row for row in rows if row["made_by"] == "cue-jar"}

    def is_in_step(self) -> bool:
        view, there = self.inside.runner.view, self.at_channel()
        wanted = {r.title: r for r in view.book.rewards if not self.driver.rewards.is_gone(r.id)}
        return set(there) == set(wanted) and all(
            (there[t]["cost"], there[t]["on"], there[t]["paused"])
            == (
                view.showing(f"reward/{r.id}/cost"),
                view.showing(f"reward/{r.id}/on"),
                bool(view.showing(f"reward/{r.id}/paused")),
            )
            for t, r in wanted.items()
        )

    async def in_step(self, patience_s: float = 30) -> None:
        async with asyncio.timeout(patience_s):
            while not (self.driver.state == "in_step" and not self.driver.rewards.unsure and self.is_in_step()):
                await asyncio.sleep(0.01)

    async def stop(self) -> None:
        await self.driver.stop()
        await self.inside.stop()


async def one_step(two: Two, luck: random.Random) -> str:
    """Does something on one of both sides, or between them."""
    rewards = two.book.rewards
    rows = [dict(row) for row in two._rows()]
    ids = {title: row["id"] for title, row in two.at_channel().items()}
    what = luck.choice(
        [
            "make",
            "price",
            "switch",
            "remove",
            "hand",
            "hand",
            "fail",
            "lost",
            "twice",
            "lag",
            "forget",
            "quiet",
            "pause",
        ]
    )
    one = luck.choice(rewards) if rewards else None
    if what == "make" or one is None:
        free = [title for title in TITLES if title not in {r.title for r in rewards}]
        if free:
            title = luck.choice(free)
            await two.take(rewards=[*rows, {"id": title.lower(), "title": title, "cost": luck.randrange(1, 900)}])
    elif what == "price":
        await two.take(
            rewards=[{**row, "cost": luck.randrange(1, 900)} if row["id"] == one.id else row for row in rows]
        )
    elif what == "switch":
        await two.take(rewards=[{**row, "on": luck.random() < 0.5} if row["id"] == one.id else row for row in rows])
    elif what == "remove":
        await two.take(rewards=[row for row in rows if row["id"] != one.id])
    elif what == "pause":
        await two.take(house={"open": luck.random() < 0.5})
    elif what == "hand" and one.title in ids:
        change: dict[str, Any] = luck.choice([{"cost": luck.randrange(1_000, 2_000)}, {"on": luck.random() < 0.5}])
        there = two.channel.rewards
        two.there.call(lambda: there.change(there.of(ids[one.title]), RewardChange(**change)))
    elif what in ("fail", "lost"):
        status, after = luck.choice([429, 500, 503]), luck.choice(["", "0", "1"])
        two.channel.trouble = Trouble(
            status=status, times=luck.randrange(1, 4), retry_after=after, done=what == "lost", what="rewards"
        )
    elif what == "lag":
        two.channel.trouble = Trouble(slow_s=luck.choice([0.05, 0.2]), what="rewards")
    elif what == "twice":
        # All recent events are repeated.
        two.there.call(lambda: [two.channel.say(text) for text in list(two.channel.told.values())[-6:]])
    elif what == "forget":
        # The keys of reward requests, as after a restart; not the rewards.
        two.there.call(two.channel.rewards.made.clear)
    return what


async def one_night(folder: Path, there: StandIn, seed: int) -> Two:
    two = Two(folder, there)
    luck = random.Random(seed)
    await two.start()
    try:
        for _ in range(luck.randrange(4, 9)):
            await one_step(two, luck)
            await asyncio.sleep(luck.choice([0, 0, 0.01, 0.05]))
        two.channel.trouble = Trouble()
        await two.in_step()
        gone = [r.id for r in two.book.rewards if two.driver.rewards.is_gone(r.id)]
        assert gone == [], "nobody removed any by hand"
        assert all(row["made_by"] == "cue-jar" for row in there.call(two.channel.rewards.public))
    finally:
        await two.stop()
    return two


@pytest.mark.parametrize("share", range(4))
def test_whatever_comes_between_both_sides_end_in_step(
    share: int, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Interleavings of edits, changes by hand, failures, lost, late and repeated answers: each ends in step, with no
    reward made twice.
    """
    monkeypatch.setattr(reward_memory, "SURE_S", 0.3)
    for place in (reward_memory, channel_rewards):
        monkeypatch.setattr(place, "LATE_S", 0.5)
    monkeypatch.setattr("cuejar.live.drivers.channel.UNSURE_S", 0.05)
    monkeypatch.setattr("cuejar.pauses.Pauses.next", lambda pauses: 0.02)
    there = StandIn()
    try:
        for seed in range(share * INTERLEAVINGS // 4, (share + 1) * INTERLEAVINGS // 4):
            (folder := tmp_path / str(seed)).mkdir()
            for reward in list(there.app.state.channel.rewards.all):
                there.call(lambda r=reward: there.app.state.channel.rewards.remove(r))
            try:
                asyncio.run(one_night(folder, there, seed))
            except BaseException as error:
                raise AssertionError(f"the interleaving of seed {seed}") from error
    finally:
        there.stop()


TEA = {"id": "tea", "title": "Tea", "cost": 100}
CUE = {
    "id": "tea", "name": "Tea", "calls": [{"kind": "reward", "reward": "tea"}], "door": {"cap_stream": 2, "cooldown_s": 0},
    "beats": [{"id": "c", "kind": "caption", "text": "tea", "length": {"s": 0.1}}],
}  # fmt: skip


def _there(running: Running) -> dict[str, dict[str, Any]]:
    answer = running.channel.get("/rewards")
    answer.raise_for_status()
    return {row["title"]: row for row in answer.json()}


def _ticket(running: Running, reward: str = "tea") -> dict[str, Any]:
    rows: list[dict[str, Any]] = running.api.get("/api/rewards/tickets").json()["tickets"]
    return next(row for row in rows if row["id"] == reward)


def test_a_hand_at_the_channel_wins_and_the_book_says_what_it_was(running: Running) -> None:
    running.book(rewards=[TEA], cues=[CUE])
    there = until(lambda: (row := _there(running)["Tea"])["limits"]["per_stream"] == 2 and row)
    assert there["prompt"] == ""
    until(lambda: [row["standing"] for row in _ticket(running)["channels"]] == ["in_step"])
    hand = running.channel.patch(f"/hand/rewards/{there['id']}", json={"cost": 70, "title": "Cocoa", "on": False})
    hand.raise_for_status()
    until(lambda: _ticket(running)["title"] == "Cocoa")
    until(lambda: (row := _ticket(running)) and (row["cost"], row["on"], row["shows"]) == (70, False, False))
    undone = running.api.post("/api/book/undo").json()["what"]
    assert "price 70 (was 100)" in undone and "name “Cocoa” (was “Tea”)" in undone and "off (was on)" in undone
    # Undone here, it is restored there: ours again.
    until(lambda: "Tea" in _there(running) and _there(running)["Tea"]["cost"] == 100 and _there(running)["Tea"]["on"])
    # After an outage too, changes by hand win.
    running.kill_server()
    running.channel.patch(f"/hand/rewards/{there['id']}", json={"cost": 55}).raise_for_status()
    running.start_server()
    running.in_step()
    until(lambda: _ticket(running)["cost"] == 55)
    assert _there(running)["Tea"]["cost"] == 55


def test_what_a_hold_asked_for_is_nobody_s_hand_after_a_crash(running: Running) -> None:
    """The channel does it without an answer; the server dies. After the restart it recognises its own values, and they
    return.
    """
    beat = {"id": "r", "kind": "reward", "rewards": ["tea"], "on": False, "cost": 7, "length": {"s": 1.5}}
    hold = {"id": "hold", "name": "Hold", "calls": [{"kind": "chat", "match": "is", "text": "!hold"}], "beats": [beat]}
    running.book(rewards=[TEA, {"id": "horn", "title": "Horn", "cost": 9}], cues=[hold])
    until(lambda: _ticket(running)["channels"][0]["standing"] == "in_step")
    revisions = running.api.get("/api/books").json()
    for dead_s in (0.0, 2.0):
        trouble = {"status": 503, "times": 1, "done": True, "what": "rewards", "retry_after": "30"}
        running.channel.post("/trouble", json=trouble).raise_for_status()
        running.channel.post("/chat", json={"viewer": "owlpost", "text": "!hold"}).raise_for_status()
        until(lambda: (_there(running)["Tea"]["cost"], _there(running)["Tea"]["on"]) == (7, False), every=0.01)
        running.kill_server()
        time.sleep(dead_s)
        running.start_server()
        running.in_step()
        until(lambda: (_there(running)["Tea"]["cost"], _there(running)["Tea"]["on"]) == (100, True))
        until(lambda: _ticket(running)["channels"][0]["standing"] == "in_step")
        assert running.api.get("/api/books").json() == revisions, "no hand was there"
    # A later change by hand is one, even if it sets another field of the same reward.
    running.channel.patch(f"/hand/rewards/{_there(running)['Tea']['id']}", json={"prompt": "Milk?"}).raise_for_status()
    until(lambda: _ticket(running)["prompt"] == "Milk?")


def test_a_reward_removed_there_is_asked_about_and_nothing_of_others_is_touched(running: Running) -> None:
    other = running.channel.post("/hand/rewards", json={"title": "Somebody’s own", "cost": 5}).json()
    running.book(rewards=[TEA, {"id": "horn", "title": "Horn", "cost": 9}])
    until(lambda: {"Tea", "Horn"} <= set(_there(running)))
    until(lambda: _ticket(running)["channels"][0]["standing"] == "in_step")
    running.channel.delete(f"/hand/rewards/{_there(running)['Tea']['id']}").raise_for_status()
    until(lambda: _ticket(running)["channels"][0]["standing"] == "gone", patience_s=20)
    running.book(rewards=[{**TEA, "cost": 120}, {"id": "horn", "title": "Horn", "cost": 9}])
    running.kill_server()
    running.start_server()
    running.in_step()
    assert _ticket(running)["channels"][0]["standing"] == "gone" and "Tea" not in _there(running), (
        "asked, also after a restart"
    )
    refused = running.api.post("/api/rewards/horn/again")
    assert refused.status_code == 409 and "wasn’t removed" in refused.json()["what"]
    running.api.post("/api/rewards/tea/again").raise_for_status()
    assert until(lambda: _there(running)["Tea"])["cost"] == 120
    running.api.post("/api/rewards/remove", json={"rewards": ["tea", "horn"]}).raise_for_status()
    until(lambda: set(_there(running)) == {"Somebody’s own"})
    assert _there(running)["Somebody’s own"]["id"] == other["id"]


def test_a_reward_made_elsewhere_calls_a_cue_and_is_taken_over(running: Running) -> None:
    other = running.channel.post("/hand/rewards", json={"title": "Tea", "cost": 40, "prompt": "Milk?"}).json()
    others = until(lambda: running.api.get("/api/rewards/tickets").json()["others"])
    assert (others[0]["title"], others[0]["reward"]) == ("Tea", None)
    where = {"channel": others[0]["channel"], "id": other["id"]}
    taken = running.api.post("/api/rewards/take-in", json=where).json()
    assert taken["reward"]["elsewhere"] and taken["reward"]["cost"] == 40
    running.book(cues=[CUE])
    until(lambda: _ticket(running)["channels"][0]["standing"] == "elsewhere")
    redeemed = running.redeem("owlpost", "Tea")
    until(lambda: running.api.get("/api/ledger?cue=tea").json()["total"] == 1)
    assert running.state_of(redeemed) == "unfulfilled", "only who made it settles it"
    assert running.api.get("/api/health").json()["owed"]["settlements"] == 0
    said = running.api.post("/api/rewards/take-over", json=where).json()
    assert "Remove the old “Tea”" in said["by_hand"] and not said["reward"]["elsewhere"]
    stand = until(lambda: next((s for s in _ticket(running)["channels"] if s["standing"] == "refused"), None))
    assert "made elsewhere" in stand["problem"]
    running.channel.delete(f"/hand/rewards/{other['id']}").raise_for_status()
    ours = until(lambda: next((r for r in _there(running).values() if r["made_by"] == "cue-jar"), None))
    assert (ours["title"], ours["cost"], ours["prompt"]) == ("Tea", 40, "Milk?")
    again = running.redeem("owlpost", "Tea")
    until(lambda: running.state_of(again) == "fulfilled")


def test_viewers_are_not_let_run_into_a_closed_door(running: Running) -> None:
    running.book(rewards=[TEA], cues=[CUE])
    until(lambda: "Tea" in _there(running))
    running.channel.post("/stream", json={"state": "live"}).raise_for_status()
    until(lambda: running.state()["show"]["on_air"])
    for _ in range(2):
        running.redeem("owlpost", "Tea")
    until(lambda: _there(running)["Tea"]["paused"])
    refused = running.channel.post("/redemptions", json={"viewer": "owlpost", "reward": "Tea"})
    assert refused.status_code == 409 and "paused" in refused.text
    assert "limit for this stream reached" in _ticket(running)["closed"]
    # The streamer may still leave it open; or open it there by hand.
    running.book(rewards=[{**TEA, "closed": "refund"}], cues=[CUE])
    until(lambda: not _there(running)["Tea"]["paused"])
    running.book(rewards=[TEA], cues=[CUE])
    until(lambda: _there(running)["Tea"]["paused"])
    until(lambda: _ticket(running)["channels"][0]["standing"] == "in_step")
    running.channel.patch(f"/hand/rewards/{_there(running)['Tea']['id']}", json={"paused": False}).raise_for_status()
    until(lambda: not _ticket(running)["paused"])
    running.channel.post("/stream", json={"state": "ended"}).raise_for_status()
    until(lambda: not running.state()["show"]["on_air"])
    assert not _there(running)["Tea"]["paused"]


def test_a_channel_that_cannot_pause_or_limit_gets_what_it_can(running: Running) -> None:
    running.channel.post(
        "/can", json={"pause": False, "limits": False, "order": False, "presence": False}
    ).raise_for_status()
    running.kill_server()
    running.start_server()
    running.in_step()
    running.book(rewards=[TEA], cues=[{**CUE, "on": False}])
    row = until(lambda: _there(running)["Tea"])
    until(lambda: not _there(running)["Tea"]["on"])
    assert row["limits"] == {"cooldown_s": 0, "per_stream": 0, "per_viewer": 0}
    running.channel.post("/can", json={"rewards": False}).raise_for_status()
    running.kill_server()
    running.start_server()
    running.in_step()
    assert _ticket(running)["channels"][0]["standing"] == "missing"


def test_the_order_and_a_set_of_a_hundred_reach_the_channel(running: Running) -> None:
    many = [{"id": f"r{n}", "title": f"Reward {n:03d}", "cost": n + 1} for n in range(100)]
    sets = [{"id": "all", "name": "All", "rewards": [row["id"] for row in many]}]
    running.book(rewards=many, sets=sets)
    until(lambda: len(_there(running)) == 100)
    until(lambda: list(_there(running)) == [row["title"] for row in many])
    running.api.post("/api/rewards/order", json={"order": ["r99", "r0"]}).raise_for_status()
    until(lambda: list(_there(running))[:3] == ["Reward 099", "Reward 000", "Reward 001"])
    running.channel.post(
        "/trouble", json={"status": 429, "times": 3, "retry_after": "1", "what": "rewards"}
    ).raise_for_status()
    running.api.put("/api/book/sets/all", json={"value": {**sets[0], "on": False}}).raise_for_status()
    until(lambda: not any(row["on"] for row in _there(running).values()))
    running.api.put("/api/book/sets/all", json={"value": sets[0]}).raise_for_status()
    until(lambda: all(row["on"] for row in _there(running).values()))


def test_a_bare_channel_answers_the_hand_and_refuses_programs(running: Running) -> None:
    """The stand-in's own rules: programs can't touch others' rewards, limits, and its order."""
    other = running.channel.post(
        "/hand/rewards", json={"title": "Own", "cost": 5, "limits": {"per_viewer": 1, "cooldown_s": 60}}
    ).json()
    for answer in (
        running.channel.patch(f"/rewards/{other['id']}", json={"cost": 1}),
        running.channel.delete(f"/rewards/{other['id']}"),
    ):
        assert answer.status_code == 403 and "made elsewhere" in answer.text
    redeem = {"viewer": "owlpost", "reward": other["id"]}
    first = running.channel.post("/redemptions", json=redeem).json()
    again = running.channel.post("/redemptions", json=redeem)
    assert again.status_code == 409 and "reached your limit" in again.text
    waits = running.channel.post("/redemptions", json={**redeem, "viewer": "hopper_kit"})
    assert waits.status_code == 409 and "cooling down" in waits.text
    settled = running.channel.patch(f"/redemptions/{first['id']}", json={"state": "refunded"})
    assert settled.status_code == 403
    assert isinstance(NewReward(title="x", cost=1).limits.per_stream, int) and httpx.__version__
