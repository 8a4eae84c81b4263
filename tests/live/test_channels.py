"""Channels as gear: connected by their token, several at once, each with its own viewers, rewards, redemptions and
replies.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import pytest

from cuejar.core.facts.origin import joined, parted
from tests.live.standin import StandIn
from tests.running import Running, client, until

TOKEN = "branch-line-token"


@pytest.fixture
def branch() -> Iterator[StandIn]:
    """A second channel that needs a token."""
    made = StandIn(token=TOKEN)
    yield made
    made.stop()


class Branch:
    """The second channel as its viewers see it, and what Cue Jar says of it."""

    def __init__(self, running: Running, port: int) -> None:
        self.running = running
        address = f"http://127.0.0.1:{port}"
        self.web = client(f"{address}/channel")
        running.book(gear=[{"id": "branch", "kind": "channel", "name": "Branch line", "address": address}])

    def row(self) -> dict[str, Any]:
        rows: list[dict[str, Any]] = self.running.api.get("/api/gear").json()
        return next(row for row in rows if row["id"] == "branch")

    def token(self, token: str) -> None:
        self.running.api.put("/api/gear/branch/secret", json={"secret": token}).raise_for_status()

    def post(self, path: str, **body: Any) -> Any:
        answer = self.web.post(path, json=body)
        answer.raise_for_status()
        return answer.json()

    def row_in_book(self) -> dict[str, Any]:
        gear: list[dict[str, Any]] = self.running.api.get("/api/book").json()["book"]["gear"]
        return gear[0]

    def rewards(self) -> set[str]:
        return {reward["title"] for reward in self.web.get("/rewards").json()}

    def verdicts(self) -> dict[str, str]:
        return {row["call"]: row["verdict"] for row in self.running.api.get("/api/ledger").json()["lines"]}


@pytest.mark.parametrize(
    ("channel", "theirs", "ours"),
    [("", "rd-1", "rd-1"), ("", "a:b", ":a:b"), ("branch", "rd-1", "branch:rd-1"), ("branch", ":", "branch::")],
)
def test_ids_of_channels_come_apart_again(channel: str, theirs: str, ours: str) -> None:
    assert joined(channel, theirs) == ours and parted(ours) == (channel, theirs)


def test_a_channel_is_let_in_by_its_token_alone(running: Running, branch: StandIn) -> None:
    there = Branch(running, branch.port)
    until(lambda: "it asks for a token" in there.row()["problem"])
    there.token("another")
    until(lambda: "the token is wrong" in there.row()["problem"])
    assert there.row()["state"] == "away" and there.row()["has_secret"]
    refused = running.api.post("/api/gear/branch/test")
    assert refused.status_code == 409 and "the token is wrong" in refused.json()["what"]
    assert running.api.get("/api/health").json()["channel"] == "away", "the worst of them"
    there.token(TOKEN)
    until(lambda: there.row()["state"] == "in_step")
    assert "has rewards, replies" in running.api.post("/api/gear/branch/test").json()["what"]
    assert TOKEN not in running.api.get("/api/book").text + running.api.get("/api/wires").text
    running.book(gear=[{"id": "branch", "kind": "channel", "name": "Branch line", "address": "http://127.0.0.1:1"}])
    until(lambda: "answer" in there.row()["problem"])
    running.book(gear=[{"id": "branch", "kind": "channel", "name": "Branch line", "on": False}])
    until(lambda: there.row()["problem"] == "It is switched off.")


def test_two_channels_at_once(running: Running, branch: StandIn) -> None:
    there = Branch(running, branch.port)
    there.token(TOKEN)
    running.book(
        rewards=[
            {"id": "tea", "title": "Tea break", "cost": 100},
            {"id": "points", "title": "Change the points", "cost": 200, "channel": "branch"},
        ],
        cues=[
            {
                "id": "tea", "name": "Tea break", "door": {"viewer_cooldown_s": 600}, "entry": "overlap",
                "calls": [{"kind": "reward", "reward": "tea"}, {"kind": "chat", "match": "is", "text": "tea"}],
                "beats": [{"id": "say", "kind": "reply", "text": "A cup for {{viewer}}."}],
            }
        ],
    )  # fmt: skip
    until(lambda: there.rewards() == {"Tea break", "Change the points"})
    until(lambda: {r["title"] for r in running.channel.get("/rewards").json()} == {"Tea break"})
    # The same viewer at both counts as two: separate cooldowns, and each is answered where they are.
    here = running.redeem("owlpost", "Tea break")
    until(lambda: running.state_of(here) == "fulfilled")
    redeemed = there.post("/redemptions", viewer="owlpost", reward="Tea break")["id"]
    until(lambda: there.web.get(f"/redemptions/{redeemed}").json()["state"] == "fulfilled")
    again = there.post("/redemptions", viewer="owlpost", reward="Tea break")["id"]
    until(lambda: there.web.get(f"/redemptions/{again}").json()["state"] == "refunded")
    assert there.verdicts()[f"branch:{again}"] == "turned_away" and there.verdicts()[here] == "let_in"
    until(lambda: len(there.web.get("/chat").json()) == 1 and len(running.channel.get("/chat").json()) == 1)
    # The show is on air while any of them is.
    on_air = lambda: running.state()["show"]["on_air"]  # noqa: E731
    running.channel.post("/stream", json={"state": "live"}).raise_for_status()
    there.post("/stream", state="live")
    running.channel.post("/stream", json={"state": "ended"}).raise_for_status()
    there.post("/chat", viewer="hopper_kit", text="tea")
    until(lambda: sum(verdict == "let_in" for verdict in there.verdicts().values()) == 3)
    assert on_air(), "the branch line goes on"
    there.post("/stream", state="ended")
    until(lambda: not on_air())


def test_what_is_owed_waits_for_its_channel_and_for_as_long_as_it_says(running: Running, branch: StandIn) -> None:
    there = Branch(running, branch.port)
    there.token(TOKEN)
    running.book(rewards=[{"id": "tea", "title": "Tea break", "cost": 100}])
    until(lambda: there.rewards() == {"Tea break"})
    cue = {"id": "tea", "name": "Tea", "calls": [{"kind": "reward", "reward": "tea"}], "beats": []}
    running.book(cues=[{**cue, "beats": [{"id": "n", "kind": "count", "name": "cups"}]}])
    there.post("/trouble", status=503, times=3, retry_after="1")
    redeemed = there.post("/redemptions", viewer="owlpost", reward="Tea break")["id"]
    until(lambda: running.api.get("/api/health").json()["owed"]["settlements"] == 1)
    # Killed and switched off meanwhile, it is owed to nobody else.
    running.book(gear=[{**there.row_in_book(), "on": False}])
    running.kill_server()
    running.start_server()
    running.in_step()
    assert running.api.get("/api/health").json()["owed"]["settlements"] == 1
    running.book(gear=[{**there.row_in_book(), "on": True}])
    until(lambda: there.web.get(f"/redemptions/{redeemed}").json()["state"] == "fulfilled")
    until(lambda: running.api.get("/api/health").json()["owed"]["settlements"] == 0)


def test_an_address_or_token_that_cannot_be_is_said_and_nothing_falls(running: Running, branch: StandIn) -> None:
    there = Branch(running, branch.port)
    right = there.row_in_book()
    for address in ("kettle", "http://[bad", "http://127.0.0.1:99999", "ftp://halt", f"ws://127.0.0.1:{branch.port}"):
        running.book(gear=[{**right, "address": address}])
        until(lambda address=address: there.row()["problem"].startswith(f"“{address}” is no address of a channel"))
        assert running.api.post("/api/gear/branch/test").status_code == 409
    running.book(gear=[{**right, "address": right["address"] + "/channel/"}])
    for odd in ("tök ü", "a\nb"):
        there.token(odd)
        until(lambda: "a character that no token can have" in there.row()["problem"])
    there.token(f"  {TOKEN}\n")
    until(lambda: there.row()["state"] == "in_step")
    assert all(task["falls"] == 0 for task in running.api.get("/api/health").json()["tasks"])


def test_a_channel_is_heard_once_however_often_it_is_in_the_book(running: Running, branch: StandIn) -> None:
    there = Branch(running, branch.port)
    there.token(TOKEN)
    until(lambda: there.row()["state"] == "in_step")
    right = there.row_in_book()
    running.book(gear=[{**right, "id": "again", "name": "Again", "address": right["address"] + "/"}])
    row = until(lambda: next((r for r in running.api.get("/api/gear").json() if r["id"] == "again"), None))
    assert (row["state"], row["problem"]) == ("off", "Branch line is heard at this address already; give it another.")
    running.book(
        cues=[{"id": "tea", "name": "Tea", "calls": [{"kind": "chat", "match": "is", "text": "tea"}], "beats": []}]
    )
    there.post("/chat", viewer="hopper_kit", text="tea")
    until(there.verdicts)
    running.book(gear=[{**right, "on": False}])
    until(
        lambda: (
            "asks for a token" in next(r for r in running.api.get("/api/gear").json() if r["id"] == "again")["problem"]
        )
    )
    assert len(there.verdicts()) == 1, "heard once; and the other one takes over when the first is off"


def test_a_given_channel_that_comes_into_the_book_keeps_what_it_is_owed(running: Running) -> None:
    cue = {"id": "tea", "name": "Tea", "calls": [{"kind": "reward", "reward": "tea"}], "entry": "queue"}
    running.book(rewards=[{"id": "tea", "title": "Tea break", "cost": 100}])
    running.book(cues=[{**cue, "beats": [{"id": "c", "kind": "caption", "text": "tea", "length": {"s": 600}}]}])
    until(lambda: running.channel.get("/rewards").json())
    first, waiting = running.redeem("owlpost", "Tea break"), running.redeem("hopper_kit", "Tea break")
    until(lambda: running.state_of(first) == "fulfilled")
    address = f"http://127.0.0.1:{running.port + 10}"
    running.book(gear=[{"id": "halt", "kind": "channel", "name": "Halt", "address": address}])
    until(lambda: running.api.get("/api/gear").json()[0]["state"] == "in_step")
    running.api.post("/api/all-to-rest").raise_for_status()
    until(lambda: running.state_of(waiting) == "refunded")
    calls = [line["call"] for line in running.api.get("/api/ledger").json()["lines"]]
    assert sorted(calls) == sorted([first, waiting]), "what waited was not heard once more"
    again = running.redeem("owlpost", "Tea break")
    until(lambda: running.state_of(again) == "fulfilled")
    assert running.channel.get("/contradicted").json() == {}
