"""A saved night as files, with viewers' names or made-up ones."""

from __future__ import annotations

from collections.abc import Container, Iterator, Mapping, Sequence
from datetime import datetime
from pathlib import Path, PurePosixPath
from typing import Literal, NamedTuple

from sqlalchemy.orm import Session, sessionmaker

from cuejar.core.book.files import book_from, book_json
from cuejar.core.carry.secrets import scrubbed
from cuejar.core.facts import orders as o
from cuejar.core.files.timeline import Media
from cuejar.core.nights import papers
from cuejar.core.nights.compare import Nights
from cuejar.core.nights.madeup import MadeUp, named_in, viewers_of
from cuejar.core.nights.recorded import recording_of
from cuejar.core.parts.slugs import slug
from cuejar.nights import Drawn, Entries, Task
from cuejar.store import otioz
from cuejar.store.database import read_only
from cuejar.store.exports import csv_lines, event_lines
from cuejar.store.ledger import Where
from cuejar.store.nights import Recorded, everybody, recorded

Kind = Literal["csv", "events", "script", "vtt", "otio", "otioz", "page"]
ENDINGS: dict[Kind, str] = {
    "csv": "csv",
    "events": "jsonl",
    "script": "script.json",
    "vtt": "vtt",
    "otio": "otio",
    "otioz": "otioz",
    "page": "html",
}
"""The ending of each kind of file."""
MIMES: dict[Kind, str] = {
    "csv": "text/csv; charset=utf-8",
    "events": "application/x-ndjson",
    "script": "application/json",
    "vtt": "text/vtt; charset=utf-8",
    "otio": "application/octet-stream",
    "otioz": "application/zip",
    "page": "text/html; charset=utf-8",
}


class NoSuchNight(Exception):
    """There is no such night (any more)."""


class Kept(NamedTuple):
    """Where nights are stored: the database, its file, and the mark of this installation."""

    sessions: sessionmaker[Session]
    file: Path
    installation: str


class Piece(NamedTuple):
    """A saved night, ready to be written; ``names`` are made up, if wanted."""

    night: Recorded
    names: MadeUp | None
    task: Task


def opened(kept: Kept, night: int, made_up: bool) -> Piece:
    """Returns a night, read.

    Raises:
        NoSuchNight.
    """
    there = recorded(kept.sessions, night)
    if there is None:
        raise NoSuchNight(f"There is no night {night}. It may have been deleted.")
    names = None
    state, rows = there.state, there.entries
    if made_up:
        books = [
            state["book"],
            *(told["book"] for _, _, told in rows if isinstance(told, dict) and told.get("kind") == "book"),
        ]
        named = (pair for book in books for pair in named_in(book_from(book)))
        names = MadeUp([*viewers_of(state, rows), *everybody(kept.sessions), *named])
    return Piece(there, names, Task([None], recorded=Entries(state, rows)))


def draw_here(task: Task) -> Drawn:
    """Returns a night in full, from this process."""
    assert task.recorded is not None
    recording = recording_of(*task.recorded)
    return Drawn(*Nights(task.books, "", recording).drawn(0, 0))


def name_of(kind: Kind, piece: Piece) -> str:
    """Returns the name of the file."""
    began = datetime.fromtimestamp(piece.night.wall / 1000)
    return f"night-{began:%Y-%m-%d-%H%M}.{ENDINGS[kind]}"


def lines_of(kept: Kept, kind: Kind, piece: Piece) -> Iterator[str]:
    """Yields the calls of a night as lines of CSV, or of CloudEvents."""
    night = piece.night
    where = Where(night.wall, until=night.ended_wall, names=piece.names)
    if kind == "csv":
        return csv_lines(kept.file, where)
    return event_lines(kept.file, where, f"/ledger/{kept.installation}")


