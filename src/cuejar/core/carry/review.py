"""What importing another book, or some cues, would change: entry by entry, selectable, with the result.

``book``   another state of a whole book: the same id means the same entry, which is changed; missing entries are
removed
``cues``   cues from elsewhere: entries with the same name here are used (lanes, parts, rewards, gear, overlays); an id
that is taken here is replaced, with everything that names it

A selected entry brings along what it names if that isn't here. Anything that could do more than before (`powers`) is
imported switched off until it is allowed.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence, Set
from dataclasses import dataclass, field
from typing import Any, Literal, NamedTuple

from pydantic_core import from_json, to_json

from cuejar.core.book.book import LISTS, Book, Cue
from cuejar.core.book.files import book_json, rebuilt
from cuejar.core.carry.differences import PARTS, Field, State, entry_fields
from cuejar.core.carry.guard import Asked, Guard, as_it_is_here
from cuejar.core.carry.names import Lost, brought_home
from cuejar.core.carry.powers import powers
from cuejar.core.carry.references import Key, references, renamed
from cuejar.core.carry.secrets import payloads_of_ours, with_ours
from cuejar.core.measures.catalogue import Catalogues
from cuejar.core.parts.base import BookError, JsonObject, Problem
from cuejar.core.parts.folding import folded
from cuejar.core.parts.slugs import slug
from cuejar.core.words.entries import Telling
from cuejar.core.words.names import ONCE, Names, Noticed, order_of

Scope = Literal["book", "cues"]
BY_NAME = frozenset({"lanes", "rewards", "cast", "gear", "overlays", "sets", "inlets"})
"""Lists whose entries are matched by name when cues are imported."""


class Choices(NamedTuple):
    """What the streamer chose. ``take`` has the keys of the selected rows (none: as offered), ``beside`` those to keep
    both of, ``allowed`` the permissions, ``names`` the replacements of missing names, ``data`` the parts beside the
    book (none: as offered).
    """

    take: frozenset[str] | None = None
    beside: frozenset[str] | None = None
    allowed: frozenset[str] = frozenset()
    names: Mapping[str, str] = {}
    data: frozenset[str] | None = None


@dataclass
class Row:
    """An entry that differs. ``takes``: it is selected; ``clashes``: ours has its id, and both may be kept; ``beside``:
    both are kept, this one as ``as_id``; ``needed_by``: what brings it along; ``told``: a new entry in one line.
    """

    key: Key
    name: str
    state: State
    fields: list[Field]
    takes: bool
    clashes: bool = False
    beside: bool = False
    as_id: str = ""
    needed_by: str = ""
    told: str = ""


@dataclass
class Review:
    """``book`` is the result; none if it would be invalid, as ``problems`` say. ``off`` are names of entries imported
    switched off; ``kept`` of those that can't be removed because they are still used; ``used`` of ours that replace
    theirs; ``stays`` says what is never imported.
    """

    rows: list[Row]
    names: list[Lost]
    asked: list[Asked]
    used: list[str]
    book: Book | None = None
    problems: list[Problem] = field(default_factory=list)
    off: list[str] = field(default_factory=list)
    kept: list[str] = field(default_factory=list)
    stays: list[str] = field(default_factory=list)


def reviewed(
    ours: Book,
    theirs: Book,
    scope: Scope,
    choices: Choices = Choices(),
    catalogues: Catalogues | None = None,
    trusted: bool = False,
    fresh: bool = False,
) -> Review:
    """Returns the result of importing ``theirs``.

    Args:
        catalogues: what the gear here has.
        trusted: it is a state of this very book, so that nothing in it needs permission.
        fresh: the current book was never changed: a whole book replaces it.
    """
    same = _same(ours, theirs) if scope == "cues" else {}
    updates: dict[Key, str] = {}
    gear = theirs.gear if scope == "book" else ours.gear
    theirs, lost = (
        brought_home(theirs, [cue.id for cue in theirs.cues], gear, catalogues or Catalogues(), choices.names)
        if not trusted
        else (theirs, [])
    )
    stays: list[str] = []
    own = book_json(ours)
    if not trusted:
        theirs, stays = as_it_is_here(ours, own, theirs)
    if scope == "cues":
        updates = _updates(ours, own, theirs, same)
    rows = _rows(ours, theirs, scope, same, updates)
    for row in rows:
        row.takes = row.takes or (fresh and scope == "book")
    _choose(rows, choices, scope)
    _take_along(rows, ours, theirs, same)
    _name_beside(rows, ours, theirs)
    names = Names(ours)
    used = [names.of(key.kind, thing) for key, thing in same.items() if key.kind in BY_NAME]
    review = Review(rows, lost, [], used, stays=stays)
    try:
        merged = _merged(ours, own, theirs, rows, same, review, scope)
        review.book = merged if trusted else _guarded(ours, own, merged, choices, review)
    except BookError as error:
        review.problems = list(error.problems)
    return review


def _called(entry: Any) -> str:
    return folded(str(getattr(entry, "name", "") or getattr(entry, "title", "") or entry.id))


def _same(ours: Book, theirs: Book) -> dict[Key, str]:
    """Returns which of their entries are here already: by name where names count, otherwise by content; and files by
    hash.
    """
    found: dict[Key, str] = {}
    for kind in LISTS:
        own = _Own(kind, getattr(ours, kind))
        for entry in getattr(theirs, kind):
            match = own.match(entry)
            if match is not None:
                found[Key(kind, entry.id)] = match.id
    return found


class _Own:
    """One of the lists here, to look up an entry of theirs."""

    def __init__(self, kind: str, own: Sequence[Any]) -> None:
        self.kind = kind
        self.by_id = {one.id: one for one in own}
        self.by_file = {one.file: one for one in reversed(own) if kind == "media" and one.file is not None}
        self.called: dict[tuple[str, str], list[Any]] = {}
        self.beside: dict[tuple[str, str], Any] = {}
        for one in own:
            if kind in BY_NAME:
                self.called.setdefault(self._called(one), []).append(one)
            if kind in ("jars", "patterns"):
                self.beside.setdefault((one.id.rpartition("-")[0], _content(one)), one)

    def _called(self, entry: Any) -> tuple[str, str]:
        return _called(entry), entry.kind if self.kind == "gear" else ""

    def match(self, entry: Any) -> Any:
        """Returns its counterpart here, or None."""
        if self.kind == "media":
            return self.by_file.get(entry.file)
        there = self.by_id.get(entry.id)
        if self.kind in BY_NAME:
            near = self.called.get(self._called(entry), [])
            return (
                there if there is not None and self._called(there) == self._called(entry) else near[0] if near else None
            )
        if there is not None and _alike(there, entry):
            return there
        # An entry kept beside ours before is the same apart from its id and its name.
        return self.beside.get((entry.id, _content(entry))) if self.beside else None


def _content(entry: Any) -> str:
    """Returns an entry without its id and name, for comparison."""
    content: str = entry.model_dump_json(by_alias=True, exclude={"id", "name"})
    return content


def _updates(ours: Book, own_book: JsonObject, theirs: Book, same: dict[Key, str]) -> dict[Key, str]:
    """Returns cues that were imported before, by their origin: our ids. Unchanged ones are added to ``same``."""
    by_origin = {cue.origin: cue for cue in ours.cues if cue.origin}
    found = {
        Key("cues", cue.id): by_origin[cue.origin].id for cue in theirs.cues if cue.origin and cue.origin in by_origin
    }
    if not found:
        return found
    incoming = renamed(theirs, lambda owner, what: found.get(what) or same.get(what) or what.id)
    own = {cue["id"]: cue for cue in own_book.get("cues", [])}
    for cue, entry in zip(theirs.cues, incoming.get("cues", []), strict=True):
        key = Key("cues", cue.id)
        if key in found and _plain(entry) == _plain(own[found[key]]):
            same[key] = found.pop(key)
    return found


def _plain(cue: JsonObject) -> JsonObject:
    """Returns a cue without its private fields."""
    return {key: value for key, value in cue.items() if key not in ("id", "on", "origin", "hidden", "name", "lane")}


def _alike(one: Any, other: Any) -> bool:
    """Returns whether two entries are the same, whatever their origin."""
    if isinstance(one, Cue) and isinstance(other, Cue):
        return one.model_copy(update={"origin": ""}) == other.model_copy(update={"origin": ""})
    return bool(one == other)


def _rows(
    ours: Book, theirs: Book, scope: Scope, same: Mapping[Key, str], updates: Mapping[Key, str] | None = None
) -> list[Row]:
    rows: list[Row] = []
    names, noticed, telling = Names(ours, theirs), Noticed(theirs), Telling(theirs)
    our_names, our_cues = Names(ours), {cue.id: cue for cue in ours.cues}
    if scope == "book":
        for part in PARTS:
            old, new = getattr(ours, part), getattr(theirs, part)
            if old != new:
                rows.append(Row(Key(part), ONCE[part], "changed", entry_fields(old, new, names, noticed), True))
    for kind in LISTS:
        own = {entry.id: entry for entry in getattr(ours, kind)}
        for entry in getattr(theirs, kind):
            key = Key(kind, entry.id)
            there = own.pop(entry.id, None)
            name = telling.names.of(kind, entry.id)
            if updates and key in updates:
                known = our_cues[updates[key]]
                fields = entry_fields(known, entry.model_copy(update={"id": known.id, "on": known.on}), names, noticed)
                rows.append(Row(key, name, "changed", fields, True, as_id=known.id, told=telling.told(kind, entry)))
                continue
            if key in same or (there is not None and _alike(there, entry)):
                continue
            if there is None:
                rows.append(Row(key, name, "new", [], True, told=telling.told(kind, entry)))
            else:
                fields = entry_fields(there, entry, names, noticed)
                told = telling.told(kind, entry)
                rows.append(Row(key, name, "changed", fields, True, True, scope == "cues", told=told))
        if scope == "book":
            rows += [Row(Key(kind, thing), our_names.of(kind, thing), "removed", [], False) for thing in own]
            there_too = {entry.id for entry in getattr(theirs, kind)}
            was, now = (
                [entry.id for entry in getattr(book, kind) if entry.id in there_too and entry.id not in own_only]
                for book, own_only in ((ours, ()), (theirs, there_too - {one.id for one in getattr(ours, kind)}))
            )
            if was != now:
                rows.append(Row(Key(kind), order_of(kind), "changed", [], True))
    return rows


def _choose(rows: list[Row], choices: Choices, scope: Scope) -> None:
    for row in rows:
        if choices.take is not None:
            row.takes = str(row.key) in choices.take
        if choices.beside is not None and row.clashes:
            row.beside = str(row.key) in choices.beside


def _take_along(rows: list[Row], ours: Book, theirs: Book, same: Mapping[Key, str]) -> None:
    """Adds what selected entries name and what isn't here under that id."""
    if all(row.takes for row in rows if row.state == "new"):
        return
    by_key = {row.key: row for row in rows}
    named = references(theirs)
    waiting = [row for row in rows if row.takes and row.state != "removed"]
    while waiting:
        row = waiting.pop()
        for what in named.get(row.key, {}):
            needed = by_key.get(what)
            if needed is not None and needed.state == "new" and not needed.takes:
                needed.takes, needed.needed_by = True, row.name
                waiting.append(needed)


