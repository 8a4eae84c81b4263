"""Imported files, read in a worker process: the review, and what is imported.

Nothing here knows the show. A worker keeps the last file and the last book that it read, so that other choices only
cost the review.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence, Set
from pathlib import Path
from typing import Any, Literal, NamedTuple

from pydantic import BaseModel

from cuejar.core.book.book import Book
from cuejar.core.book.files import book_from, book_json
from cuejar.core.carry.differences import Difference, in_words
from cuejar.core.carry.review import Choices, Review, reviewed
from cuejar.core.measures.catalogue import Catalogues
from cuejar.core.parts.base import BookError, JsonObject, Problem
from cuejar.core.words.data import data_note, data_said
from cuejar.core.words.names import ONE
from cuejar.store import bundle as bundles
from cuejar.store.bundle import Bundle, Scope
from cuejar.store.moving import Balances, Part, TooLarge, fitted, found, gated
from cuejar.store.zips import BROKEN


class ReviewField(BaseModel):
    """A field that differs: its name, and its old and new value, in words."""

    path: str
    what: str
    was: str
    now: str


class EntryRow(BaseModel):
    """An entry that differs; ``beside``: both are kept, this one as ``as_id``; ``needed_by``: what brings it along."""

    key: str
    kind: str
    id: str
    name: str
    state: Literal["new", "changed", "removed"]
    fields: list[ReviewField]
    takes: bool
    clashes: bool
    beside: bool
    as_id: str
    needed_by: str
    told: str


class LostOut(BaseModel):
    """A name that the gear here doesn't have, and its replacement."""

    key: str
    what: str
    name: str
    near: list[str]
    choices: list[str]
    to: str


class AskedOut(BaseModel):
    """Something that couldn't be done before, and by what; off until it is allowed."""

    key: str
    what: str
    by: list[str]
    allowed: bool


class DataOut(BaseModel):
    """Data beside the book: how much there is, how much of it is new here, how many lines can't be read, and whether it is imported.

    ``said``: what is new, in words; ``note``: what isn't imported, in words.
    """

    part: Part
    all: int
    fresh: int
    odd: int
    takes: bool
    said: str
    note: str


class ReviewOut(BaseModel):
    """The result of an import; nothing has changed yet.

    ``used``: ours that replace theirs; ``off``: imported switched off; ``kept`` can't be removed; ``missing``: files
    without their content; ``left_out`` stayed where it came from; ``stays`` is never imported; ``counted`` says what is
    imported.
    """

    key: str
    name: str
    scope: Scope
    version: int
    rows: list[EntryRow]
    names: list[LostOut]
    asked: list[AskedOut]
    used: list[str]
    off: list[str]
    kept: list[str]
    missing: list[str]
    left_out: list[str]
    stays: list[str]
    credits: list[str]
    problems: list[Problem]
    counted: str
    data: list[DataOut] = []


class Ours(NamedTuple):
    """Our side of a review: the book as JSON and its version, whether it was ever changed, what the gear has, which
    files are here (by their hashes), the data folder's database, and the show's points and counts.
    """

    book: JsonObject
    version: int
    is_untouched: bool
    catalogues: Catalogues
    files: Set[str]
    database: Path
    balances: Balances


class Waiting(NamedTuple):
    """A waiting file: its key, its path, its maximum size, its name."""

    key: str
    path: Path
    most_bytes: int
    name: str

    @property
    def side(self) -> Path:
        """Returns where the data beside its book is, line by line."""
        return self.path.with_name(f"{self.path.name}.rows")


class Taken(NamedTuple):
    """The result of an import: the whole book as JSON, its words, the files it needs from the bundle, by hash with
    their names, which parts beside the book are imported, and whether any of the book is.
    """

    book: JsonObject
    counted: str
    files: Sequence[tuple[str, str]]
    data: Sequence[Part]
    is_new: bool


def row_out(row: Any) -> EntryRow:
    return EntryRow(
        key=str(row.key),
        kind=row.key.kind,
        id=row.key.id,
        name=row.name,
        state=row.state,
        fields=[ReviewField(**one._asdict()) for one in row.fields],
        takes=getattr(row, "takes", True),
        clashes=getattr(row, "clashes", False),
        beside=getattr(row, "beside", False),
        as_id=getattr(row, "as_id", ""),
        needed_by=getattr(row, "needed_by", ""),
        told=getattr(row, "told", ""),
    )


def review_out(review: Review, version: int, **more: Any) -> ReviewOut:
    return ReviewOut(
        version=version,
        rows=[row_out(row) for row in review.rows],
        names=[
            LostOut(**{**one._asdict(), "near": list(one.near), "choices": list(one.choices)}) for one in review.names
        ],
        asked=[AskedOut(**vars(one)) for one in review.asked],
        used=review.used,
        off=review.off,
        kept=review.kept,
        stays=review.stays,
        problems=review.problems,
        counted=counted(review),
        **more,
    )


