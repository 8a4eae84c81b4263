"""What bringing in another book, or some cues, would do to one's own: entry by entry, to be ticked, and what comes of it.

``book``   another state of a whole book: the same id means the same thing, which is then changed; what is not there is removed
``cues``   cues from somewhere: what is called the same here is used (lanes, parts, rewards, gear, overlays); an id that means
           something else here gets another one, with everything that names it

Whatever is taken takes along what it names and what is not here. What could be done that could not be done before (`powers`) comes
in switched off until it is allowed.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence, Set
from dataclasses import dataclass, field
from typing import Any, Literal, NamedTuple

from cuejar.core.book.book import LISTS, Book, Cue
from cuejar.core.book.files import book_from, book_json
from cuejar.core.carry.differences import PARTS, Field, State, entry_fields
from cuejar.core.carry.guard import Asked, Guard, as_it_is_here
from cuejar.core.carry.names import Lost, brought_home
from cuejar.core.carry.powers import powers
from cuejar.core.carry.references import Key, references, renamed
from cuejar.core.carry.secrets import payloads_of_ours, with_ours
from cuejar.core.carry.telling import told
from cuejar.core.carry.words import ONCE, Names, name_of, order_of
from cuejar.core.measures.catalogue import Catalogues
from cuejar.core.parts.base import BookError, JsonObject, Problem
from cuejar.core.parts.folding import folded
from cuejar.core.parts.slugs import slug

Scope = Literal["book", "cues"]
BY_NAME = frozenset({"lanes", "rewards", "cast", "gear", "overlays", "sets", "inlets"})
"""Of these, what is called the same here is used when cues come in."""


class Choices(NamedTuple):
    """What the streamer chose. ``take`` has the keys of rows that are taken (none: as offered), ``beside`` those that come beside
    one's own of the same id, ``allowed`` the powers that are allowed, ``names`` what stands for lost names."""

    take: frozenset[str] | None = None
    beside: frozenset[str] | None = None
    allowed: frozenset[str] = frozenset()
    names: Mapping[str, str] = {}


@dataclass
class Row:
    """An entry that differs. ``takes``: it is taken; ``clashes``: one's own has its id and may stay beside it; ``beside``: it comes
    so, as ``as_id``; ``needed_by``: what takes it along; ``told``: what it is, in a line, where it is new."""

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
    """``book`` is what would come of it; none where that would not hang together, as ``problems`` say. ``off`` are names of what
    comes in switched off; ``kept`` of what cannot be removed as it is still used; ``used`` of one's own that stand for theirs;
    ``stays`` says what of theirs is never imported."""

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
    """What would come of bringing ``theirs`` in.

    Args:
        catalogues: what the gear here has.
        trusted: it is a state of this very book, so that nothing in it needs to be allowed.
        fresh: nobody changed one's own book yet: a whole book takes its place.
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
    if not trusted:
        theirs, stays = as_it_is_here(ours, theirs)
    if scope == "cues":
        updates = _updates(ours, theirs, same)
    rows = _rows(ours, theirs, scope, same, updates)
    for row in rows:
        row.takes = row.takes or (fresh and scope == "book")
    _choose(rows, choices, scope)
    _take_along(rows, ours, theirs, same)
    _name_beside(rows, ours, theirs)
    used = [name_of(ours, Key(key.kind, thing)) for key, thing in same.items() if key.kind in BY_NAME]
    review = Review(rows, lost, [], used, stays=stays)
    try:
        merged = _merged(ours, theirs, rows, same, review, scope)
        review.book = merged if trusted else _guarded(ours, merged, choices, review)
    except BookError as error:
        review.problems = list(error.problems)
    return review


def _called(entry: Any) -> str:
    return folded(str(getattr(entry, "name", "") or getattr(entry, "title", "") or entry.id))


def _same(ours: Book, theirs: Book) -> dict[Key, str]:
    """What of theirs is here already: by name where that is what counts, else where nothing in it differs; and files by content."""
    found: dict[Key, str] = {}
    for kind in LISTS:
        own = getattr(ours, kind)
        for entry in getattr(theirs, kind):
            if kind == "media":
                match = next((one for one in own if one.file is not None and one.file == entry.file), None)
            elif kind in BY_NAME:
                near = [one for one in own if _called(one) == _called(entry)]
                if kind == "gear":
                    near = [one for one in near if one.kind == entry.kind]
                match = next((one for one in near if one.id == entry.id), near[0] if near else None)
            else:
                match = next((one for one in own if one.id == entry.id and _alike(one, entry)), None)
                match = match or next((one for one in own if _same_content(kind, one, entry)), None)
            if match is not None:
                found[Key(kind, entry.id)] = match.id
    return found


def _updates(ours: Book, theirs: Book, same: dict[Key, str]) -> dict[Key, str]:
    """Cues that came before, by where they came from: one's own ids. Those in which nothing differs are in ``same`` from then on."""
    by_origin = {cue.origin: cue for cue in ours.cues if cue.origin}
    found = {
        Key("cues", cue.id): by_origin[cue.origin].id for cue in theirs.cues if cue.origin and cue.origin in by_origin
    }
    incoming = renamed(theirs, lambda owner, what: found.get(what) or same.get(what) or what.id)
    own = {cue["id"]: cue for cue in book_json(ours).get("cues", [])}
    for cue, entry in zip(theirs.cues, incoming.get("cues", []), strict=True):
        key = Key("cues", cue.id)
        if key in found and _plain(entry) == _plain(own[found[key]]):
            same[key] = found.pop(key)
    return found


