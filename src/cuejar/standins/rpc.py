"""JSON-RPC 2.0 over a WebSocket, answering side."""

from __future__ import annotations

import asyncio
import contextlib
import json
from collections.abc import Callable
from typing import Any

from fastapi import WebSocket, WebSocketDisconnect

from cuejar.standins.panel import Refused

PARSE, INVALID, UNKNOWN, PARAMS = -32700, -32600, -32601, -32602


def answered(text: str, do: Callable[[str, dict[str, Any]], Any]) -> dict[str, Any] | None:
    """Returns the response to one message; none for a notification.

    Args:
        do: calls a method with its parameters and returns the result; it may raise Refused, KeyError or TypeError.
    """
    try:
        call = json.loads(text)
    except (ValueError, RecursionError):
        return _error(None, PARSE, "this is not JSON")
    if not isinstance(call, dict) or call.get("jsonrpc") != "2.0" or not isinstance(call.get("method"), str):
        return _error(call.get("id") if isinstance(call, dict) else None, INVALID, "this is no call")
    number, params = call.get("id"), call.get("params", {})
    try:
        if not isinstance(params, dict):
            raise Refused("params must be an object", PARAMS)
        result = do(call["method"], params)
    except Refused as refused:
        return None if number is None else _error(number, refused.code, str(refused))
    except (KeyError, TypeError) as error:
        return None if number is None else _error(number, PARAMS, f"a parameter is missing or wrong: {error}")
    return None if number is None else {"jsonrpc": "2.0", "id": number, "result": result}


def _error(number: Any, code: int, message: str) -> dict[str, Any]:
    return {"jsonrpc": "2.0", "id": number, "error": {"code": code, "message": message}}


MOST_WAITING = 5_000


class Line:
    """The outgoing messages of one connection, in order. A client that doesn't take them in time misses the rest."""

    def __init__(self, socket: WebSocket) -> None:
        self.socket = socket
        self._waiting: asyncio.Queue[dict[str, Any]] = asyncio.Queue(MOST_WAITING)

    def hear(self, message: dict[str, Any]) -> None:
        with contextlib.suppress(asyncio.QueueFull):
            self._waiting.put_nowait(message)

    async def speak(self) -> None:
        while True:
            await self.socket.send_text(json.dumps(await self._waiting.get(), ensure_ascii=False))


async def said(socket: WebSocket) -> str:
    """Returns the next message, as text. Raises WebSocketDisconnect."""
    message = await socket.receive()
    if message["type"] == "websocket.disconnect":
        raise WebSocketDisconnect(message.get("code", 1005))
    text = message.get("text")
    return text if text is not None else (message.get("bytes") or b"").decode("utf-8", "replace")


async def cut(sockets: set[WebSocket]) -> dict[str, int]:
    """Cuts every connection, as a network does."""
    there = list(sockets)
    for socket in there:
        with contextlib.suppress(RuntimeError):
            await socket.close(1012)
    return {"cut": len(there)}
