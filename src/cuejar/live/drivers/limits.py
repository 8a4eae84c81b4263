"""Limits on incoming data, before any of it is read: how long an answer may be, and how much may come per second."""

from __future__ import annotations

import asyncio
import time
from collections.abc import AsyncIterator
from typing import Any, Final

import httpx

MOST_ANSWER = 8_000_000
"""Maximum bytes of an answer over HTTP."""
ANSWER_S = 20.0
"""How long an answer may take, from its first byte."""
MOST_MESSAGE = 4_000_000
"""Maximum bytes of a message over a WebSocket."""
MESSAGES_A_SECOND, BYTES_A_SECOND = 2_000, 4_000_000
ALIVE: Final[dict[str, Any]] = {"ping_interval": 3, "ping_timeout": 5, "close_timeout": 1}
"""How a WebSocket is watched: after sleep or without a network nobody says that it is lost."""
BURST_S = 2.0
"""The maximum burst: the amount of this many seconds at the normal rate."""


class _Stream(httpx.AsyncByteStream):
    def __init__(self, inside: httpx.AsyncByteStream) -> None:
        self._inside = inside

    async def __aiter__(self) -> AsyncIterator[bytes]:
        read, begun = 0, time.monotonic()
        async for part in self._inside:
            read += len(part)
            if read > MOST_ANSWER:
                raise httpx.ReadError(f"its answer is longer than {MOST_ANSWER // 1_000_000} MB")
            if time.monotonic() - begun > ANSWER_S:
                raise httpx.ReadError(f"its answer took longer than {ANSWER_S:g} s")
            yield part

    async def aclose(self) -> None:
        await self._inside.aclose()


class Limited(httpx.AsyncBaseTransport):
    """A transport whose answers end: limited to `MOST_ANSWER`, and uncompressed, as compressed ones may expand to any
    length.
    """

    def __init__(self, inside: httpx.AsyncBaseTransport) -> None:
        self._inside = inside

    async def handle_async_request(self, request: httpx.Request) -> httpx.Response:
        request.headers["Accept-Encoding"] = "identity"
        answer = await self._inside.handle_async_request(request)
        if answer.headers.get("content-encoding", "identity").strip().lower() not in ("", "identity"):
            await answer.aclose()
            raise httpx.ReadError("its answer is compressed without being asked for")
        assert isinstance(answer.stream, httpx.AsyncByteStream)
        return httpx.Response(
            answer.status_code, headers=answer.headers, stream=_Stream(answer.stream), extensions=answer.extensions
        )

    async def aclose(self) -> None:
        await self._inside.aclose()


class Pace:
    """How fast messages are read: a faster sender has to wait, as its messages stay on the line."""

    def __init__(self, messages_a_second: float = MESSAGES_A_SECOND, bytes_a_second: float = BYTES_A_SECOND) -> None:
        self._rates = (messages_a_second, bytes_a_second)
        self._behind_s = 0.0
        self._at = time.monotonic()

    async def take(self, size: int) -> None:
        """Notes that a message of this size was read; waits while that is too much."""
        now = time.monotonic()
        messages, octets = self._rates
        self._behind_s = max(0.0, self._behind_s - (now - self._at)) + max(1 / messages, size / octets)
        self._at = now
        if self._behind_s > BURST_S:
            await asyncio.sleep(self._behind_s - BURST_S)