def _plain(cue: JsonObject) -> JsonObject:
    """A cue without what is one's own about it."""
    return {key: value for key, value in cue.items() if key not in ("id", "on", "origin", "hidden", "name", "lane")}


def _alike(one: Any, other: Any) -> bool:
    """Whether two entries are the same, wherever they came from."""
    if isinstance(one, Cue) and isinstance(other, Cue):
        return one.model_copy(update={"origin": ""}) == other.model_copy(update={"origin": ""})
    return bool(one == other)


def _same_content(kind: str, one: Any, other: Any) -> bool:
    """Whether something came before beside one's own of its id, and is the same but for its id and name."""
    if kind not in ("jars", "patterns"):
        return False
    named = {"id": other.id, "name": other.name}
    return one.id.startswith(f"{other.id}-") and bool(one.model_copy(update=named) == other)


def _rows(
    ours: Book, theirs: Book, scope: Scope, same: Mapping[Key, str], updates: Mapping[Key, str] | None = None
) -> list[Row]:
    rows: list[Row] = []
    names, books = Names(ours, theirs), (ours, theirs)
    if scope == "book":
        for part in PARTS:
            old, new = getattr(ours, part), getattr(theirs, part)
            if old != new:
                rows.append(Row(Key(part), ONCE[part], "changed", entry_fields(old, new, names, books), True))
    for kind in LISTS:
        own = {entry.id: entry for entry in getattr(ours, kind)}
        for entry in getattr(theirs, kind):
            key = Key(kind, entry.id)
            there = own.pop(entry.id, None)
            name = name_of(theirs, key)
            if updates and key in updates:
                known = next(one for one in ours.cues if one.id == updates[key])
                fields = entry_fields(known, entry.model_copy(update={"id": known.id, "on": known.on}), names, books)
                rows.append(Row(key, name, "changed", fields, True, as_id=known.id, told=told(kind, entry, theirs)))
                continue
            if key in same or (there is not None and _alike(there, entry)):
                continue
            if there is None:
                rows.append(Row(key, name, "new", [], True, told=told(kind, entry, theirs)))
            else:
                fields = entry_fields(there, entry, names, books)
                rows.append(
                    Row(key, name, "changed", fields, True, True, scope == "cues", told=told(kind, entry, theirs))
                )
        if scope == "book":
            rows += [Row(Key(kind, thing), name_of(ours, Key(kind, thing)), "removed", [], False) for thing in own]
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
    """What is taken takes along what it names and what is not here under that id."""
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
    """Ids for what comes in beside one's own."""
    for row in rows:
        if row.takes and row.beside:
            taken = {entry.id for book in (ours, theirs) for entry in getattr(book, row.key.kind)}
            taken |= {other.as_id for other in rows if other.key.kind == row.key.kind}
            row.as_id = slug(row.key.id, taken)


