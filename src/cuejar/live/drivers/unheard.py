"""What went wrong with a connection, in words."""

from __future__ import annotations

import socket

import httpx
import websockets


def unheard_said(error: Exception) -> str:
    """Returns what went wrong with a connection, in the user's words rather than a library's."""
    if isinstance(error, (websockets.InvalidStatus, httpx.HTTPStatusError)):
        return f"it answers {error.response.status_code}"
    if isinstance(error, (TimeoutError, httpx.TimeoutException)):
        return "no answer in time"
    if isinstance(
        error, (ConnectionAbortedError, websockets.ConnectionClosed, httpx.RemoteProtocolError)
    ) or isinstance(error.__cause__, EOFError):
        return "it closed the connection"
    if isinstance(error, socket.gaierror) or isinstance(error.__cause__, socket.gaierror):
        return "its name isn’t known"
    if isinstance(error, (OSError, httpx.ConnectError)):
        return "nothing answers there"
    if isinstance(error, (ValueError, websockets.InvalidHandshake)):
        return "its answer can’t be read"
    return "the connection broke"
