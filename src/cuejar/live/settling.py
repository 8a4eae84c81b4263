"""Settling: reports the outcome of redemptions to the channel until it confirms, many at a time.

2xx                 confirmed
409                 settled already: confirmed, whatever the other outcome was; the ledger says so
404, 410            the channel knows no such redemption (any more): it ends there; the ledger says so
401, 403            the channel refuses access: shown on the rig, and tried again
429, 5xx, nothing   tried again after ``Retry-After``, or after growing pauses
"""

from __future__ import annotations

import asyncio
from collections.abc import Callable, Iterable, Mapping
from urllib.parse import quote

import httpx

from cuejar.core.facts.origin import parted
from cuejar.pauses import Pauses

AT_ONCE = 16
MOST_WAIT_S = 60.0


class Later(Exception):
    """It wasn't confirmed; to be tried again after ``wait_s``, or after a growing pause."""

    def __init__(self, why: str, wait_s: float | None = None) -> None:
        self.wait_s = wait_s
        super().__init__(why)


class Settling:
    """Everything owed to the channel."""

    def __init__(
        self,
        http: httpx.AsyncClient,
        connected: asyncio.Event,
        confirmed: Callable[[str, str], None],
        told: Callable[[str], None],
    ) -> None:
        """Args:
        confirmed: gets a settled redemption, and what to note in the ledger.
        told: gets why settling doesn't go well; nothing once it does.
        """
        self._http, self._connected, self._confirmed, self._told = http, connected, confirmed, told
        self.owed: dict[str, str] = {}
        self._now = asyncio.Event()
        self._wrong = False

    def owe(self, settled: Iterable[tuple[str, str]]) -> None:
        """Takes redemptions to be reported with these outcomes."""
        for redemption, outcome in settled:
            self.owed.setdefault(redemption, outcome)
        self._now.set()

    def stir(self) -> None:
        self._now.set()

    async def run(self) -> None:
        pauses = Pauses()
        while True:
            await self._now.wait()
            await self._connected.wait()
            self._now.clear()
            line = iter(list(self.owed.items()))
            waits: list[Later] = []
            async with asyncio.TaskGroup() as group:
                for _ in range(min(AT_ONCE, len(self.owed))):
                    group.create_task(self._some(line, waits))
            if not waits:
                pauses.reset()
                if self._wrong and not self.owed:
                    self._wrong = False
                    self._told("")
                continue
            self._wrong = True
            self._told(str(waits[0]))
            self._now.set()
            told = [later.wait_s for later in waits if later.wait_s is not None]
            await asyncio.sleep(min(MOST_WAIT_S, max(told)) if told else pauses.next())

    async def _some(self, line: Iterable[tuple[str, str]], waits: list[Later]) -> None:
        """Settles one after the other until the queue is empty or the channel has trouble."""
        for redemption, outcome in line:
            try:
                problem = await self._settle(redemption, outcome)
            except Later as later:
                waits.append(later)
                return
            self.owed.pop(redemption, None)
            self._confirmed(redemption, problem)
            if waits:
                return

    async def _settle(self, redemption: str, outcome: str) -> str:
        """Reports one. Returns what to note in the ledger. Raises Later."""
        try:
            theirs = quote(parted(redemption)[1], safe="")
            answer = await self._http.patch(f"/redemptions/{theirs}", json={"state": outcome})
        except httpx.HTTPError as error:
            raise Later("the channel isn’t answering; settlements wait") from error
        status = answer.status_code
        if answer.is_success:
            return ""
        if status == 409:
            return f"the channel says it is already settled ({words(answer)})"
        if status in (404, 410):
            return f"the channel knows no such redemption ({words(answer)})"
        if status in (401, 403):
            raise Later(f"the channel does not let us in ({status}); settlements wait")
        raise Later(f"the channel answers {status} to settlements; they wait", retry_after(answer.headers))


def words(answer: httpx.Response) -> str:
    """Returns the words of an answer in our form, if there are any."""
    try:
        told = answer.json()
    except ValueError:
        return str(answer.status_code)
    what = told.get("what") if isinstance(told, dict) else None
    return str(what)[:200] if what else str(answer.status_code)


def retry_after(headers: Mapping[str, str]) -> float | None:
    """Returns the seconds of ``Retry-After`` (RFC 9110, 10.2.3), if given so."""
    told = (headers.get("retry-after") or "").strip()
    return float(told) if told.isdigit() and len(told) < 7 else None
