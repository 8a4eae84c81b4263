"""Finds or renames the references inside a book.

Visits each reference to an entry of one of the book's lists once, with its owner and its target. Lamps appear as
``fixtures``: they have no list of their own.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Set
from typing import Any, NamedTuple

from pydantic import ValidationError

from cuejar.core.book.book import Book, Cue
from cuejar.core.book.files import book_json
from cuejar.core.book.validation import NAMED
from cuejar.core.facts.paths import Family, read_path
from cuejar.core.kinds.base import Ref
from cuejar.core.kinds.table import KINDS
from cuejar.core.measures.haptics import found
from cuejar.core.parts.base import JsonObject

FIXTURES = "fixtures"
LISTS_NAMED = {**NAMED, "fixture": FIXTURES}
"""The list in which a beat's names are looked up."""


NAMED_FIRST: dict[Family | None, str] = {Family.LIGHT: FIXTURES, Family.REWARD: "rewards", Family.THINGS: "gear"}
"""What the first step of a path names, by its family."""


class Key(NamedTuple):
    """An entry of one of the book's lists; ``id`` is empty for the single parts (``house``, ``reading``, …)."""

    kind: str
    id: str = ""

    def __str__(self) -> str:
        return f"{self.kind}/{self.id}" if self.id else self.kind


Change = Callable[[Key, Key], str | None]
"""Called with who names what: returns the new id; None removes one of several, and keeps a single one."""


def renamed(book: Book, change: Change) -> JsonObject:
    """Returns the book's JSON with every reference changed by ``change``."""
    data = book_json(book)
    _Walk(book, data, change).all()
    return data


def references(book: Book) -> dict[Key, dict[Key, None]]:
    """Returns what each entry names, in order, without repeats."""
    named: dict[Key, dict[Key, None]] = {}

    def seen(owner: Key, what: Key) -> str:
        named.setdefault(owner, {})[what] = None
        return what.id

    _Walk(book, book_json(book), seen).all()
    return named


