"""Holds back what an import brings until it is allowed; `declared` says which fields that is."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence, Set
from dataclasses import dataclass
from typing import Any

from cuejar.core.book.book import Book, House, Jar, ListName
from cuejar.core.book.files import book_json, rebuilt
from cuejar.core.carry.declared import ASKED, never_of
from cuejar.core.carry.differences import PARTS, entry_fields
from cuejar.core.carry.powers import exact_of, marked
from cuejar.core.carry.secrets import plain_address
from cuejar.core.kinds.base import Power
from cuejar.core.parts.base import JsonObject
from cuejar.core.parts.folding import folded
from cuejar.core.parts.gear import Gear, host_of
from cuejar.core.words.fields import label, said
from cuejar.core.words.names import ONCE, Names, Noticed


@dataclass
class Asked:
    """A permission that is asked for, and by which entry; ``key`` identifies it."""

    key: str
    what: str
    by: list[str]
    allowed: bool


class Guard:
    """Asks for permissions, and restores the former value if one is refused. ``own`` is the streamer's book as JSON,
    ``data`` the other.
    """

    def __init__(self, ours: Book, own: JsonObject, data: JsonObject, allowed: Set[str]) -> None:
        self.ours, self.own, self.data = ours, own, data
        self._names, self._noticed = Names(ours), Noticed(ours)
        self.asked: dict[str, Asked] = {}
        self.off: dict[str, None] = {}
        self._allowed = allowed
        self._by: dict[str, set[str]] = {}
        self._hosts: set[str] | None = None

    def allowed(self, power: Power, by: str) -> bool:
        one = self.asked.setdefault(power.key, Asked(power.key, power.what, [], power.key in self._allowed))
        names = self._by.setdefault(power.key, set())
        if by not in names:
            names.add(by)
            one.by.append(by)
        return one.allowed

    def never(self) -> None:
        """Restores the fields that are never imported."""
        _as_ours(self.data.setdefault("house", {}), self.own.get("house", {}), never_of(House))
        for kind, model in (("jars", Jar), ("gear", Gear)):
            own = {entry["id"]: entry for entry in self.own.get(kind, [])}
            for entry in self.data.get(kind, []):
                known = own.get(entry["id"])
                _as_ours(entry, known or {}, never_of(model))
                if kind == "gear" and known is not None and known["kind"] == entry["kind"]:
                    # Its key would go to a new address.
                    _as_ours(entry, known, ("address",))

    def house(self) -> None:
        """Asks for hosts one by one."""
        house = self.data.get("house", {})
        own = {(place.host, place.private) for place in self.ours.house.hook_places}
        places = []
        for place in house.get("hook_places", []):
            where = f"{place['host']}{', also in your own network' if place.get('private') else ''}"
            known = (place["host"], place.get("private", False)) in own
            if known or self.allowed(Power("place", where, f"lets hooks go to {where}"), "the house settings"):
                places.append(place)
        if "hook_places" in house:
            house["hook_places"] = places

    def parts(self) -> None:
        """Asks for fields of the house, the reading and the points, and of existing overlays and word lists."""
        for part in PARTS:
            self._fields(part, getattr(self.ours, part), self.data.setdefault(part, {}), ONCE[part])
        for kind in ("overlays", "words"):
            own = {entry.id: entry for entry in getattr(self.ours, kind)}
            for row in self.data.get(kind, []):
                if row["id"] in own:
                    self._fields(kind, own[row["id"]], row, str(row.get("name", row["id"])))

    def _let_go(self, address: str) -> None:
        """Allows the host of an allowed hook."""
        places = self.data.setdefault("house", {}).setdefault("hook_places", [])
        host = host_of(address)
        if self._hosts is None:
            self._hosts = {folded(place["host"]) for place in places}
        if host and folded(host) not in self._hosts:
            self._hosts.add(folded(host))
            places.append({"host": host})

    def _fields(self, kind: str, own: Any, row: JsonObject, name: str) -> None:
        fields = [field for field in ASKED.get(type(own), "").split() if field != "hook_places"]
        if not fields:
            return
        incoming = type(own).model_validate(row)
        if all(getattr(own, key) == getattr(incoming, key) for key in fields):
            return
        told = {one.path.split(".")[0]: str(one) for one in entry_fields(own, incoming, self._names, self._noticed)}
        known = own.model_dump(mode="json", by_alias=True)
        for key in fields:
            if getattr(own, key) == getattr(incoming, key):
                continue
            what = marked(f"{row.get('id', '')}{key}", exact_of(incoming, key))
            if not self.allowed(Power(kind, what, f"changes {name}: {told.get(key, key)}"), name):
                row[key] = known[key]

    def entries(self, merged: Book) -> None:
        """Asks for gear, inlets and rewards, which act just by existing. New ones stay off, existing ones as they were."""
        for kind, tell in _TOLD.items():
            own = {entry.id: entry for entry in getattr(self.ours, kind)}
            own_rows = {entry["id"]: entry for entry in self.own.get(kind, [])}
            for was, row in zip(getattr(merged, kind), self.data.get(kind, []), strict=True):
                if row == own_rows.get(row["id"]):
                    continue
                entry = type(was).model_validate(row)
                what, fields = tell(entry), ASKED[type(entry)]
                known, exact = own.get(entry.id), exact_of(entry, fields)
                if not entry.on or not what or (known is not None and exact_of(known, fields) == exact):
                    continue
                name = str(row.get("name") or row.get("title") or row["id"])
                if self.allowed(Power(kind, marked(entry.id, exact), what), name):
                    if kind == "gear" and entry.kind == "hook":
                        self._let_go(entry.address)
                elif known is None:
                    row["on"] = False
                    self.off[name] = None
                else:
                    _as_ours(row, own_rows[entry.id], fields.split())


def as_it_is_here(ours: Book, own: JsonObject, theirs: Book) -> tuple[Book, list[str]]:
    """Returns their book with the fields that are never imported as they are here (``own`` as JSON), and those fields
    in words.
    """
    data = book_json(theirs)
    names, stays = Names(ours, theirs), list[str]()
    house = dict(data.get("house", {}))
    _as_ours(house, own.get("house", {}), never_of(House))
    for name in never_of(House):
        if getattr(theirs.house, name) != getattr(ours.house, name) and getattr(theirs.house, name) != getattr(
            House(), name
        ):
            stays.append(f"the setting “{label(name)}” of the house ({said(name, getattr(theirs.house, name), names)})")
    folders = {jar.id: jar.folder for jar in ours.jars}
    jars = []
    for jar in data.get("jars", []):
        if jar.get("folder") and jar["folder"] != folders.get(jar["id"]):
            stays.append(f"the folder of the jar “{jar.get('name') or jar['id']}” ({jar['folder']})")
            jar = {key: value for key, value in jar.items() if key != "folder"}
            if folders.get(jar["id"]):
                jar["folder"] = folders[jar["id"]]
        jars.append(jar)
    addresses = {gear.id: gear for gear in ours.gear}
    gear = []
    for one in data.get("gear", []):
        known = addresses.get(one["id"])
        if (
            known is not None
            and known.kind == one["kind"]
            and one.get("address", "") not in ("", plain_address(known.address))
        ):
            stays.append(f"the address of “{one.get('name') or one['id']}” ({one['address']})")
            one = {**one, "address": known.address}
        gear.append(one)
    changed = {**data, "house": house, **({"jars": jars} if jars else {}), **({"gear": gear} if gear else {})}
    return (rebuilt(changed, (theirs, data)), stays) if stays or house != data.get("house", {}) else (theirs, stays)


def _as_ours(row: JsonObject, ours: JsonObject, fields: Sequence[str]) -> None:
    """Sets these fields as they are in ours; a field missing there is removed."""
    for key in fields:
        row.pop(key, None)
        if key in ours:
            row[key] = ours[key]


def _gear_told(gear: Any) -> str:
    return f"speaks to {gear.address} as {gear.name or gear.id}" if gear.address else ""


def _inlet_told(inlet: Any) -> str:
    how = f"OSC messages to {inlet.address}" if inlet.kind == "osc" else f"the hook {inlet.name}"
    return f"lets {how} call cues"


def _reward_told(reward: Any) -> str:
    return "" if reward.elsewhere else f"offers {reward.title} ({reward.cost:,}) at your channel"


_TOLD: Mapping[ListName, Callable[[Any], str]] = {
    "gear": _gear_told,
    "inlets": _inlet_told,
    "rewards": _reward_told,
}
