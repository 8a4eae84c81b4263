"""Shares some cues: only these, with all that they need, and nothing private."""

from __future__ import annotations

from collections.abc import Sequence

from cuejar.core.book.book import LISTS, Book
from cuejar.core.book.files import book_from, book_json
from cuejar.core.carry.references import Key, reached
from cuejar.core.parts.base import BookError, JsonObject, Problem

HOME = frozenset({"lights", "broadcaster", "avatar", "voice", "haptics", "keys", "channel"})
"""Gear that everybody has their own of: its names are mapped to those on the other side."""


def handed_on(book: Book, cues: Sequence[str], home: str = "") -> Book:
    """Returns a book of these cues with the files, jars, parts, patterns, lanes, rewards, inlets and hooks that they
    name, and the cues that they fire.

    Blocked viewers, hidden snags, folders of this computer and lamps are left out.

    Args:
        home: identifies this data folder; by it the cues are recognised when they are imported again.

    Raises:
        BookError: there is no such cue.
    """
    there = {cue.id for cue in book.cues}
    lost = [cue for cue in cues if cue not in there]
    if lost:
        raise BookError([Problem("cues", f"there is no cue “{one}”") for one in lost])
    lane_of = {cue.id: book.lane_of(cue) for cue in book.cues}
    starts = [Key("cues", cue) for cue in cues]
    wanted = reached(book, starts)
    wanted |= {Key("lanes", lane_of[key.id]): None for key in list(wanted) if key.kind == "cues"}
    data = book_json(book)
    out: JsonObject = {"format": data["format"], "version": data["version"]}
    for kind in LISTS:
        kept = [_own(kind, entry) for entry in data.get(kind, []) if Key(kind, entry["id"]) in wanted]
        if kind == "gear":
            kept = [gear for gear in kept if gear["kind"] not in HOME]
        if kept:
            out[kind] = kept
    for cue in out["cues"]:
        # The first lane is a different one elsewhere.
        cue.setdefault("lane", lane_of[cue["id"]])
        if home:
            cue.setdefault("origin", f"{home}/{cue['id']}")
    if "lanes" not in data:
        out["lanes"] = [{"id": "main", "name": "Main"}]
    gear = {one["id"] for one in out.get("gear", [])}
    for reward in out.get("rewards", []):
        if reward.get("channel") not in gear:
            reward.pop("channel", None)
    return book_from(out)


def _own(kind: str, entry: JsonObject) -> JsonObject:
    entry = dict(entry)
    if kind == "cues":
        entry.pop("hidden", None)
        if "shut_out" in entry.get("door", {}):
            entry["door"] = {key: value for key, value in entry["door"].items() if key != "shut_out"}
    if kind == "jars":
        entry.pop("folder", None)
    return entry
