"""What differs between two books, entry by entry and field by field, in words."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal, NamedTuple

from pydantic import TypeAdapter

from cuejar.core.book.book import LISTS, Book
from cuejar.core.carry.references import Key
from cuejar.core.kinds.table import KINDS, AnyBeat
from cuejar.core.parts.base import JsonObject
from cuejar.core.parts.steps import Beat
from cuejar.core.words.cues import beat_told
from cuejar.core.words.fields import label, said
from cuejar.core.words.names import ONCE, Names, Noticed, order_of, titled

PARTS = tuple(ONCE)
"""The single parts of the book."""
State = Literal["new", "changed", "removed"]
MOST_WORDS = 200


class Field(NamedTuple):
    """A field that differs: its ``path`` in the book, its name, and its old and new value in words."""

    path: str
    what: str
    was: str
    now: str

    def __str__(self) -> str:
        if not self.was:
            return f"{self.what}: {self.now}" if self.now else self.what
        return f"{self.what}: {self.was} → {self.now}"


@dataclass
class Difference:
    """An entry that is new, changed or removed; a changed one has ``fields``."""

    key: Key
    name: str
    state: State
    fields: list[Field] = field(default_factory=list)

    def __str__(self) -> str:
        what = titled(self.key.kind, self.name, self.key.id)
        if self.state != "changed":
            return f"{'added' if self.state == 'new' else 'removed'} {what}"
        told = "; ".join(str(one) for one in self.fields[:3])
        more = f"; {len(self.fields) - 3} more" if len(self.fields) > 3 else ""
        return f"changed {what}: {told}{more}" if told else f"changed {what}"


def differences(before: Book, after: Book) -> list[Difference]:
    """Returns every entry in which two books differ, by list; another order counts as a change of the list only."""
    names, noticed = Names(before, after), Noticed(after)
    found: list[Difference] = []
    for part in PARTS:
        old, new = getattr(before, part), getattr(after, part)
        if old != new:
            found.append(Difference(Key(part), ONCE[part], "changed", entry_fields(old, new, names, noticed)))
    for kind in LISTS:
        was = {entry.id: entry for entry in getattr(before, kind)}
        now = {entry.id: entry for entry in getattr(after, kind)}
        for thing in {**was, **now}:
            key = Key(kind, thing)
            if thing not in now:
                found.append(Difference(key, names.of(*key), "removed"))
            elif thing not in was:
                found.append(Difference(key, names.of(*key), "new"))
            elif was[thing] != now[thing]:
                fields = entry_fields(was[thing], now[thing], names, noticed)
                found.append(Difference(key, names.of(*key), "changed", fields))
        kept = [thing for thing in was if thing in now]
        if kept != [thing for thing in now if thing in was]:
            found.append(Difference(Key(kind), order_of(kind), "changed"))
    return found


def in_words(found: Sequence[Difference]) -> str:
    """Returns differences as the one line of a revision, at most `MOST_WORDS` characters."""
    if not found:
        return "nothing"
    text = str(found[0]) + (f", and {len(found) - 1} more" if len(found) > 1 else "")
    return text if len(text) <= MOST_WORDS else text[: MOST_WORDS - 2].rstrip() + " …"


def entry_fields(was: Any, now: Any, names: Names, noticed: Noticed) -> list[Field]:
    """Returns the fields in which two states of an entry differ; ``noticed`` belongs to the current book."""
    return list(_fields(_full(was), _full(now), names, noticed))


_BEAT: TypeAdapter[Beat] = TypeAdapter(AnyBeat)
UNTOLD = frozenset({"origin"})
"""Fields whose differences aren't reported."""


def _full(entry: Any) -> JsonObject:
    full: JsonObject = entry.model_dump(mode="json", by_alias=True)
    return full


def _fields(
    was: JsonObject, now: JsonObject, names: Names, noticed: Noticed, path: str = "", of: str = ""
) -> Iterator[Field]:
    for key in {**was, **now}:
        old, new = was.get(key), now.get(key)
        if old == new or key in UNTOLD:
            continue
        here = f"{path}.{key}" if path else key
        if _has_ids(old) and _has_ids(new):
            yield from _entries(key, old or [], new or [], names, noticed, here, of)
        elif key == "entries" and isinstance(old, list) and isinstance(new, list):
            yield from _jar_entries(old, new, here)
        elif isinstance(old, list) and isinstance(new, list) and key in ("frames", "wave"):
            yield Field(here, f"{of}{label(key)}", str(len(old)), f"{len(new)}, changed")
        elif isinstance(old, dict) and isinstance(new, dict) and key in _DEEPER and set(old) == set(new):
            inside = of if key == "door" else f"{of}{label(key)} "
            yield from _fields(old, new, names, noticed, here, "" if key == "door" else inside)
        else:
            yield Field(here, f"{of}{label(key)}", said(key, old, names), said(key, new, names))


_DEEPER = frozenset({"door", "place", "mouth_place", "price", "pad", "hook", "start"})
"""Objects whose fields are reported one by one."""


def _has_ids(value: Any) -> bool:
    return isinstance(value, list) and all(isinstance(one, dict) and "id" in one for one in value)


def _entries(
    key: str,
    old: list[JsonObject],
    new: list[JsonObject],
    names: Names,
    noticed: Noticed,
    here: str,
    of: str,
) -> Iterator[Field]:
    """Returns the beats, lamps, groups or outcomes that were added, removed or changed."""
    was, now = {one["id"]: one for one in old}, {one["id"]: one for one in new}
    one_of = {"beats": "beat", "fixtures": "lamp", "groups": "group", "targets": "target"}.get(
        key, label(key).removesuffix("s")
    )
    for thing in {**was, **now}:
        path = f"{here}.{thing}"
        if thing not in was:
            yield Field(path, f"{of}new {one_of} “{thing}”", "", _told(key, now[thing], noticed))
        elif thing not in now:
            yield Field(path, f"{of}{one_of} “{thing}” removed", "", "")
        elif was[thing] != now[thing]:
            yield from _fields(was[thing], now[thing], names, noticed, path, f"{of}“{thing}” ")
    if list(was) != list(now) and set(was) == set(now):
        yield Field(here, f"{of}order of the {label(key)}", "", ", ".join(now))


def _told(key: str, entry: JsonObject, noticed: Noticed) -> str:
    if key != "beats":
        return str(entry.get("name", ""))
    return beat_told(_BEAT.validate_python(entry), noticed) or KINDS[entry["kind"]].name


def _jar_entries(old: list[JsonObject], new: list[JsonObject], here: str) -> Iterator[Field]:
    """Returns the changed entries of a jar or of a word list, counted: there may be thousands."""
    was, now = ({one.get("value", one.get("text")): one for one in some} for some in (old, new))
    told = [
        (len(now.keys() - was.keys()), "new"),
        (len(was.keys() - now.keys()), "removed"),
        (sum(was[value] != now[value] for value in was.keys() & now.keys()), "changed"),
    ]
    some = [f"{count} {what}" for count, what in told if count]
    yield Field(here, "entries", "", ", ".join(some) or "new order")