def _merged(ours: Book, theirs: Book, rows: list[Row], same: Mapping[Key, str], review: Review, scope: Scope) -> Book:
    ids = {row.key: row.as_id for row in rows if row.as_id}

    def to(owner: Key, what: Key) -> str:
        return ids.get(what) or same.get(what) or what.id

    incoming = renamed(theirs, to)
    data = dict(book_json(ours))
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
    return _without_removed(data, [row for row in taken.values() if row.state == "removed"], review)


def _ordered(entries: dict[str, JsonObject], wanted: list[JsonObject]) -> list[JsonObject]:
    """Entries in the order in which they are wanted; those that are not wanted stay behind the one that they stood behind."""
    ids = [entry["id"] for entry in wanted if entry["id"] in entries]
    after = ""
    for thing in entries:
        if thing not in ids:
            ids.insert(ids.index(after) + 1 if after in ids else 0, thing)
        after = thing
    return [entries[thing] for thing in ids]


def _placed(entries: dict[str, JsonObject], own: Set[str], wanted: Sequence[str]) -> list[JsonObject]:
    """One's own entries in their order; each that is new behind the one that it stands behind where it comes from."""
    ids = [thing for thing in entries if thing in own]
    for place, thing in enumerate(wanted):
        if thing in entries and thing not in own:
            before = next((one for one in reversed(wanted[:place]) if one in ids), None)
            ids.insert(ids.index(before) + 1 if before is not None else 0, thing)
    ids += [thing for thing in entries if thing not in ids]
    return [entries[thing] for thing in ids]


def _apart(entry: JsonObject, names: set[str]) -> JsonObject:
    """A thing that comes beside one's own of the same name is told apart by its name, too."""
    key = "title" if "title" in entry else "name"
    name, number = str(entry.get(key, "")), 2
    if not name or folded(name) not in names:
        return entry
    while folded(f"{name} ({number})") in names:
        number += 1
    return {**entry, key: f"{name[:190]} ({number})"}


def _without_removed(data: JsonObject, removed: list[Row], review: Review) -> Book:
    """Takes out what is removed; what something that stays still names is kept, and said."""
    whole = book_from(data)
    out = {row.key: row for row in removed}
    named = references(whole)
    staying = True
    while staying and out:
        used = {what for owner, some in named.items() if owner not in out and owner.id for what in some}
        staying = bool(out.keys() & used)
        for key in list(out.keys() & used):
            review.kept.append(out.pop(key).name)

    def to(_: Key, what: Key) -> str | None:
        return None if what in out else what.id

    data = renamed(whole, to)
    for kind in LISTS:
        if kind in data:
            data[kind] = [entry for entry in data[kind] if Key(kind, entry["id"]) not in out]
    if data.get("reading", {}).get("default") not in {part["id"] for part in data.get("cast", [])}:
        data.get("reading", {}).pop("default", None)
    return book_from(data)


def _guarded(ours: Book, merged: Book, choices: Choices, review: Review) -> Book:
    """Leaves out what is never taken, and what could do more than before and was not allowed."""
    data = book_json(merged)
    guard = Guard(ours, data, choices.allowed)
    guard.never()
    guard.house()
    guard.parts()
    # What is switched off here was allowed nothing: what it could do is asked again.
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
    return book_from(data)
