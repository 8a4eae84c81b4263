"""The pictures of rewards at a channel: each is sent once, as often as it changes here. One that is changed by hand at
the channel stays until then.
"""

from __future__ import annotations

from base64 import b64encode
from collections.abc import Mapping, Sequence
from typing import NamedTuple, Protocol
from urllib.parse import quote

import httpx
from sqlalchemy import select
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session, sessionmaker

from cuejar.core.facts.origin import joined, parted
from cuejar.live.runner import Runner
from cuejar.live.settling import words
from cuejar.live.wirelog import WireLog
from cuejar.store.models import LinkRow

PICTURE_LINK = "picture"
REFUSED = (400, 403, 404, 405, 409, 413, 415, 422)
"""Answers after which a picture isn't sent again."""


class Pictures(Protocol):
    """Where pictures of rewards come from (`live.rewardpictures`)."""

    def marks(self) -> dict[str, str]: ...
    async def made(self, reward: str, sides: Sequence[int]) -> dict[int, bytes]: ...


class Given(NamedTuple):
    """What a reward was given: its id at the channel, and the mark of the picture (empty: none)."""

    theirs: str
    mark: str = ""


class GivenPictures:
    """The pictures that one channel has."""

    def __init__(
        self,
        channel: str,
        http: httpx.AsyncClient,
        runner: Runner,
        sessions: sessionmaker[Session],
        log: WireLog,
        pictures: Pictures,
    ) -> None:
        self._channel, self._http, self._runner, self._log, self._pictures = channel, http, runner, log, pictures
        with sessions() as session:
            rows = session.scalars(select(LinkRow).where(LinkRow.kind == PICTURE_LINK))
            told = [(*parted(row.thing), row.value.partition(" ")) for row in rows]
        self._given = {reward: Given(theirs, mark) for of, reward, (theirs, _, mark) in told if of == channel}

    def forget(self) -> None:
        """Forgets everything, as the channel did."""
        self._given = {}

    async def give(self, ids: Mapping[str, str], sides: Sequence[int]) -> None:
        """Sends what the channel doesn't have yet.

        Args:
            ids: the channel's rewards by ours.
            sides: the sides that it wants, in pixels.

        Raises:
            httpx.HTTPError: the channel doesn't answer properly; what was sent so far counts.
        """
        marks = self._pictures.marks()
        for reward, theirs in ids.items():
            wanted = Given(theirs, marks.get(reward, ""))
            if self._given.get(reward, Given(theirs)) == wanted:
                continue
            path = f"/rewards/{quote(theirs, safe='')}/picture"
            if wanted.mark:
                made = await self._pictures.made(reward, sides)
                if not made:
                    continue
                sizes = {str(side): b64encode(png).decode() for side, png in made.items()}
                answer = await self._http.put(path, json={"sizes": sizes})
            else:
                answer = await self._http.delete(path)
            if answer.status_code in REFUSED:
                self._log.leave_out({"picture of": reward}, f"it was refused: {words(answer)}")
            else:
                answer.raise_for_status()
            await self._keep(reward, wanted)

    async def _keep(self, reward: str, given: Given) -> None:
        self._given[reward] = given
        row = {"kind": PICTURE_LINK, "thing": joined(self._channel, reward), "value": " ".join(given)}
        query = insert(LinkRow).values(row).on_conflict_do_update(index_elements=["kind", "thing"], set_=row)
        await self._runner.later.keep("pictures of rewards", lambda c: c.execute(query))