def _name_beside(rows: list[Row], ours: Book, theirs: Book) -> None:
    """Returns new ids for entries that are kept beside ours."""
    taken: dict[str, set[str]] = {
        kind: {entry.id for book in (ours, theirs) for entry in getattr(book, kind)} for kind in LISTS
    }
    for row in rows:
        if row.as_id:
            taken[row.key.kind].add(row.as_id)
    for row in rows:
        if row.takes and row.beside:
            row.as_id = slug(row.key.id, taken[row.key.kind])
            taken[row.key.kind].add(row.as_id)


def _merged(
    ours: Book,
    own_json: JsonObject,
    theirs: Book,
    rows: list[Row],
    same: Mapping[Key, str],
    review: Review,
    scope: Scope,
) -> Book:
    ids = {row.key: row.as_id for row in rows if row.as_id}

    def to(owner: Key, what: Key) -> str:
        return ids.get(what) or same.get(what) or what.id

    incoming = renamed(theirs, to)
    data = dict(own_json)
    taken = {row.key: row for row in rows if row.takes}
    for part in PARTS:
        if Key(part) in taken:
            data[part] = incoming.get(part, {})
    for kind in LISTS:
        entries: dict[str, JsonObject] = {entry["id"]: entry for entry in data.get(kind, [])}
        names = {_called(one) for one in getattr(ours, kind)}
        for entry in incoming.get(kind, []):
            row = taken.get(Key(kind, entry["id"]))
            if row is None or row.state == "removed":
                continue
            if row.beside:
                entry = _apart({**entry, "id": row.as_id}, names)
                if kind == "cues":
                    entry["on"] = False
                    review.off.append(str(entry["name"]))
            elif row.as_id:
                known = entries[row.as_id]
                entry = {
                    **(payloads_of_ours(entry, known) if kind == "cues" else entry),
                    "id": row.as_id,
                    **{name: known[name] for name in ("on", "name", "lane", "hidden") if name in known},
                }
            elif kind == "gear" and entry["id"] in entries:
                entry = with_ours(entry, entries[entry["id"]])
            elif kind == "cues" and entry["id"] in entries:
                entry = payloads_of_ours(entry, entries[entry["id"]])
            entries[entry["id"]] = entry
        if entries:
            wanted = incoming.get(kind, [])
            if Key(kind) in taken:
                data[kind] = _ordered(entries, wanted)
            elif scope == "cues":
                data[kind] = list(entries.values())
            else:
                own = {entry.id for entry in getattr(ours, kind)}
                data[kind] = _placed(entries, own, [entry["id"] for entry in wanted])
    whole = rebuilt(data, (ours, own_json), (theirs, book_json(theirs)))
    removed = [row for row in taken.values() if row.state == "removed"]
    return _without_removed(whole, removed, review) if removed else whole