class _Walk:
    """Walks through a book and its JSON side by side."""

    def __init__(self, book: Book, data: JsonObject, change: Change) -> None:
        self.book, self.data, self.change = book, data, change
        self.inlets = {inlet.id for inlet in book.inlets}
        self.counts = {count.id for count in book.counts}

    def all(self) -> None:
        for cue, row in self._both("cues"):
            self._cue(cue, row)
        for jar, row in self._both("jars"):
            kind = {"media": "media", "cue": "cues"}.get(jar.kind)
            if kind:
                self._rows(Key("jars", jar.id), kind, row, "entries", "value")
        for part, row in self._both("cast"):
            self._many(Key("cast", part.id), "media", row, "mouths")
            self._one(Key("cast", part.id), "media", row, "blink")
        for inlet, row in self._both("inlets"):
            self._one(Key("inlets", inlet.id), "cues", row, "cue")
        for reward, row in self._both("rewards"):
            self._one(Key("rewards", reward.id), "gear", row, "channel")
            self._one(Key("rewards", reward.id), "media", row.get("picture", {}), "media")
        for count, row in self._both("counts"):
            for feed in row.get("feeds", []):
                self._one(Key("counts", count.id), "rewards", feed, "reward")
        for named, row in self._both("sets"):
            self._many(Key("sets", named.id), "rewards", row, "rewards")
        for look, row in self._both("looks"):
            owner = Key("looks", look.id)
            values = row.get("values", {})
            row["values"] = {self._path(owner, path): value for path, value in values.items()}
        self._many(Key("house"), "cues", self.data.get("house", {}), "pads")
        reading = self.data.get("reading", {})
        self._one(Key("reading"), "cast", reading, "default")
        self._values(Key("reading"), "cast", reading.get("viewers", {}))
        playbill = self.data.get("playbill", {})
        self._many(Key("playbill"), "rewards", playbill, "left_out")

    def _both(self, kind: str) -> Iterator[tuple[Any, JsonObject]]:
        return zip(getattr(self.book, kind), self.data.get(kind, []), strict=True)

    def _to(self, owner: Key, kind: str, old: str) -> str | None:
        return self.change(owner, Key(kind, old))

    def _one(self, owner: Key, kind: str, row: JsonObject, key: str | int) -> None:
        if isinstance(row, list) or key in row:
            new = self._to(owner, kind, row[key])
            if new is not None:
                row[key] = new

    def _many(self, owner: Key, kind: str, row: JsonObject, key: str) -> None:
        if isinstance(row.get(key), list):
            named = (self._to(owner, kind, one) for one in row[key])
            row[key] = list(dict.fromkeys(one for one in named if one is not None))

    def _values(self, owner: Key, kind: str, row: JsonObject) -> None:
        for key in row:
            self._one(owner, kind, row, key)

    def _rows(self, owner: Key, kind: str, row: JsonObject, key: str, of: str) -> None:
        kept = []
        for entry in row.get(key, []):
            new = self._to(owner, kind, entry[of])
            if new is not None:
                kept.append({**entry, of: new})
        if key in row:
            row[key] = kept

    def _path(self, owner: Key, path: str) -> str:
        """Renames the lamp, reward or bridge in a property's path."""
        whole = read_path(path)
        kind = NAMED_FIRST.get(whole.known)
        if kind is None or len(whole.steps) < 2:
            return path
        named, *more = whole.steps
        return str(whole._replace(steps=(self._to(owner, kind, named) or named, *more)))

    def _cue(self, cue: Cue, row: JsonObject) -> None:
        owner = Key("cues", cue.id)
        self._one(owner, "lanes", row, "lane")
        for call in row.get("calls", []):
            self._one(owner, "rewards", call, "reward")
            if call["kind"] == "count":
                self._one(owner, "counts", call, "count")
            if call["kind"] == "hook" and call["name"] in self.inlets:
                self._one(owner, "inlets", call, "name")
        self._conditions(owner, row.get("door", {}))
        for beat, told in zip(cue.beats, row.get("beats", []), strict=True):
            for key in ("media", "text", "colour", "cue"):
                source = told.get(key)
                if isinstance(source, dict):
                    self._one(owner, "media", source, "file")
                    self._one(owner, "jars", source, "jar")
            self._conditions(owner, told)
            for ref in KINDS[beat.kind].refs(beat):
                inside = told
                for step in ref.at[:-1]:
                    inside = inside[step]
                if ref.loose:
                    self._loose(owner, ref, inside)
                else:
                    self._one(owner, LISTS_NAMED[ref.what], inside, ref.at[-1])
            self._many(owner, "overlays", told, "overlays")

    def _loose(self, owner: Key, ref: Ref, row: JsonObject) -> None:
        """Changes what may be named by its name, or not be in the book at all."""
        kind = LISTS_NAMED[ref.what]
        listed = getattr(self.book, kind)
        there = next((one for one in listed if one.id == ref.id), None)
        if there is None and kind == "patterns":
            there = found(listed, ref.id)
        if there is not None and (new := self._to(owner, kind, there.id)) not in (None, there.id):
            row[str(ref.at[-1])] = new

    def _conditions(self, owner: Key, row: JsonObject) -> None:
        for condition in row.get("only_if", []):
            self._one(owner, "gear", condition, "gear")
            if condition.get("count") in self.counts:
                self._one(owner, "counts", condition, "count")


class Emptied(Exception):
    """A beat would be left without effect; ``cue`` and ``beat`` say which."""

    def __init__(self, cue: str, beat: str) -> None:
        super().__init__(cue, beat)
        self.cue, self.beat = cue, beat


def without(book: Book, gone: Set[Key]) -> JsonObject:
    """Returns the book's JSON without these entries, and without what names them: calls, members of sets, beats' lists.

    Raises:
        Emptied: a beat names nothing else.
    """
    data = renamed(book, lambda owner, what: None if what in gone else what.id)
    for kind in {key.kind for key in gone}:
        data[kind] = [row for row in data[kind] if Key(kind, row["id"]) not in gone]
    for cue, row in zip(book.cues, data.get("cues", []), strict=True):
        if "calls" in row:
            named = [(LISTS_NAMED.get(call["kind"], ""), call) for call in row["calls"]]
            row["calls"] = [call for kind, call in named if Key(kind, call.get(call["kind"], "")) not in gone]
        for beat in row.get("beats", []):
            try:
                KINDS[beat["kind"]].model.model_validate(beat)
            except ValidationError as error:
                raise Emptied(cue.name, beat["id"]) from error
    return data


def reached(book: Book, starts: list[Key]) -> dict[Key, None]:
    """Returns everything reachable from these entries, including themselves, in the order it is found."""
    named, met = references(book), dict[Key, None]()
    waiting = list(reversed(starts))
    while waiting:
        key = waiting.pop()
        if key not in met:
            met[key] = None
            waiting += reversed(named.get(key, {}))
    return met
