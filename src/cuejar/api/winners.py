"""Winners: who won what, whether they have it, and the list as a file."""

from __future__ import annotations

import csv
import io
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import Field
from sqlalchemy import func, select, update
from sqlalchemy.orm import Session

from cuejar.api.errors import Refused
from cuejar.api.need import TheStudio
from cuejar.api.shapes import Shape
from cuejar.api.texts import CsvText
from cuejar.core.parts.tables import guarded
from cuejar.live.devices import now_ms
from cuejar.store.models import LedgerRow, WinnerRow
from cuejar.studio import Studio

router = APIRouter(prefix="/api/winners", tags=["winners"])
MOST = 200


class WinnerOut(Shape):
    """Somebody who won something: when (ms since 1970), by which cue, and when they got it; none: not yet. The name is
    empty if they were forgotten.
    """

    run: str
    beat: str
    at: int
    viewer: str
    name: str
    what: str
    cue: str
    given: int | None


class WinnersOut(Shape):
    """The latest winners, those who still wait first; ``waiting`` and ``total`` count all of them."""

    winners: list[WinnerOut]
    waiting: int
    total: int


class GivenIn(Shape):
    given: Annotated[bool, Field(description="whether they have what they won")]


class WinsChosen(Shape):
    limit: Annotated[int, Query(ge=1, le=MOST)] = 50
    skip: Annotated[int, Query(ge=0, le=10**7)] = 0


def _told(session: Session, limit: int | None, skip: int = 0) -> list[WinnerOut]:
    cue = select(func.min(LedgerRow.cue)).where(LedgerRow.run == WinnerRow.run).scalar_subquery()
    query = select(WinnerRow, cue).where(WinnerRow.removed == 0)
    query = query.order_by(WinnerRow.given > 0, WinnerRow.wall.desc(), WinnerRow.run, WinnerRow.beat)
    rows = session.execute(query.limit(limit).offset(skip)).all()
    return [
        WinnerOut(
            run=row.run,
            beat=row.beat,
            at=row.wall,
            viewer=row.viewer,
            name=row.name,
            what=row.what,
            cue=named or "",
            given=row.given or None,
        )
        for row, named in rows
    ]


@router.get("")
async def winners(studio: TheStudio, chosen: Annotated[WinsChosen, Query()]) -> WinnersOut:
    """Lists who won, those who still wait for it first."""
    with studio.sessions() as session:
        there = WinnerRow.removed == 0
        total = session.scalar(select(func.count()).select_from(WinnerRow).where(there)) or 0
        waiting = session.scalar(select(func.count()).select_from(WinnerRow).where(there, WinnerRow.given == 0)) or 0
        return WinnersOut(winners=_told(session, chosen.limit, chosen.skip), waiting=waiting, total=total)


@router.get(".csv", response_class=CsvText)
async def winners_csv(studio: TheStudio) -> CsvText:
    """Returns all winners as CSV: when (ms since 1970), viewer, name, what they won, cue, when it was given."""
    out = io.StringIO()
    rows = csv.writer(out)
    rows.writerow(["at", "viewer", "name", "what", "cue", "given"])
    with studio.sessions() as session:
        for one in _told(session, None):
            rows.writerow([one.at, *map(guarded, (one.viewer, one.name, one.what, one.cue)), one.given or ""])
    headers = {"Content-Disposition": 'attachment; filename="winners.csv"'}
    return CsvText("\ufeff" + out.getvalue(), headers=headers)


@router.put("/{run}/{beat}", status_code=204)
async def give(studio: TheStudio, run: str, beat: str, body: GivenIn) -> None:
    """Notes that a winner has what they won, or doesn't yet."""
    await _change(studio, run, beat, given=now_ms() if body.given else 0)


@router.delete("/{run}/{beat}", status_code=204)
async def remove(studio: TheStudio, run: str, beat: str) -> None:
    """Takes somebody off the list."""
    await _change(studio, run, beat, removed=1)


async def _change(studio: Studio, run: str, beat: str, **values: int) -> None:
    which = (WinnerRow.run == run, WinnerRow.beat == beat, WinnerRow.removed == 0)
    with studio.sessions() as session:
        if session.scalar(select(WinnerRow.run).where(*which)) is None:
            raise Refused(404, "They are not on the list of winners.", "Reload the page.")
    await studio.writer.do(lambda c: c.execute(update(WinnerRow).where(*which).values(**values)))
