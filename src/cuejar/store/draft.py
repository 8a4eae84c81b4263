"""A book that is being changed: what an edit does to it, and which parts it touches."""

from __future__ import annotations

from typing import Any

from cuejar.core.book.book import Book
from cuejar.core.parts.base import BookError, JsonObject, Problem
from cuejar.core.parts.slugs import slug

EVERYTHING = "everything"


class NothingThere(Exception):
    """There is no such thing in the book, or nothing to undo or redo."""


class Draft:
    """A copy of the book, as JSON and as it was before.

    Attributes:
        what: what is done, in words; empty: derived from the change.
    """

    def __init__(self, book: Book, data: JsonObject, what: str = "") -> None:
        self.book, self.data, self.what = book, dict(data), what
        self.touched: set[str] = set()

    def put(self, kind: str, thing: str | None, value: Any) -> None:
        """Puts in a part: ``house``, or an entry of one of the lists (a new one last).

        Raises:
            BookError: the entry has another id.
        """
        if thing is None:
            self.touched.add(kind)
            self.data[kind] = value
            return
        if not isinstance(value, dict) or value.get("id") != thing:
            raise BookError([Problem("id", f"must be “{thing}”, as in the address")])
        self.touched.add(f"{kind}/{thing}")
        entries = self.entries(kind)
        index = next((i for i, entry in enumerate(entries) if entry["id"] == thing), len(entries))
        self.data[kind] = [*entries[:index], value, *entries[index + 1 :]]

    def add(self, kind: str, name: str, value: JsonObject, default: str) -> str:
        """Adds an entry to a list, with an id made from a name. Returns the id.

        Args:
            default: the id if nothing of the name can be used.
        """
        own = slug(name, {entry["id"] for entry in self.entries(kind)}, default)
        self.put(kind, own, {**value, "id": own})
        return own

    def remove(self, kind: str, thing: str) -> None:
        """Raises NothingThere."""
        self.touched.add(f"{kind}/{thing}")
        entries = self.entries(kind)
        kept = [entry for entry in entries if entry["id"] != thing]
        if len(kept) == len(entries):
            raise NothingThere(f"There is no “{thing}” among the {kind}.")
        self.data[kind] = kept

    def become(self, data: JsonObject) -> None:
        """Takes another book's JSON as a whole."""
        self.touched.add(EVERYTHING)
        self.data = data

    def entries(self, kind: str) -> list[JsonObject]:
        """Returns the entries of one of the lists."""
        return list(self.data.get(kind, []))

    def part(self, kind: str, thing: str) -> JsonObject | None:
        """Returns an entry of one of the lists."""
        return next((entry for entry in self.data.get(kind, []) if entry["id"] == thing), None)

    def is_stale(self, changed: list[str]) -> bool:
        """Returns whether these parts, changed meanwhile, are among those that this edit touches."""
        return bool(changed) and (
            EVERYTHING in self.touched or EVERYTHING in changed or not self.touched.isdisjoint(changed)
        )
