"""Feeds: messages to listeners, each with a queue of its own.

A listener that doesn't keep up is dropped; its page reconnects and gets the whole state again. No listener
can hold up the show.
"""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from typing import Any

from cuejar.live.messages import Message

MOST_WAITING = 2_000


class Listener:
    """One connection to a feed. ``about`` is what the page reported about itself."""

    def __init__(self, topic: str) -> None:
        self.topic = topic
        self.line: asyncio.Queue[str | None] = asyncio.Queue(MOST_WAITING)
        self.about: dict[str, Any] = {}
        self.looks_on = False

    def put(self, text: str | None) -> None:
        try:
            self.line.put_nowait(text)
        except asyncio.QueueFull:
            while not self.line.empty():
                self.line.get_nowait()
            self.line.put_nowait(None)


class Hub:
    """All listeners by topic."""

    def __init__(self, changed: Callable[[], None] = lambda: None) -> None:
        """Args:
        changed: is told when somebody joins, leaves, or changes.
        """
        self._listeners: dict[str, set[Listener]] = {}
        self.changed = changed

    def join(self, topic: str) -> Listener:
        listener = Listener(topic)
        self._listeners.setdefault(topic, set()).add(listener)
        self.changed()
        return listener

    def leave(self, listener: Listener) -> None:
        self._listeners.get(listener.topic, set()).discard(listener)
        self.changed()

    def say(self, topic: str, message: Message) -> None:
        listeners = self._listeners.get(topic)
        if listeners:
            text = message.text()
            for listener in listeners:
                listener.put(text)

    def close(self, topic: str) -> None:
        """Drops everyone on a topic whose link no longer exists."""
        for listener in self._listeners.get(topic, set()):
            listener.put(None)

    def close_all(self) -> None:
        for topic in self._listeners:
            self.close(topic)

    def pages(self, topic: str) -> list[Listener]:
        """Returns the listeners on a topic that don't merely watch."""
        return [listener for listener in self.listeners(topic) if not listener.looks_on]

    def listeners(self, topic: str) -> list[Listener]:
        return list(self._listeners.get(topic, ()))