def _ordered(entries: dict[str, JsonObject], wanted: list[JsonObject]) -> list[JsonObject]:
    """Returns entries in the wanted order; the others stay after their former predecessor."""
    ids = [entry["id"] for entry in wanted if entry["id"] in entries]
    return [entries[thing] for thing in _woven(ids, list(entries))]


def _placed(entries: dict[str, JsonObject], own: Set[str], wanted: Sequence[str]) -> list[JsonObject]:
    """Returns our entries in their order; each new one follows its predecessor in the other book."""
    ids = _woven([thing for thing in entries if thing in own], [thing for thing in wanted if thing in entries])
    there = set(ids)
    ids += [thing for thing in entries if thing not in there]
    return [entries[thing] for thing in ids]


def _woven(order: Sequence[str], others: Sequence[str]) -> list[str]:
    """Returns an order with the missing items of the other one inserted after their predecessor there."""
    behind: dict[str, list[str]] = {thing: [] for thing in order}
    first, last = list[str](), ""
    for thing in others:
        if thing in behind:
            last = thing
        else:
            (behind[last] if last else first).append(thing)
    return [*first, *(one for thing in order for one in (thing, *behind[thing]))]


def _apart(entry: JsonObject, names: set[str]) -> JsonObject:
    """Gives an entry kept beside ours another name, too."""
    key = "title" if "title" in entry else "name"
    name, number = str(entry.get(key, "")), 2
    if not name or folded(name) not in names:
        return entry
    while folded(f"{name} ({number})") in names:
        number += 1
    return {**entry, key: f"{name[:190]} ({number})"}


