"""Long work for one request: it ends when whoever asked for it is gone."""

from __future__ import annotations

import asyncio
from collections.abc import Coroutine
from typing import Any, TypeVar

from fastapi import Request

R = TypeVar("R")
LOOK_S = 0.5


class Gone(Exception):
    """Whoever asked closed the connection."""


async def while_there(request: Request, work: Coroutine[Any, Any, R]) -> R:
    """The result of work.

    Raises:
        Gone: the connection was closed before; the work is cancelled.
    """
    task = asyncio.ensure_future(work)
    try:
        while not (await asyncio.wait([task], timeout=LOOK_S))[0]:
            if await request.is_disconnected():
                raise Gone
        return task.result()
    finally:
        task.cancel()
