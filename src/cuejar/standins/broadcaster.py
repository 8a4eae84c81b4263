"""The simulated broadcaster: scenes with ordered sources, filters with typed settings, audio inputs, a current scene.

Its parts have ids that stay when a name changes. Every property knows who changed it last and how often it was changed,
so that a program that was disconnected can tell its own changes from those by hand. With a state file, the setup
outlives the process; then everything counts as changed by nobody, and the boot id is new.
"""

from __future__ import annotations

import contextlib
import json
import re
import secrets
from collections.abc import Callable
from pathlib import Path
from typing import Any

from cuejar.core.facts.paths import SCENE, filter_path, source_path
from cuejar.platform import put
from cuejar.standins.halt import FILTERS, INPUTS, SCENES
from cuejar.standins.panel import HAND, Property, Refused, Value


def fitting(kind: dict[str, Any], value: Any) -> Value:
    """Returns a value of a setting's type, within its range.

    Raises:
        Refused: it is of another type.
    """
    what = kind["type"]
    if what == "bool" and isinstance(value, bool):
        return value
    if what == "number" and isinstance(value, (int, float)) and not isinstance(value, bool):
        return float(min(kind.get("max", value), max(kind.get("min", value), value)))
    if what == "colour" and isinstance(value, str) and re.fullmatch(r"#[0-9a-fA-F]{6}", value):
        return value.lower()
    if what == "choice" and value in kind["choices"]:
        return str(value)
    if what == "text" and isinstance(value, str):
        return value
    raise Refused(f"{value!r} is no {what} that can be set here")


