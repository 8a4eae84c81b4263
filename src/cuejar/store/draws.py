"""Draws of viewers, as the ledger keeps them: who was in, what decided, who came out. Each can be drawn again."""

from __future__ import annotations

from pydantic import BaseModel
from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from cuejar.core.rules.crowd import drawn_again
from cuejar.store.models import LedgerRow, NoteRow, ViewerRow

LAST = "last"


class InIt(BaseModel):
    """Somebody who was in a draw. The name is empty if they were forgotten."""

    viewer: str
    name: str
    weight: float


class KeptDraw(BaseModel):
    """A draw: by which cue and beat, from which jar, when (ms since 1970); the seed and the number from 0 up to 1 that
    it gave; who was in it, and who was drawn. ``holds``: drawn again, the same viewer comes out.
    """

    call: str
    run: str
    cue: str
    beat: str
    jar: str
    at: int
    seed: str
    number: float
    those: list[InIt]
    drawn: str
    holds: bool


def draws_of(session: Session, line: str) -> list[KeptDraw]:
    """Returns the draws of viewers of a line of the ledger, oldest first.

    Args:
        line: a call or a run, or `LAST`: the latest draw there is.
    """
    query = select(NoteRow, LedgerRow).join(LedgerRow, LedgerRow.run == NoteRow.run)
    query = query.where(NoteRow.what == "draw", NoteRow.data["seed"].as_string() > "")
    if line == LAST:
        rows = session.execute(query.order_by(LedgerRow.id.desc(), NoteRow.at.desc()).limit(1)).all()
    else:
        named = query.where(or_(LedgerRow.call == line, LedgerRow.run == line))
        rows = session.execute(named.order_by(LedgerRow.id, NoteRow.at, NoteRow.beat)).all()
    return [_kept(session, note, row) for note, row in rows]


def _kept(session: Session, note: NoteRow, row: LedgerRow) -> KeptDraw:
    data = note.data
    weights = [(str(who), float(weight)) for who, weight in data["weights"]]
    ids = [who for who, _ in weights]
    names: dict[str, str] = {}
    for i in range(0, len(ids), 500):
        those = select(ViewerRow.id, ViewerRow.name).where(ViewerRow.id.in_(ids[i : i + 500]))
        names.update((row.id, row.name) for row in session.execute(those))
    number, again = drawn_again(data["seed"], weights)
    return KeptDraw(
        call=row.call,
        run=row.run,
        cue=row.cue,
        beat=note.beat,
        jar=data["jar"],
        at=row.wall,
        seed=data["seed"],
        number=number,
        those=[InIt(viewer=who, name=names.get(who, who), weight=weight) for who, weight in weights],
        drawn=data["drawn"][0],
        holds=again == data["drawn"][0] and number == data["numbers"][0],
    )
