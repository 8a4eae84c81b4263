"""Imports past calls from elsewhere into the ledger: they are only remembered and fire nothing."""

from __future__ import annotations

from collections.abc import Sequence
from hashlib import blake2s
from typing import Any

from sqlalchemy import Connection, select
from sqlalchemy.dialects.sqlite import insert

from cuejar.core.files.events import Event
from cuejar.core.rules.traces import unpacked
from cuejar.live.desk import ORDER
from cuejar.live.messages import CheckTold
from cuejar.store.models import LedgerRow, NoteRow


def taken_in(connection: Connection, events: Sequence[Event]) -> int:
    """Writes past calls from elsewhere into the ledger; an existing one (the same call at the same cue at the same
    instant) isn't repeated. Their runs get other names, so that they match no run here.

    Returns:
        How many were new.
    """
    new = 0
    for event in events:
        call = event.data
        same = (LedgerRow.call == call.call, LedgerRow.cue == call.cue, LedgerRow.wall == call.at)
        if connection.execute(select(LedgerRow.id).where(*same).limit(1)).first() is not None:
            continue
        mark = blake2s(event.source.encode(), digest_size=3).hexdigest()
        run = f"{mark}~{call.run}"[:20] if call.run else ""
        values = call.model_dump(exclude={"at", "notes", "trace"})
        # By the show's clock it comes before everything, at its own instant.
        row = {**values, "run": run, "at": -call.at, "wall": call.at, "trace": _sound_trace(call.trace)}
        done = connection.execute(insert(LedgerRow).values(row).on_conflict_do_nothing())
        new += done.rowcount
        for note in call.notes if run and done.rowcount else []:
            if isinstance(note, dict) and note.get("what") in ORDER and isinstance(note.get("at"), int):
                data = {key: value for key, value in note.items() if key not in ("what", "at", "beat")}
                one = {"run": run, "at": note["at"], "what": note["what"], "beat": str(note.get("beat", ""))[:80]}
                connection.execute(insert(NoteRow).values({**one, "data": data}).on_conflict_do_nothing())
    return new


def _sound_trace(trace: Any) -> list[Any]:
    """Returns a valid trace in its stored form, otherwise none."""
    try:
        for check in unpacked(trace):
            CheckTold(**check)
    except (ValueError, TypeError, KeyError, IndexError, AttributeError):
        return []
    return list(trace)
