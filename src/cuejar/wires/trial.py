"""A trial: rules tried one after the other; each holds, is broken, or couldn't be tried."""

from __future__ import annotations

import json
from collections.abc import Awaitable, Callable
from typing import Any, Literal, NamedTuple

Outcome = Literal["holds", "broken", "not tried"]
MOST_SHOWN = 600


class Broken(Exception):
    """A rule doesn't hold: why, and the wrong message."""

    def __init__(self, why: str, message: Any = None) -> None:
        self.message = message
        super().__init__(why)


class NotTried(Exception):
    """A rule can't be tried here; the text says why."""


class Tried(NamedTuple):
    """The result of a rule. ``rule`` is the sentence of the docs."""

    rule: str
    outcome: Outcome
    why: str = ""
    message: str = ""


class Trial:
    """The rules of one wire as they are tried. One that aborts the trial is the last."""

    def __init__(self, told: Callable[[Tried], None]) -> None:
        """Args:
        told: gets each rule once it was tried.
        """
        self._told = told
        self.tried: list[Tried] = []
        self.session: list[dict[str, Any]] = []
        """Every message of a JSON-RPC wire, in order: its connection, its sender, and its content."""

    async def rule(self, sentence: str, work: Callable[[], Awaitable[None]]) -> bool:
        """Tries one. Returns whether it holds."""
        row = Tried(sentence, "holds")
        try:
            await work()
        except NotTried as reason:
            row = Tried(sentence, "not tried", str(reason))
        except Broken as broken:
            row = Tried(sentence, "broken", str(broken), shown(broken.message))
        except Exception as error:
            row = Tried(sentence, "broken", f"{type(error).__name__}: {error}".rstrip(": "))
        self.tried.append(row)
        self._told(row)
        return row.outcome == "holds"

    @property
    def holds(self) -> bool:
        """Returns whether no rule is broken, and at least one holds."""
        return all(row.outcome != "broken" for row in self.tried) and any(row.outcome == "holds" for row in self.tried)


def shown(message: Any) -> str:
    """Returns a message for display, cut if it is long."""
    if message is None:
        return ""
    text = message if isinstance(message, str) else json.dumps(message, ensure_ascii=False, default=str)
    return text if len(text) <= MOST_SHOWN else text[:MOST_SHOWN] + " …"


def expect(right: bool, why: str, message: Any = None) -> None:
    """Raises Broken if it isn't right."""
    if not right:
        raise Broken(why, message)