def _without_removed(whole: Book, removed: list[Row], review: Review) -> Book:
    """Removes entries; those still named by something are kept, and reported."""
    out = {row.key: row for row in removed}
    named = references(whole)
    staying = [owner for owner in named if owner not in out and owner.id]
    while staying:
        for what in named.get(staying.pop(), {}):
            if what in out:
                review.kept.append(out.pop(what).name)
                staying.append(what)

    def to(_: Key, what: Key) -> str | None:
        return None if what in out else what.id

    data = renamed(whole, to)
    for kind in LISTS:
        if kind in data:
            data[kind] = [entry for entry in data[kind] if Key(kind, entry["id"]) not in out]
    if data.get("reading", {}).get("default") not in {part["id"] for part in data.get("cast", [])}:
        data.get("reading", {}).pop("default", None)
    return rebuilt(data, (whole, book_json(whole)))


def _guarded(ours: Book, own: JsonObject, merged: Book, choices: Choices, review: Review) -> Book:
    """Drops fields that are never imported, and holds back what could do more than before and wasn't allowed."""
    told = book_json(merged)
    data: JsonObject = from_json(to_json(told))
    guard = Guard(ours, own, data, choices.allowed)
    guard.never()
    guard.house()
    guard.parts()
    # What is off here was allowed nothing: its permissions are asked again.
    on = {cue.id for cue in ours.cues if cue.on}
    before, after = powers(ours), powers(merged)
    for cue in data.get("cues", []):
        had = before.get(cue["id"], {}) if cue["id"] in on else {}
        answers = [guard.allowed(power, cue["name"]) for power in after[cue["id"]] if power not in had]
        if not all(answers):
            if cue.get("on", True):
                guard.off[cue["name"]] = None
            cue["on"] = False
    guard.entries(merged)
    review.asked, review.off = list(guard.asked.values()), list(dict.fromkeys([*review.off, *guard.off]))
    return rebuilt(data, (merged, told))