def script_of(piece: Piece) -> str:
    """Returns a night as a script. With made-up names it begins at rest: viewers' counts go by their ids."""
    night, names = piece.night, piece.names
    recording = recording_of(night.state, night.entries)
    if names is None:
        return papers.script_text(scrubbed(papers.script_of(recording, night.entries, True)))
    script = papers.script_of(recording, night.entries, False)
    book, also_ids = names.book(recording.book)
    script["book"] = book_json(book)
    rename = names.deep if also_ids else names.happening
    script["happenings"] = [
        {**row, "book": book_json(names.book(book_from(row["book"]))[0])} if row.get("kind") == "book" else rename(row)
        for row in script["happenings"]
    ]
    return papers.script_text(scrubbed(script))


def paper_of(kind: Kind, piece: Piece, drawn: Drawn, media: Sequence[Media], note: str, noted_with: str = "") -> str:
    """Returns a night as a timeline, as captions, or as a page."""
    recording = recording_of(*piece.task.recorded) if piece.task.recorded is not None else None
    assert recording is not None
    book, names, ids = recording.book, piece.names, [one.id for one in media]
    if names is not None:
        book, media = names.book(book)[0], [_renamed(one, number, names) for number, one in enumerate(media, 1)]
        shows = [(at, _shown(order, names, ids)) for at, order in drawn.shows]
        standouts = [names.standout(one) for one in drawn.standouts]
        drawn = Drawn(names.result(drawn.result), standouts, names.timeline(drawn.timeline), shows)
    began = datetime.fromtimestamp(piece.night.wall / 1000)
    title = f"Night of {began:%A, %d %B %Y}"
    if kind in ("otio", "otioz"):
        files = dict(zip(ids, media, strict=True))
        return papers.overlay_otio(title, drawn.shows, drawn.timeline, book, files)
    if kind == "vtt":
        return papers.said_vtt(drawn.shows, drawn.timeline)
    told = piece.names.text(note) if piece.names is not None else note
    when = f"{began:%H:%M}, {papers.clock(drawn.timeline.length)} long{noted_with}"
    return papers.page(title, when, told, drawn.result, drawn.standouts, drawn.timeline, book)


def _renamed(one: Media, number: int, names: MadeUp) -> Media:
    """Returns a file under a neutral name, even beside a timeline."""
    name = names.text(one.name)
    return one._replace(id=slug(name, ()), name=name, url=f"media/{number}{PurePosixPath(one.url).suffix}")


def _shown(order: o.Order, names: MadeUp, media: Container[str]) -> o.Order:
    """Returns what was on the overlay, with the words in it renamed. Files keep their ids (``media``), by which they
    are found.
    """
    if isinstance(order, o.Show) and not (isinstance(order.value, str) and order.value in media):
        return order._replace(value=names.deep(order.value))
    return order


def with_files(piece: Piece, text: str, media: Sequence[Media], paths: Mapping[str, Path]) -> Iterator[bytes]:
    """Yields a night's timeline with the files that it shows.

    Args:
        paths: where the files are, by their ids in the book.
    """
    lie = {}
    for number, one in enumerate(media, 1):
        if one.id in paths:
            lie[one.url if piece.names is None else _renamed(one, number, piece.names).url] = paths[one.id]
    return otioz.written(text, lie)


def pieces_of(
    kept: Kept, kind: Kind, piece: Piece, media: Sequence[Media], paths: Mapping[str, Path]
) -> Iterator[bytes]:
    """Yields a night as a file, in pieces. ``paths`` says where the files of the library are, by their ids in the book."""
    if kind in ("csv", "events"):
        yield from (line.encode() for line in lines_of(kept, kind, piece))
    elif kind == "script":
        yield script_of(piece).encode()
    else:
        text = paper_of(kind, piece, draw_here(piece.task), media, piece.night.note)
        yield from with_files(piece, text, media, paths) if kind == "otioz" else [text.encode()]


def written_into(
    target: Path,
    database: Path,
    installation: str,
    night: int,
    kind: Kind,
    made_up: bool,
    media: Sequence[Media],
    paths: Mapping[str, Path],
) -> str:
    """In a worker: writes a night into a file. Returns its name.

    Raises:
        NoSuchNight.
    """
    kept = Kept(read_only(database), database, installation)
    piece = opened(kept, night, made_up)
    with target.open("wb") as out:
        for chunk in pieces_of(kept, kind, piece, media, paths):
            out.write(chunk)
    return name_of(kind, piece)
