"""A kept night as files, with viewers' names or made-up ones."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from datetime import datetime
from pathlib import Path
from typing import Literal, NamedTuple

from sqlalchemy.orm import Session, sessionmaker

from cuejar.core.files.timeline import Media
from cuejar.core.nights import papers
from cuejar.core.nights.compare import Nights
from cuejar.core.nights.madeup import MadeUp, renamed, viewers_of
from cuejar.core.nights.recorded import recording_of
from cuejar.nights import Drawn, Entries, Task
from cuejar.store.exports import csv_lines, event_lines
from cuejar.store.ledger import Where
from cuejar.store.nights import Recorded, named_between, recorded

Kind = Literal["csv", "events", "script", "vtt", "otio", "page"]
ENDINGS: dict[Kind, str] = {
    "csv": "csv",
    "events": "jsonl",
    "script": "script.json",
    "vtt": "vtt",
    "otio": "otio",
    "page": "html",
}
"""How a file of each kind ends."""
MIMES: dict[Kind, str] = {
    "csv": "text/csv; charset=utf-8",
    "events": "application/x-ndjson",
    "script": "application/json",
    "vtt": "text/vtt; charset=utf-8",
    "otio": "application/octet-stream",
    "page": "text/html; charset=utf-8",
}


class NoSuchNight(Exception):
    """There is no such night (any more)."""


class Kept(NamedTuple):
    """Where nights are kept: the database, its file, and the mark of this installation."""

    sessions: sessionmaker[Session]
    file: Path
    installation: str


class Piece(NamedTuple):
    """A kept night, ready to be written out; ``names`` are made up, where that is wanted."""

    night: Recorded
    names: MadeUp | None
    task: Task


def opened(kept: Kept, night: int, made_up: bool) -> Piece:
    """A night, read.

    Raises:
        NoSuchNight.
    """
    there = recorded(kept.sessions, night)
    if there is None:
        raise NoSuchNight(f"There is no night {night}. It may not be kept any longer.")
    names = None
    state, rows = there.state, there.entries
    if made_up:
        viewers = [*viewers_of(state, rows), *named_between(kept.sessions, there.wall, there.ended_wall)]
        names = MadeUp(viewers)
        state = renamed(state, names)
        # Ids stay, as what is counted goes by them; no file of it shows any.
        rows = [(number, at, names.called(told)) for number, at, told in rows]
    return Piece(there, names, Task([None], recorded=Entries(state, rows)))


def draw_here(task: Task) -> Drawn:
    """A night in full, in this process."""
    assert task.recorded is not None
    recording = recording_of(*task.recorded)
    return Drawn(*Nights(task.books, "", recording).drawn(0, 0))


def name_of(kind: Kind, piece: Piece) -> str:
    """How the file is called."""
    began = datetime.fromtimestamp(piece.night.wall / 1000)
    return f"night-{began:%Y-%m-%d-%H%M}.{ENDINGS[kind]}"


def lines_of(kept: Kept, kind: Kind, piece: Piece) -> Iterator[str]:
    """The calls of a night as lines of CSV, or of CloudEvents."""
    night = piece.night
    where = Where(night.wall, until=night.ended_wall, names=piece.names)
    if kind == "csv":
        return csv_lines(kept.file, where)
    return event_lines(kept.file, where, f"/ledger/{kept.installation}")


def script_of(piece: Piece) -> str:
    """A night as a script. With made-up names it begins at rest: what was counted of viewers goes by their ids."""
    night, names = piece.night, piece.names
    rows = night.entries if names is None else [(n, at, names.happening(told)) for n, at, told in night.entries]
    recording = recording_of(night.state, night.entries)
    return papers.script_text(papers.script_of(recording, rows, names is None))


def paper_of(kind: Kind, piece: Piece, drawn: Drawn, media: Sequence[Media], note: str, noted_with: str = "") -> str:
    """A night as a timeline, as captions, or as a page."""
    recording = recording_of(*piece.task.recorded) if piece.task.recorded is not None else None
    assert recording is not None
    began = datetime.fromtimestamp(piece.night.wall / 1000)
    title = f"Night of {began:%A, %d %B %Y}"
    if kind == "otio":
        files = {one.id: one for one in media}
        return papers.overlay_otio(title, drawn.shows, drawn.timeline, recording.book, files)
    if kind == "vtt":
        return papers.said_vtt(drawn.shows, drawn.timeline)
    told = piece.names.text(note) if piece.names is not None else note
    when = f"{began:%H:%M}, {papers.clock(drawn.timeline.length)} long{noted_with}"
    return papers.page(title, when, told, drawn.result, drawn.standouts, drawn.timeline, recording.book)


def whole(
    kept: Kept, kind: Kind, night: int, made_up: bool, media: Sequence[Media], draw: Callable[[Task], Drawn]
) -> Iterator[str]:
    """A night as a file, in pieces.

    Args:
        draw: plays it.

    Raises:
        NoSuchNight.
    """
    piece = opened(kept, night, made_up)
    if kind in ("csv", "events"):
        yield from lines_of(kept, kind, piece)
    elif kind == "script":
        yield script_of(piece)
    else:
        yield paper_of(kind, piece, draw(piece.task), media, piece.night.note)
