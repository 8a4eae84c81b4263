"""Made-up names in the place of viewers': in happenings, in the state before a night, and in texts that name them."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping
from typing import Any

from cuejar.core.nights.generator import NAMES_OF_VIEWERS
from cuejar.core.parts.base import JsonObject

SHORTEST = 3
"""A name that is shorter is not looked for within texts."""


class MadeUp:
    """A made-up id and name for each viewer, the same wherever they are named."""

    def __init__(self, viewers: Iterable[tuple[str, str]]) -> None:
        """Args:
        viewers: ids and names.
        """
        self._names: dict[str, str] = {}
        self._ids: dict[str, str] = {}
        self._by_name: dict[str, str] = {}
        for viewer, name in viewers:
            if viewer not in self._names:
                number = len(self._names)
                self._names[viewer] = f"{NAMES_OF_VIEWERS[number % len(NAMES_OF_VIEWERS)]}_{number + 1}"
                self._ids[viewer] = f"viewer-{number + 1}"
            for told in (name, viewer):
                if len(told) >= SHORTEST:
                    self._by_name.setdefault(told.casefold(), self._names[viewer])
        those = "|".join(re.escape(told) for told in sorted(self._by_name, key=len, reverse=True))
        self._pattern = re.compile(rf"(?<!\w)(?:{those})(?!\w)", re.IGNORECASE) if those else None

    def name(self, viewer: str, name: str = "") -> str:
        """The made-up name; of an unknown viewer a plain one; nobody stays nobody."""
        if not viewer and not name:
            return ""
        return self._names.get(viewer) or self._by_name.get(name.casefold()) or "somebody"

    def id(self, viewer: str) -> str:
        return self._ids.get(viewer, "viewer") if viewer else ""

    def text(self, text: str) -> str:
        """The text, in which viewers are called by their made-up names."""
        if self._pattern is None or not text:
            return text
        return self._pattern.sub(lambda found: self._by_name.get(found.group().casefold(), "somebody"), text)

    def happening(self, told: JsonObject) -> JsonObject:
        """A happening as JSON."""
        out = dict(told)
        if isinstance(out.get("viewer"), Mapping):
            out["viewer"] = self._viewer(out["viewer"])
        if isinstance(out.get("viewers"), list):
            out["viewers"] = [self._viewer(one) for one in out["viewers"]]
        for field in ("text", "message"):
            if isinstance(out.get(field), str):
                out[field] = self.text(out[field])
        return out

    def called(self, told: Any) -> Any:
        """A happening as JSON, with its viewer's id as it is and a made-up name."""
        if not isinstance(told, Mapping) or not isinstance(told.get("viewer"), Mapping):
            return told
        own = told["viewer"]
        out = {**told, "viewer": {**own, "name": self.name(str(own.get("id", "")), str(own.get("name", "")))}}
        if isinstance(out.get("text"), str):
            out["text"] = self.text(out["text"])
        return out

    def _viewer(self, one: Mapping[str, Any]) -> dict[str, Any]:
        name = self.name(str(one.get("id", "")), str(one.get("name", "")))
        return {**one, "id": self.id(str(one.get("id", ""))), "name": name}


def viewers_of(recording_state: JsonObject, entries: Iterable[tuple[int, int, Any]]) -> Iterator[tuple[str, str]]:
    """Ids and names of everybody who is named in a night."""
    for run in recording_state.get("runs", ()):
        for row in (run.get("viewer"), run.get("caller")):
            if row:
                yield str(row[0]), str(row[1])
    for _, _, told in entries:
        if not isinstance(told, Mapping):
            continue
        for one in (told.get("viewer"), *(told.get("viewers") or ())):
            if isinstance(one, Mapping) and one.get("id"):
                yield str(one["id"]), str(one.get("name", ""))


def renamed(state: JsonObject, made_up: MadeUp) -> JsonObject:
    """The state before a night, in which those who had called before are called otherwise; their ids stay."""
    runs = []
    for run in state.get("runs", ()):
        row = dict(run)
        for who in ("viewer", "caller"):
            if row.get(who):
                row[who] = [row[who][0], made_up.name(str(row[who][0]), str(row[who][1])), *row[who][2:]]
        if isinstance(row.get("text"), list) and row["text"] and isinstance(row["text"][0], str):
            row["text"] = [made_up.text(row["text"][0]), *row["text"][1:]]
        runs.append(row)
    return {**state, "runs": runs}
