"""Holds: what a property of the gear shows, and what it returns to.

Everything that decides what a property shows is in this file; nothing here knows what a property means.

A property has a rest value and a stack of layers. A later hold lies on top. What shows is the top layer,
or the rest value when there is none. A hold that ends takes its layer out wherever it lies:

    rest  Workbench
    0 s   Yard cam for 10 s        shows Yard cam
    4 s   Night mail for 3 s       shows Night mail
    7 s   Night mail ends          shows Yard cam     (not Workbench)
    10 s  Yard cam ends            shows Workbench

A change by hand wins: a value set on the gear itself becomes the rest value and drops every layer.

Two families of properties do not cover each other (`paths.Family`): volumes multiply, haptic cells take the highest
level.

A property changes at most once in a step. Holds come and go freely; `flush` then compares what shows now with what
showed before, and orders a change only where they differ. A property whose gear is disconnected isn't flushed; once the
gear is back, `flush` orders its current value and nothing that was missed.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import NamedTuple

from cuejar.core.facts.happenings import HandMark, PropertyValue
from cuejar.core.facts.orders import Set
from cuejar.core.facts.paths import combined, rest_untold
from cuejar.core.parts.base import JsonObject


class Layer(NamedTuple):
    run: str
    beat: str
    value: PropertyValue
    fade_out_ms: int = 0


@dataclass(slots=True)
class Property:
    rest: PropertyValue
    shown: PropertyValue
    layers: list[Layer] = field(default_factory=list)
    heard: HandMark | None = None
    """Up to which change its hands are known; None if they were never counted."""

    def combined(self, path: str) -> PropertyValue:
        """Returns what it shows with its layers."""
        layers = self.layers
        return combined(path, self.rest, [layer.value for layer in layers]) if layers else self.rest


class Holds:
    """All properties of the rig: their rest values, their layers, what they show."""

    def __init__(self) -> None:
        self._properties: dict[str, Property] = {}
        self.touched: dict[str, int] = {}

    def property(self, path: str) -> Property:
        found = self._properties.get(path)
        if found is None:
            rest = rest_untold(path)
            found = self._properties[path] = Property(rest, rest)
        return found

    def known(self, path: str) -> Property | None:
        return self._properties.get(path)

    def rename(self, path_now: Callable[[str], str], value_now: Callable[[str, PropertyValue], PropertyValue]) -> None:
        """Moves properties to their new paths after a rename on the gear, with their layers."""
        moved: dict[str, Property] = {}
        for path, p in self._properties.items():
            p.rest, p.shown = value_now(path, p.rest), value_now(path, p.shown)
            p.layers = [layer._replace(value=value_now(path, layer.value)) for layer in p.layers]
            moved[path_now(path)] = p
        self._properties = moved
        self.touched = {path_now(path): fade for path, fade in self.touched.items()}

    def showing(self, path: str) -> PropertyValue:
        """Returns what the property should show now."""
        p = self._properties.get(path)
        if p is None:
            return None
        return p.combined(path)

    def lay(self, path: str, layer: Layer, fade_in_ms: int = 0) -> None:
        """Lays a new hold on top."""
        self.property(path).layers.append(layer)
        self.touched[path] = fade_in_ms

    def lift(self, path: str, run: str, beat: str) -> bool:
        """Removes the layer of a hold that ends, wherever it lies. Returns whether it was there: a change by hand may
        have dropped it.
        """
        known = self._properties.get(path)
        for i, layer in enumerate(layers := known.layers if known is not None else []):
            if layer.run == run and layer.beat == beat:
                del layers[i]
                self.touched.setdefault(path, layer.fade_out_ms)
                return True
        return False

    def lift_all(self, run: str) -> list[tuple[str, str]]:
        """Removes everything that a run holds. Returns the beats and paths."""
        lifted: list[tuple[str, str]] = []
        for path, p in self._properties.items():
            kept = [layer for layer in p.layers if layer.run != run]
            if len(kept) < len(p.layers):
                lifted += [(layer.beat, path) for layer in p.layers if layer.run == run]
                p.layers = kept
                self.touched.setdefault(path, 0)
        return lifted

    def keep(self, path: str, value: PropertyValue, fade_ms: int = 0) -> None:
        """Sets the rest value itself; it shows once nothing lies above it."""
        self.property(path).rest = value
        self.touched.setdefault(path, fade_ms)

    def hand(self, path: str, value: PropertyValue, heard: HandMark | None = None) -> list[Layer]:
        """Takes a change by hand: that is the rest value from now on, and the gear shows it already. Returns the layers
        that this drops.
        """
        p = self.property(path)
        dropped = list(p.layers)
        p.rest = p.shown = value
        p.heard = heard or p.heard
        p.layers.clear()
        self.touched.pop(path, None)
        return dropped

    def at_rest(self, path: str, value: PropertyValue) -> None:
        """Takes a rest value that the gear reported. Layers stay."""
        p = self.property(path)
        p.rest = value
        if not p.layers:
            p.shown = value

    def flush(self, away: Callable[[str], bool]) -> list[Set]:
        """Returns the changes of this step: at most one per property, none for unchanged ones."""
        orders: list[Set] = []
        if not self.touched:
            return orders
        for path, fade_ms in self.touched.items():
            if away(path):
                continue
            p = self._properties[path]
            value = p.combined(path)
            # On isn't 1; but 1 is 1.0, as numbers come both ways.
            if value == p.shown and isinstance(value, bool) is isinstance(p.shown, bool):
                continue
            p.shown = value
            top = p.layers[-1] if p.layers else None
            orders.append(Set(path, value, top.run if top else None, top.beat if top else None, fade_ms))
        self.touched.clear()
        return orders

    def touch(self, chosen: Callable[[str], bool]) -> None:
        """Marks the properties of gear that is back, to be compared at the next flush."""
        for path in self._properties:
            if chosen(path):
                self.touched.setdefault(path, 0)

    def held(self) -> dict[str, Property]:
        """Returns every property with something lying on its rest value."""
        return {path: p for path, p in self._properties.items() if p.layers}

    def wanted(self) -> dict[str, PropertyValue]:
        """Returns what every known property should show now."""
        return {path: self.showing(path) for path in self._properties}

    def at_rest_now(self) -> dict[str, PropertyValue]:
        """Returns the rest value of every known property."""
        return {path: p.rest for path, p in self._properties.items()}

    def rest_of(self, path: str) -> PropertyValue:
        return self.property(path).rest

    def snapshot(self) -> JsonObject:
        return {
            path: [p.rest, p.shown, [list(layer) for layer in p.layers], list(p.heard) if p.heard else None]
            for path, p in self._properties.items()
        }

    def restore(self, data: JsonObject) -> None:
        self._properties = {
            path: Property(
                rest, shown, [Layer(*layer) for layer in layers], tuple(heard[0]) if heard and heard[0] else None
            )
            for path, (rest, shown, layers, *heard) in data.items()
        }
        self.touched = {}
