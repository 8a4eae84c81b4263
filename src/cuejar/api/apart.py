"""Long work for one request; it ends when the client closes the connection."""

from __future__ import annotations

import asyncio
from collections.abc import Coroutine
from typing import Any, TypeVar

import anyio
from fastapi import Request

R = TypeVar("R")
LOOK_S = 0.5


class Gone(Exception):
    """The client closed the connection."""


async def while_there(request: Request, work: Coroutine[Any, Any, R]) -> R:
    """Returns the result of the work.

    Raises:
        Gone: the connection was closed first; the work is cancelled.
    """
    done: list[R] = []
    failed: list[Exception] = []

    async def look() -> None:
        while not await request.is_disconnected():
            await asyncio.sleep(LOOK_S)
        group.cancel_scope.cancel()

    async with anyio.create_task_group() as group:
        group.start_soon(look)
        try:
            done.append(await work)
        except Exception as error:
            failed.append(error)
        group.cancel_scope.cancel()
    if failed:
        raise failed[0]
    if not done:
        raise Gone
    return done[0]
