"""Counts and replies in chat, reading the last text again, and the message when a reply reaches nobody."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import httpx
from websockets.sync.client import connect

from tests import copies
from tests.running import PATIENCE_S, Running, until

TEA = {
    "id": "tea",
    "name": "Tea",
    "calls": [{"kind": "chat", "match": "is", "text": "!tea"}],
    "entry": "overlap",
    "beats": [
        {"id": "n", "kind": "count", "name": "cups"},
        {"id": "r", "kind": "reply", "text": "{{viewer}}: after {{count.cups}} cups"},
        {"id": "third", "kind": "reply", "text": "the pot is empty", "only_if": [{"count": "cups", "number": 2}]},
    ],
}


def replies(running: Running) -> list[str]:
    return [row["text"] for row in running.channel.get("/chat").json() if row["id"].startswith("reply-")]


def failures(api: httpx.Client) -> list[str]:
    lines = api.get("/api/ledger").json()["lines"]
    return [str(note["why"]) for line in lines for note in line["notes"] if note.get("why")]


def test_counts_and_replies(running: Running) -> None:
    running.book(cues=[TEA])
    for number in range(1, 4):
        running.channel.post("/chat", json={"viewer": "owlpost", "text": "!TEA "}).raise_for_status()
        until(lambda n=number: len([text for text in replies(running) if "cups" in text]) == n)
    until(lambda: len(replies(running)) == 4)
    assert [text for text in replies(running) if "cups" in text][1:] == [
        "owlpost: after 1 cups",
        "owlpost: after 2 cups",
    ]
    assert replies(running).count("the pot is empty") == 1
    # A count survives a kill; a reply isn't repeated.
    running.kill_server()
    running.start_server()
    running.in_step()
    running.channel.post("/chat", json={"viewer": "owlpost", "text": "!tea"}).raise_for_status()
    until(lambda: "owlpost: after 3 cups" in replies(running))
    assert len([text for text in replies(running) if "cups" in text]) == 4
    # With the channel disconnected the ledger says so, and it is never said late in chat.
    assert failures(running.api) == []
    running.kill_standins()
    until(lambda: running.api.get("/api/health").json()["channel"] == "away")
    running.api.post("/api/cues/tea/fire").raise_for_status()
    until(lambda: failures(running.api))
    assert set(failures(running.api)) == {"the reply did not reach the chat: the channel does not answer"}


def test_a_reply_with_no_channel_at_all_is_said(tmp_path: Path) -> None:
    made = Running(tmp_path / "data")
    made.server = copies.start(["serve", "--port", str(made.port), "--data", str(made.data)], tmp_path / "serve.log")
    try:
        until(lambda: made.api.get("/api/health").is_success)
        made.book(cues=[TEA])
        made.api.post("/api/cues/tea/fire").raise_for_status()
        until(lambda: failures(made.api))
        assert set(failures(made.api)) == {"the reply did not reach the chat: there is no channel"}
    finally:
        made.stop()


def test_the_last_text_is_read_again(running: Running) -> None:
    refused = running.api.post("/api/speech/repeat")
    assert (refused.status_code, refused.json()["what"]) == (409, "Nothing has been read yet.")
    say: dict[str, Any] = {
        "id": "say",
        "name": "Say",
        "calls": [{"kind": "chat", "match": "starts", "text": "!say"}],
        "door": {"text": {"need": True}, "viewer_cooldown_s": 600},
        "beats": [{"id": "s", "kind": "speech", "text": "{{text}}"}],
    }
    running.book(cues=[say])
    with connect(running.overlay_feed(), proxy=None) as feed:

        def heard() -> list[str]:
            while True:
                message = json.loads(feed.recv(timeout=PATIENCE_S))
                if message.get("t") == "show":
                    return [word[0] for word in message["speech"]["words"]]

        running.channel.post("/chat", json={"viewer": "owlpost", "text": "!say mind the gap"}).raise_for_status()
        assert heard() == ["mind", "the", "gap"]
        assert running.api.post("/api/speech/repeat").json() == {"cue": "say"}
        assert heard() == ["mind", "the", "gap"], "the cooldown does not count for it"
    assert {voice["id"] for voice in running.api.get("/api/voices").json()["voices"]} >= {"en-gb", "de"}
