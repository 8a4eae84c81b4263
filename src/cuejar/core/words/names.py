"""The names of a book's entries."""

from __future__ import annotations

from cuejar.core.book.book import LISTS, Book
from cuejar.core.parts.steps import FromFace, FromFile, FromJar

ONE = {
    "lanes": "lane",
    "rewards": "reward",
    "sets": "set",
    "counts": "count",
    "jars": "jar",
    "cues": "cue",
    "cast": "part",
    "gear": "gear",
    "overlays": "overlay",
    "media": "file",
    "words": "word list",
    "looks": "resting look",
    "patterns": "pattern",
    "inlets": "inlet",
    "audiences": "audience",
}
"""The name of an entry of each list."""
ONCE = {
    "house": "the house settings",
    "reading": "the reading settings",
    "points": "own points",
    "playbill": "the playbill",
}
"""The single parts of the book."""
ROLES = {
    "everyone": "anyone",
    "follower": "followers",
    "member": "members",
    "vip": "VIPs",
    "moderator": "moderators",
    "streamer": "you",
}
ENTRIES = {
    "queue": "waits its turn",
    "overlap": "starts at once",
    "solo": "runs alone",
    "replace": "replaces its current run",
    "extend": "extends its current run",
    "refuse": "runs only when free",
}
"""What a call does in its lane."""
AIR = {"any": "always", "live": "only while live", "off": "only off air"}
"""When a cue can be called."""


def order_of(kind: str) -> str:
    """Returns the name of a list's order: *the order of the lanes*."""
    return f"the order of the {'parts' if kind == 'cast' else 'files' if kind == 'media' else kind}"


def titled(kind: str, name: str, thing: str) -> str:
    """Returns what an edit changes: *the cue Steam whistle*, *the order of the lanes*, *the house settings*."""
    return f"the {ONE[kind]} {name}" if thing else ONCE.get(kind, order_of(kind))


class Names:
    """The names of everything in some books; earlier books provide names that the later ones don't have."""

    def __init__(self, *books: Book) -> None:
        self._names: dict[tuple[str, str], str] = {
            (kind, entry.id): str(getattr(entry, "name", "") or getattr(entry, "title", "") or entry.id)
            for book in books
            for kind in LISTS
            for entry in getattr(book, kind)
        }
        self._costs = {reward.id: reward.cost for book in books for reward in book.rewards}
        self.points = books[-1].points.name if books and books[-1].points.on else ""
        """The name of own points; empty while they are off."""

    def of(self, kind: str, thing: str) -> str:
        """Returns the name of an entry, or its id if unknown."""
        return self._names.get((kind, thing), thing)

    def reward(self, thing: str) -> str:
        """Returns a reward with its price: *Steam whistle (250)*."""
        if (cost := self._costs.get(thing)) is None:
            return "a deleted reward"
        return f"{self.of('rewards', thing)} ({cost:,})"


class Noticed:
    """What viewers notice of a book, in words.

    ``whose``: how a viewer's own things are named for the reader.
    """

    def __init__(self, book: Book, whose: str = "the viewer’s") -> None:
        self.house = book.house
        self.whose = whose
        self._media = {entry.id: entry.name for entry in book.media}
        self._jars = {jar.id: jar for jar in book.jars}
        self._cues = {cue.id: cue.name for cue in book.cues}
        self._parts = {part.id: part.name for part in book.cast}

    def media(self, source: FromFile | FromJar | FromFace | None, what: str) -> str:
        if isinstance(source, FromFace):
            return f"{self.whose} picture"
        if isinstance(source, FromFile):
            return self._media.get(source.file, source.file)
        if source is None:
            return f"a {what}"
        jar = self._jars.get(source.jar)
        count = len([entry for entry in jar.entries if entry.on]) if jar is not None else 0
        some = f"{source.count} of" if source.count > 1 else "one of"
        return f"{some} {count} {what}s" if count > 1 else f"a {what}"

    def cue(self, source: str | FromJar) -> str:
        return self._cues.get(source, source) if isinstance(source, str) else "one of several"

    def thing(self, gear: str, thing: str) -> str:
        return f"the {thing}"

    def part(self, part: str | None) -> str:
        return self._parts.get(part, "") if part is not None else ""
