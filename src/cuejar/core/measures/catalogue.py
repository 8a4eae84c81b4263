"""The catalogue: what the gear has, and which name is meant.

Names needn't match letter by letter: case, width and surrounding space don't matter. A missing name is reported with
the nearest ones:

    "yard cam"      the scene Yard cam
    "Yrd cam"       there is no scene “Yrd cam” at the broadcaster; near it: Yard cam

While nothing is known of the gear (it has never answered) every name is used as it is.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import asdict

from pydantic import TypeAdapter
from rapidfuzz import fuzz, process

from cuejar.core.facts.happenings import Catalogue, Deed, PropertyValue, Setting, Thing, Touch
from cuejar.core.facts.paths import SCENE, Family, filter_path, path_of, read_path
from cuejar.core.measures.colour import read_colour
from cuejar.core.parts.base import JsonObject
from cuejar.core.parts.folding import folded

NEAR_LEAST, NEAR_MOST = 60, 3
_CATALOGUE = TypeAdapter(Catalogue)


class NotThere(ValueError):
    """A name that the gear doesn't have; ``near`` are similar ones, nearest first."""

    def __init__(self, what: str, name: str, near: list[str], where: str = "at the broadcaster") -> None:
        self.near, self.name = near, name
        hint = f"; near it: {', '.join(near)}" if near else ""
        super().__init__(f"there is no {what} “{name}” {where}{hint}")


def near_names(name: str, known: Iterable[str]) -> list[str]:
    found = process.extract(
        name, list(known), scorer=fuzz.WRatio, processor=folded, score_cutoff=NEAR_LEAST, limit=NEAR_MOST
    )
    return [match for match, _, _ in found]


def meant(what: str, name: str, known: Iterable[str], where: str = "at the broadcaster") -> str:
    """Returns the one of ``known`` that a name means.

    Raises:
        NotThere: none of them.
    """
    names = list(known)
    if name in names:
        return name
    for other in names:
        if folded(other) == folded(name):
            return other
    raise NotThere(what, name, near_names(name, names), where)


def known_as(gear: str) -> str:
    """Returns the name under which the catalogue of a bridge's things is stored, by the gear's id."""
    return path_of(Family.THINGS, gear)


def _by_title(what: str, name: str, there: Mapping[str, Setting | Deed | Thing], where: str) -> str:
    """Returns the id that an id or a title means. Raises NotThere."""
    if name in there:
        return name
    ids = {one.title or key: key for key, one in there.items()} | {key: key for key in there}
    return ids[meant(what, name, ids, where)]


