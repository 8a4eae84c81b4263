"""Timers of the day on a clock of our own: once each, only while live, never late."""

from __future__ import annotations

import asyncio
from datetime import datetime, timedelta
from types import SimpleNamespace
from typing import Any

import pytest

from cuejar.core.book.files import book_from
from cuejar.live.timers import DayTimers

BOOK = book_from({"cues": [{"id": "c", "name": "C", "calls": [{"kind": "clock", "at_time": "21:30"}]}]})


@pytest.mark.parametrize(
    ("steps", "on_air", "wanted"),
    [
        ([1.0] * 200, True, ["clock/2026-05-01/21:30/c"]),
        ([1.0] * 200, False, []),
        ([3600.0] + [1.0] * 100, True, []),
        ([1.0] * 100 + [86_340.0] + [1.0] * 200, True, ["clock/2026-05-01/21:30/c", "clock/2026-05-02/21:30/c"]),
    ],
    ids=["live", "off air", "the computer slept through it", "two days"],
)
def test_a_time_that_comes(
    steps: list[float], on_air: bool, wanted: list[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    wall, put = [datetime(2026, 5, 1, 21, 29, 0)], []
    runner: Any = SimpleNamespace(
        view=SimpleNamespace(book=BOOK, on_air=on_air), put=lambda happening, event: put.append(event)
    )
    left = iter(steps)

    async def sleep(seconds: float) -> None:
        try:
            wall[0] += timedelta(seconds=next(left))
        except StopIteration:
            raise asyncio.CancelledError from None

    monkeypatch.setattr("cuejar.live.timers.asyncio.sleep", sleep)
    with pytest.raises(asyncio.CancelledError):
        asyncio.run(DayTimers(runner, lambda: wall[0]).keep())
    assert put == wanted