def counted(review: Review) -> str:
    """Returns what is imported, in words: *2 cues, 1 jar*; the one difference if it is a single one."""
    taken = [row for row in review.rows if row.takes]
    if len(taken) == 1:
        row = taken[0]
        return in_words([Difference(row.key, row.name, "new" if row.beside else row.state, row.fields)])
    counts: dict[str, int] = {}
    for row in taken:
        what = row.key.kind if row.key.id else row.name
        counts[what] = counts.get(what, 0) + 1
    told = [f"{n} {ONE[what]}{'s' if n > 1 else ''}" if what in ONE else what for what, n in counts.items()]
    return ", ".join(told) or "nothing"


def whole(review: Review) -> Book:
    """Returns the book of a review. Raises BookError: it would be invalid."""
    if review.book is None:
        raise BookError(review.problems)
    return review.book


# In the worker

_file: tuple[Path, Bundle] | None = None
_ours: tuple[str, Book] | None = None


def _theirs(waits: Waiting) -> Bundle:
    global _file
    if _file is None or _file[0] != waits.path:
        _file = (waits.path, bundles.read(waits.path, waits.most_bytes))
    return _file[1]


def _own(told: JsonObject) -> Book:
    global _ours
    mark = hashlib.sha256(json.dumps(told).encode()).hexdigest()
    if _ours is None or _ours[0] != mark:
        _ours = (mark, book_from(told))
    return _ours[1]


def _review(waits: Waiting, ours: Ours, choices: Choices) -> tuple[Bundle, Review]:
    bundle = _theirs(waits)
    own = _own(ours.book)
    scope: Literal["book", "cues"] = "cues" if bundle.scope == "cues" else "book"
    return bundle, reviewed(own, bundle.book, scope, choices, ours.catalogues, fresh=ours.is_untouched)


def looked(waits: Waiting) -> dict[str, str]:
    """Reads an imported file; its content by hash.

    Raises:
        NotABundle, BookError: it can't be imported.
    """
    bundle = _theirs(waits)
    if bundle.has_data:
        try:
            gated(waits.path, waits.side, waits.most_bytes)
        except TooLarge:
            raise bundles.too_large(waits.most_bytes) from None
        except BROKEN as error:
            raise bundles.damaged(error) from error
    return dict(bundle.media)


def _data(bundle: Bundle, waits: Waiting, ours: Ours, choices: Choices) -> list[DataOut]:
    """Returns the data beside the book. By default it is imported only into a new data folder: a file's claim of its
    origin proves nothing.
    """
    if not bundle.has_data:
        return []
    return [
        DataOut(
            **one._asdict(),
            takes=one.fresh > 0 and (ours.is_untouched if choices.data is None else one.part in choices.data),
            said=data_said(one.part, one.fresh),
            note=data_note(one.part, one.all - one.fresh, one.odd),
        )
        for one in found(waits.side, ours.database, ours.balances)
    ]


def told(waits: Waiting, ours: Ours, choices: Choices) -> bytes:
    """Returns the review of a waiting file, as JSON of `ReviewOut`. Raises as `looked`."""
    bundle, review = _review(waits, ours, choices)
    taken = {row.key.id for row in review.rows if row.key.kind == "media" and row.takes and row.state != "removed"}
    media = bundle.book.media
    out = review_out(
        review,
        ours.version,
        key=waits.key,
        name=waits.name,
        scope=bundle.scope,
        missing=[
            entry.name
            for entry in media
            if entry.id in taken
            and entry.file is not None
            and entry.file not in bundle.media
            and entry.file not in ours.files
        ],
        left_out=bundle.left_out,
        credits=[
            f"{entry.name}: {', '.join(part for part in (entry.credit, entry.licence) if part)}"
            for entry in media
            if entry.credit or entry.licence
        ],
        data=_data(bundle, waits, ours, choices),
    )
    return out.model_dump_json().encode()


def taken(waits: Waiting, ours: Ours, choices: Choices) -> Taken:
    """Returns the result of importing what was chosen.

    Raises:
        NotABundle, BookError: it would be invalid.
    """
    bundle, review = _review(waits, ours, choices)
    book = whole(review)
    wanted = {entry.file for entry in book.media}
    names = {entry.file: entry.name for entry in reversed(bundle.book.media)}
    files = [(one, names.get(one, one[:6])) for one in bundle.media if one in wanted]
    data = [one for one in _data(bundle, waits, ours, choices) if one.takes]
    if data:
        fitted(waits.side, ours.database, bundle.home[:5] or "far")
    is_new = any(row.takes for row in review.rows)
    told = ", ".join([*([counted(review)] if is_new or not data else []), *(one.said for one in data)])
    return Taken(book_json(book), told, files, [one.part for one in data], is_new or not data)