class Catalogues:
    """What is known of all gear."""

    def __init__(self) -> None:
        self.known: dict[str, Catalogue] = {}

    def take(self, catalogue: Catalogue) -> None:
        self.known[catalogue.gear] = catalogue

    @property
    def broadcaster(self) -> Catalogue | None:
        return self.known.get("broadcaster")

    @property
    def touches(self) -> tuple[Touch, ...]:
        """Returns the pads of the wearable, in the order in which it takes levels."""
        there = self.known.get("haptics")
        return there.touches if there is not None else ()

    def scene(self, name: str) -> str:
        there = self.broadcaster
        return name if there is None else meant("scene", name, there.scenes)

    def source(self, scene: str, name: str) -> tuple[str, str]:
        there = self.broadcaster
        if there is None:
            return scene, name
        scene = self.scene(scene)
        return scene, meant("source", name, there.scenes[scene], f"in the scene {scene}")

    def filter(self, source: str, name: str, setting: str) -> tuple[str, str, str]:
        there = self.broadcaster
        if there is None:
            return source, name, setting
        sources = {s for listed in there.scenes.values() for s in listed} | set(there.filters)
        source = meant("source", source, sorted(sources))
        filters = there.filters.get(source, {})
        name = meant("filter", name, filters, f"on {source}")
        return source, name, meant("setting", setting, [*filters[name], "on"], f"of the filter {name}")

    def named(self, gear: str, what: str, name: str) -> str:
        """Returns the outfit, expression, preset… that a name means.

        Raises:
            NotThere: the gear has none of this name.
        """
        there = self.known.get(gear)
        if there is None or not there.names.get(what):
            return name
        return meant(what, name, there.names[what], f"at the {'voice box' if gear == 'voice' else gear}")

    def offered(self, path: str) -> tuple[PropertyValue, ...]:
        """Returns the options of a property that has a few fixed ones, in the gear's order; nothing if it has none, or
        they are unknown.
        """
        if path == SCENE and self.broadcaster is not None:
            return tuple(self.broadcaster.scenes)
        family, steps = read_path(path)
        if len(steps) == 1 and family in self.known:
            return self.known[family].names.get(steps[0], ())
        setting = self.setting_at(path)
        return setting.choices if setting is not None and setting.type == "choice" else ()

    def setting_at(self, path: str) -> Setting | None:
        """Returns what the setting of a filter or a thing can be, by its path; None if unknown."""
        match read_path(path):
            case (Family.BROADCAST.value, ("filter", source, name, setting)) if self.broadcaster is not None:
                return self.broadcaster.filters.get(source, {}).get(name, {}).get(setting)
            case (Family.THINGS.value, (gear, thing, setting)) if (there := self.known.get(known_as(gear))) is not None:
                return there.things[thing].settings.get(setting) if thing in there.things else None
        return None

    def fitting(self, source: str, name: str, setting: str, value: PropertyValue) -> PropertyValue:
        """Returns a value as a filter's setting takes it: numbers are brought into its range.

        Raises:
            ValueError: the value is of another type than the setting.
        """
        kind = self.setting_at(filter_path(source, name, setting))
        return value if kind is None else fitted(kind, value)

    def _thing(self, gear: str, name: str) -> tuple[str, Thing | None]:
        there = self.known.get(known_as(gear))
        if there is None:
            return name, None
        thing = _by_title("thing", name, there.things, f"at {gear}")
        return thing, there.things[thing]

    def setting(self, gear: str, thing: str, setting: str) -> tuple[str, str, Setting | None]:
        """Returns the ids of the thing and its setting that are meant, and what it can be; None while nothing is known
        of them.

        Raises:
            NotThere: there is no such thing, or it has no such setting.
        """
        thing, there = self._thing(gear, thing)
        if there is None:
            return thing, setting, None
        setting = _by_title("setting", setting, there.settings, f"of {there.title or thing}")
        return thing, setting, there.settings[setting]

    def deed(self, gear: str, thing: str, deed: str) -> tuple[str, str, Deed | None]:
        """Returns the same as `setting`, for a deed of a thing."""
        thing, there = self._thing(gear, thing)
        if there is None:
            return thing, deed, None
        deed = _by_title("deed", deed, there.deeds, f"of {there.title or thing}")
        return thing, deed, there.deeds[deed]

    def snapshot(self) -> JsonObject:
        return {gear: asdict(catalogue) for gear, catalogue in self.known.items()}

    def restore(self, data: JsonObject) -> None:
        self.known = {gear: _CATALOGUE.validate_python(row) for gear, row in data.items()}


def stepped(kind: Setting, number: float) -> float:
    """Returns the nearest number that a setting takes: in its range, in steps from its least (or from 0)."""
    low, high = -math.inf if kind.min is None else kind.min, math.inf if kind.max is None else kind.max
    number = min(high, max(low, number))
    if kind.step:
        base = kind.min or 0.0
        steps = round((number - base) / kind.step)
        number = base + steps * kind.step
        number -= kind.step if number > high else 0
        number += kind.step if number < low else 0
    return round(number, 6)


def fitted(kind: Setting, value: PropertyValue) -> PropertyValue:
    """Returns a value converted to a setting's type, range and step.

    Raises:
        ValueError: it can't be, and why.
    """
    if kind.type == "number":
        try:
            number = float(value)  # type: ignore[arg-type]
        except (TypeError, ValueError):
            raise ValueError(f"“{value}” is not a number") from None
        return stepped(kind, number)
    if kind.type == "bool":
        if isinstance(value, bool):
            return value
        if str(value).casefold() in ("on", "true", "yes", "1"):
            return True
        if str(value).casefold() in ("off", "false", "no", "0"):
            return False
        raise ValueError(f"“{value}” is neither on nor off")
    if kind.type == "choice":
        return meant("choice", str(value), kind.choices, "of this setting")
    if kind.type == "colour" and not str(value).startswith("#"):
        raise ValueError(f"“{value}” is not a colour")
    return str(value)


def shows(kind: Setting, value: PropertyValue) -> bool:
    """Returns whether gear with such a setting can show this value."""
    if kind.type == "bool":
        return isinstance(value, bool)
    if kind.type == "number":
        low, high = -math.inf if kind.min is None else kind.min, math.inf if kind.max is None else kind.max
        return isinstance(value, (int, float)) and not isinstance(value, bool) and low <= value <= high
    if kind.type == "choice":
        return value in kind.choices
    if kind.type == "colour":
        return isinstance(value, str) and read_colour(value) is not None
    return isinstance(value, str)