class Broadcaster:
    """Everything the broadcaster has, and its listeners."""

    def __init__(self, state: Path | None = None) -> None:
        self.boot = secrets.token_hex(8)
        self._file, self._next = state, 1
        self.listeners: set[Callable[[dict[str, Any]], None]] = set()
        self.serial = 0
        self.avatar: Callable[[], dict[str, Value]] | None = None
        """What the avatar shows, whose window is in the programme."""
        data = self._read() or {"scenes": SCENES, "filters": FILTERS, "inputs": INPUTS, "scene": "Workbench"}
        self.scenes: dict[str, dict[str, Any]] = {}
        self.sources: dict[str, dict[str, Any]] = {}
        self.filters: dict[str, dict[str, Any]] = {}
        for name, sources in data["scenes"].items():
            scene = self._id("scene")
            self.scenes[scene] = {"name": name, "sources": []}
            for source in sources:
                self._add(scene, source)
        for source_name, filters in data["filters"].items():
            for name, settings in filters.items():
                kinds = {key: {k: v for k, v in one.items() if k != "value"} for key, one in settings.items()}
                values = {key: Property(one["value"]) for key, one in settings.items()}
                row = {"name": name, "source": source_name, "kinds": kinds, "values": values}
                self.filters[self._id("filter")] = row
        self.inputs = {
            self._id("input"): {"name": name, "volume": Property(float(volume)), "muted": Property(False)}
            for name, volume in data["inputs"].items()
        }
        self.current = Property(self._scene_id(data["scene"]))

    def _id(self, what: str) -> str:
        self._next += 1
        return f"{what}-{self._next}"

    def _add(self, scene: str, source: dict[str, Any]) -> str:
        source_id = self._id("source")
        self.sources[source_id] = {
            "name": source["name"],
            "draws": source["draws"],
            "scene": scene,
            "nested": source.get("scene"),
            "visible": Property(source["visible"]),
            "at": list(source["at"]),
        }
        self.scenes[scene]["sources"].append(source_id)
        return source_id

    def _read(self) -> dict[str, Any] | None:
        if self._file is None:
            return None
        with contextlib.suppress(OSError, ValueError):
            data: dict[str, Any] = json.loads(self._file.read_text("utf-8"))
            return data
        return None

    def _write(self) -> None:
        if self._file is None:
            return
        scenes = {
            scene["name"]: [
                {
                    "name": s["name"],
                    "draws": s["draws"],
                    "visible": s["visible"].value,
                    "at": s["at"],
                    **({"scene": s["nested"]} if s["nested"] else {}),
                }
                for s in (self.sources[one] for one in scene["sources"])
            ]
            for scene in self.scenes.values()
        }
        filters: dict[str, Any] = {}
        for row in self.filters.values():
            settings = {key: {**kind, "value": row["values"][key].value} for key, kind in row["kinds"].items()}
            filters.setdefault(row["source"], {})[row["name"]] = settings
        inputs = {row["name"]: row["volume"].value for row in self.inputs.values()}
        scene = self.scenes[str(self.current.value)]["name"]
        data = {"scene": scene, "scenes": scenes, "filters": filters, "inputs": inputs}
        beside = self._file.with_suffix(".new")
        beside.write_text(json.dumps(data, ensure_ascii=False), "utf-8")
        put(beside, self._file)

    def tell(self, method: str, params: dict[str, Any]) -> None:
        self.serial += 1
        self._write()
        for listener in list(self.listeners):
            listener({"jsonrpc": "2.0", "method": method, "params": params})

    # Contents

    def _scene_id(self, name: str) -> str:
        for scene_id, scene in self.scenes.items():
            if name in (scene_id, scene["name"]):
                return scene_id
        raise Refused(f"there is no scene “{name}”", -32003)

    def _one(self, table: dict[str, Any], what: str, thing: Any) -> dict[str, Any]:
        if not isinstance(thing, str) or thing not in table:
            raise Refused(f"there is no {what} “{thing}”", -32003)
        row: dict[str, Any] = table[thing]
        return row

    def catalogue(self) -> dict[str, Any]:
        return {
            "boot": self.boot,
            "scene": self.current.json(),
            "scenes": [{"id": key, "name": s["name"], "sources": s["sources"]} for key, s in self.scenes.items()],
            "sources": [
                {"id": key, "name": s["name"], "scene": s["scene"], "at": s["at"], "visible": s["visible"].json()}
                for key, s in self.sources.items()
            ],
            "filters": [
                {
                    "id": key,
                    "name": row["name"],
                    "source": row["source"],
                    "settings": {name: {**row["kinds"][name], **p.json()} for name, p in row["values"].items()},
                }
                for key, row in self.filters.items()
            ],
            "inputs": [
                {"id": key, "name": row["name"], "volume": row["volume"].json(), "muted": row["muted"].json()}
                for key, row in self.inputs.items()
            ],
        }

    # Changes

    def _change(self, p: Property, value: Value, by: str, **what: Any) -> dict[str, Any]:
        if p.value != value or by == HAND:
            p.become(value, by)
            self.tell("changed", {**what, **p.json()})
        return p.json()

    def show_scene(self, scene: Any, by: str) -> dict[str, Any]:
        self._one(self.scenes, "scene", scene)
        return self._change(self.current, scene, by, what="scene")

    def show_source(self, source: Any, visible: Any, by: str) -> dict[str, Any]:
        row = self._one(self.sources, "source", source)
        return self._change(row["visible"], fitting({"type": "bool"}, visible), by, what="source", id=source)

    def set_filter(self, filter_id: Any, setting: Any, value: Any, by: str) -> dict[str, Any]:
        row = self._one(self.filters, "filter", filter_id)
        if setting not in row["kinds"]:
            raise Refused(f"the filter {row['name']} has no setting “{setting}”", -32003)
        fits = fitting(row["kinds"][setting], value)
        return self._change(row["values"][setting], fits, by, what="filter", id=filter_id, setting=setting)

    def set_input(self, input_id: Any, setting: Any, value: Any, by: str) -> dict[str, Any]:
        row = self._one(self.inputs, "input", input_id)
        kinds: dict[str, dict[str, Any]] = {
            "volume": {"type": "number", "min": 0, "max": 1},
            "muted": {"type": "bool"},
        }
        kind = kinds.get(str(setting))
        if kind is None:
            raise Refused(f"an input has no setting “{setting}”", -32003)
        return self._change(row[setting], fitting(kind, value), by, what="input", id=input_id, setting=setting)

    def rename(self, what: str, old: str, new: str, of: str = "") -> None:
        """Renames something by hand; its id stays."""
        table = {"scene": self.scenes, "source": self.sources, "filter": self.filters}.get(what)
        if table is None or not new.strip():
            raise Refused(f"a {what} cannot be renamed to “{new}”")
        for key, row in table.items():
            if row["name"] == old and (what != "filter" or row["source"] == of):
                row["name"] = new
                if what == "source":
                    for one in self.filters.values():
                        one["source"] = new if one["source"] == old else one["source"]
                if what == "scene":
                    for one in self.sources.values():
                        one["nested"] = new if one["nested"] == old else one["nested"]
                self.tell("renamed", {"what": what, "id": key, "old": old, "new": new, "of": of})
                return
        raise Refused(f"there is no {what} “{old}”", -32003)

    def add_source(self, scene: str, name: str, draws: str) -> None:
        scene_id = self._scene_id(scene)
        self._add(scene_id, {"name": name, "draws": draws, "visible": False, "at": [0, 0, 1, 1]})
        self.tell("structure", {})

    def remove(self, what: str, name: str) -> None:
        """Deletes a scene or a source by hand; the current scene stays."""
        if what == "scene":
            scene = self._scene_id(name)
            if scene == self.current.value:
                raise Refused("the current scene cannot be deleted")
            for source in self.scenes.pop(scene)["sources"]:
                del self.sources[source]
        else:
            found = [key for key, row in self.sources.items() if row["name"] == name]
            if not found:
                raise Refused(f"there is no source “{name}”", -32003)
            for key in found:
                self.scenes[self.sources.pop(key)["scene"]]["sources"].remove(key)
        self.tell("structure", {})

    # For people, by names

    def values(self) -> dict[str, Value]:
        """Returns every property by Cue Jar's path for it."""
        out: dict[str, Value] = {SCENE: self.scenes[str(self.current.value)]["name"]}
        for row in self.sources.values():
            scene = self.scenes[row["scene"]]["name"]
            out[source_path(scene, row["name"])] = row["visible"].value
        for row in self.filters.values():
            for setting, p in row["values"].items():
                out[filter_path(row["source"], row["name"], setting)] = p.value
        return out

    def hand(self, path: str, value: Any) -> dict[str, Any]:
        """Changes a property by hand, by its path."""
        if path == SCENE:
            return self.show_scene(self._scene_id(str(value)), HAND)
        for key, row in self.sources.items():
            if path == source_path(self.scenes[row["scene"]]["name"], row["name"]):
                return self.show_source(key, value, HAND)
        for key, row in self.filters.items():
            for setting in row["kinds"]:
                if path == filter_path(row["source"], row["name"], setting):
                    return self.set_filter(key, setting, value, HAND)
        raise Refused(f"there is no property “{path}”", -32003)
