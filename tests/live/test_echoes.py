"""What a channel reports about its rewards: our own requests come back, and aren't changes by hand; everything else is."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import httpx
import pytest

from cuejar.core.book.book import Book
from cuejar.live.drivers.channel_rewards import Rewards
from cuejar.live.drivers.reward_given import GivenPictures
from cuejar.live.drivers.reward_memory import LATE_S, SURE_S, There
from cuejar.live.wirelog import WireLog
from tests.inside import Inside
from tests.live.standin import NoPictures

TEA = {"title": "Tea", "cost": 100, "paused": False}
DEAR = {**TEA, "cost": 250}
NOW = 1_000.0


async def _no_hand(channel: str, reward: str, hand: dict[str, Any], was: dict[str, Any]) -> None:
    raise AssertionError("nobody asked for this")


@pytest.fixture
def rewards(tmp_path: Path) -> Rewards:
    inside = Inside(tmp_path, Book())
    http, sessions, log = httpx.AsyncClient(), inside.database.sessions, WireLog()
    given = GivenPictures("halt", http, inside.runner, sessions, log, NoPictures())
    made = Rewards("halt", http, inside.runner, sessions, log, _no_hand, given)
    made.ids = {"tea": "their-7"}
    made._there["tea"] = There(dict(TEA))
    return made


@pytest.mark.parametrize(
    ("told", "echo"),
    [
        ({"id": "their-7", **TEA}, True),
        ({"id": "their-7", **TEA, "made_by": "somebody", "colour": "#f0a23c"}, True),
        ({"id": "their-7", **TEA, "cost": 101}, False),
        ({"id": "their-7", "title": "Tea", "cost": 100}, False),
        ({"id": "their-8", **TEA}, False),
        ({"id": None, **TEA}, False),
        ({"id": ["their-7"], **TEA}, False),
        (TEA, False),
        ("their-7", False),
        (None, False),
    ],
)
def test_what_is_as_it_was_confirmed_is_an_echo(rewards: Rewards, told: Any, echo: bool) -> None:
    assert rewards.is_echo(told) is echo


def test_while_something_is_asked_for_only_that_is_an_echo(rewards: Rewards) -> None:
    """A hand may have restored what was confirmed, after the request."""
    tea = rewards._there["tea"]
    tea.asked(dict(DEAR), NOW)
    assert rewards.is_echo({"id": "their-7", **DEAR})
    assert not rewards.is_echo({"id": "their-7", **TEA})
    tea.confirmed(dict(DEAR), NOW)
    assert rewards.is_echo({"id": "their-7", **DEAR})
    assert not rewards.is_echo({"id": "their-7", **TEA})


def test_of_one_that_is_gone_or_was_never_confirmed_nothing_is_an_echo(rewards: Rewards) -> None:
    rewards._there["tea"].is_there(False)
    assert not rewards.is_echo({"id": "their-7", **TEA})
    rewards._there["tea"] = There()
    assert not rewards.is_echo({"id": "their-7"}), "no value is no agreement"


def test_what_was_so_before_may_be_told_a_while_longer() -> None:
    tea = There(dict(TEA))
    assert not tea.is_unwritten and not tea.may_be_old("cost", 100, NOW)
    tea.confirmed(dict(DEAR), NOW)
    assert tea.is_unwritten and tea.is_fresh(NOW)
    assert tea.may_be_old("cost", 100, NOW + SURE_S / 2)
    assert not tea.may_be_old("cost", 99, NOW + SURE_S / 2), "it never was that"
    assert not tea.may_be_old("cost", 100, NOW + SURE_S), "by now it is a hand"
    assert not tea.is_fresh(NOW + SURE_S)


def test_what_was_asked_for_and_never_confirmed_may_be_told_too() -> None:
    """The answer was lost: nobody knows whether it was done."""
    tea = There(dict(TEA))
    tea.asked(dict(DEAR), NOW)
    assert tea.may_be_old("cost", 250, NOW + SURE_S / 2) and tea.values == TEA
    assert tea.is_unwritten and tea.unconfirmed["cost"] == [250], "written down before it goes out"
    assert tea.is_ours("cost", 250, NOW + 10 * LATE_S), "however long nobody answers"
    tea.is_unwritten = False
    tea.confirmed(dict(TEA), NOW + 1)
    assert tea.wish == {} and tea.unconfirmed == {} and tea.is_unwritten
    assert tea.is_ours("cost", 250, NOW + LATE_S) and not tea.is_ours("cost", 250, NOW + 2 * LATE_S), "done late"
    # Requests by an earlier process, and by a hold, are ours for a while; answered ones may only be reported once more.
    again = There(dict(TEA), asked={"cost": [7]})
    assert again.is_ours("cost", 7, NOW) and not again.is_ours("cost", 8, NOW) and not again.is_ours("title", 7, NOW)
    for held in (["cost"], []):
        one = There(dict(TEA))
        one.asked({"cost": 7}, NOW, held)
        one.confirmed({**TEA, "cost": 7}, NOW, {"cost": 7})
        one.asked({"cost": 100}, NOW)
        one.confirmed(dict(TEA), NOW, {"cost": 100})
        assert one.is_ours("cost", 7, NOW + SURE_S) is bool(held) and one.may_be_old("cost", 7, NOW)
    tea.is_there(False)
    assert tea.is_unwritten and not tea.is_fresh(NOW + 1), "what is gone was not asked for just now"
