"""What stands in a book, in the words of its sentences: fields, values, calls, and how its lists call one of theirs."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from cuejar.core.book.book import LISTS, Book
from cuejar.core.carry.references import Key
from cuejar.core.parts.base import JsonObject

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
"""How one of a list is called."""
ONCE = {
    "house": "the house",
    "reading": "how texts are read",
    "points": "points of our own",
    "playbill": "the playbill",
}
"""How what the book has once is called."""
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
    "replace": "takes over",
    "extend": "makes it longer",
    "refuse": "only when free",
}
_MATCH = {"is": "is", "starts": "starts with", "has_word": "has the word", "contains": "contains"}
_KINDS = {
    "lane": "lanes",
    "reward": "rewards",
    "rewards": "rewards",
    "left_out": "rewards",
    "sets": "sets",
    "counts": "counts",
    "file": "media",
    "mouths": "media",
    "blink": "media",
    "jar": "jars",
    "part": "cast",
    "default": "cast",
    "cue": "cues",
    "pads": "cues",
    "hook": "gear",
    "gear": "gear",
    "channel": "gear",
    "overlays": "overlays",
}
"""At which keys an entry of which list is named."""
_LABELS = {
    "on": "switched",
    "air": "on air",
    "cooldown_s": "pace",
    "viewer_cooldown_s": "pace of each viewer",
    "cap_stream": "most a stream",
    "cap_viewer": "most per viewer",
    "cap_window": "most in a while",
    "cooldown_from": "pace counts from",
    "entry": "in its lane it",
    "at_s": "at",
    "fade_in_s": "fades in",
    "fade_out_s": "fades out",
    "only_if": "only if",
    "unless": "otherwise",
    "file": "content",
    "line": "longest line",
    "wait_s": "longest wait",
    "gap_s": "pause between runs",
    "w": "width",
    "h": "height",
    "cost": "price",
    "text": "text",
    "who": "who",
}


AIR = {"any": "live or not", "live": "only while live", "off": "only off air"}
"""When a cue can be called."""
_UNSAID = {
    "air": "as the house",
    "cooldown_s": "as the house",
    "lane": "the first lane",
    "volume": "100",
    "prompt": "as its door",
}
"""What it means that nothing is said."""


def label(key: str) -> str:
    """A field's name for people: ``viewer_cooldown_s`` → *pace of each viewer*."""
    return _LABELS.get(key, key.removesuffix("_s").replace("_", " "))


def name_of(book: Book, key: Key) -> str:
    """What an entry is called; its id where it has no name."""
    if not key.id:
        return ONCE.get(key.kind, key.kind)
    entry = next((one for one in getattr(book, key.kind, []) if one.id == key.id), None)
    return str(getattr(entry, "name", "") or getattr(entry, "title", "") or key.id)


def order_of(kind: str) -> str:
    """*the order of the lanes*."""
    return f"the order of the {'parts' if kind == 'cast' else 'files' if kind == 'media' else kind}"


def titled(kind: str, name: str, thing: str) -> str:
    """*the cue Steam whistle*; *the order of the lanes*."""
    return f"the {ONE[kind]} {name}" if thing else ONCE.get(kind, order_of(kind))


class Names:
    """The names of everything in some books; what stands in an earlier one is used where the later ones do not know it."""

    def __init__(self, *books: Book) -> None:
        self._names: dict[tuple[str, str], str] = {
            (kind, entry.id): str(getattr(entry, "name", "") or getattr(entry, "title", "") or entry.id)
            for book in books
            for kind in LISTS
            for entry in getattr(book, kind)
        }

    def of(self, kind: str, thing: str) -> str:
        return self._names.get((kind, thing), thing)


def seconds(value: float) -> str:
    """Seconds with their unit, as the pages say them: ``250 ms``, ``4.2 s``, ``1:30 min``, ``2:00:00 h``."""
    if 0 < value < 0.995:
        return f"{round(value * 1000)} ms"
    if value < 60:
        return f"{round(value, 2):g} s"
    minutes, rest = divmod(round(value), 60)
    return f"{minutes}:{rest:02} min" if minutes < 60 else f"{minutes // 60}:{minutes % 60:02}:{rest:02} h"


def _between(low: float | None, high: float | None) -> str:
    if low and high:
        return f" of {low:g} to {high:g}"
    return f" of {low:g} or more" if low else f" of at most {high:g}" if high else ""


def _range(low: int | None, high: int | None, what: str) -> str:
    if low and high:
        return f"{low if low == high else f'{low} to {high}'} {what}"
    return f"{low} or more {what}" if low else f"up to {high} {what}"


def call_said(call: JsonObject, names: Names) -> str:
    """A call in words: *Steam whistle is redeemed*."""
    kind = call["kind"]
    if kind == "reward":
        return f"{names.of('rewards', call['reward'])} is redeemed"
    if kind == "chat":
        return f"a message {_MATCH[call.get('match', 'is')]} “{call['text']}”"
    if kind == "tip":
        return f"someone tips{_between(call.get('from'), call.get('to')).replace(' of', '')}"
    if kind == "raid":
        return f"a raid{_between(call.get('from'), call.get('to'))} comes"
    if kind == "membership":
        tier = f" of tier {call['tier']} or above" if call.get("tier") else ""
        bounds = [
            _range(call.get(f"{what}_from"), call.get(f"{what}_to"), what)
            for what in ("months", "gifts")
            if call.get(f"{what}_from") or call.get(f"{what}_to")
        ]
        return f"someone becomes a member{tier}{', ' if bounds else ''}{', '.join(bounds)}"
    if kind == "clock":
        if call.get("at_time"):
            return f"at {call['at_time']} while live"
        return (
            f"every {call['every_min']:g} minutes on air"
            if call.get("every_min")
            else f"at minute {call['at_min']:g} of the stream"
        )
    if kind == "count":
        name = names.of("counts", call["count"])
        if call.get("goal"):
            return f"{name} reaches its goal"
        return f"{name} goes up another {call['every']:,}" if call.get("every") else f"{name} reaches {call['at']:,}"
    if kind == "stream":
        return "the stream ends" if call.get("state") == "ended" else "the stream goes live"
    plain = {"follow": "someone follows", "pad": "its pad is pressed"}
    return plain.get(kind) or f"the {kind} {call.get('name') or call.get('scene')} comes"


_SIGNS = {"=": "is", ">=": "is at least", "<=": "is at most"}
_COUNTS = {"viewer": "the calls by this viewer", "all": "the calls by everyone"}
_ABOUT = {
    "text_is": "the text is “{}”",
    "text_has": "the text has the word “{}”",
    "text_contains": "the text contains “{}”",
    "category": "the category is {}",
    "scene": "the scene is {}",
    "rolled": "the roll comes out as {}",
}


def condition_said(condition: JsonObject, names: Names) -> str:
    """A condition in words: *the text is “train”*; *not: you are live*."""
    said = _plainly_said(condition, names)
    return f"not: {said}" if condition.get("not") else said


def _plainly_said(condition: JsonObject, names: Names) -> str:
    if condition.get("role") is not None:
        return f"the viewer is one of the {ROLES.get(condition['role'], condition['role'])}"
    if condition.get("live") is not None:
        return "you are live" if condition["live"] else "you are off air"
    if condition.get("gear") is not None:
        return f"{names.of('gear', condition['gear'])} is connected"
    if condition.get("count") is not None:
        count = _COUNTS.get(condition["count"]) or names.of("counts", condition["count"])
        return f"{count} {_SIGNS[condition.get('is', '>=')]} {condition['number']:,}"
    if condition.get("drawn") is not None:
        return f"“{condition['drawn']}” draws “{condition.get('value', '')}”"
    for key, words in _ABOUT.items():
        if condition.get(key) is not None:
            return words.format(condition[key])
    low, high = condition.get("text_from"), condition.get("text_to")
    span = f"{low} to {high}" if None not in (low, high) else f"{low} or more" if high is None else f"{high} or less"
    return f"the number in the text is {span}"


def _pace(value: float) -> str:
    plain: dict[float, str] = {
        0: "as often as they like",
        1: "once a second",
        60: "once a minute",
        3600: "once an hour",
    }
    return plain.get(round(value, 3)) or f"once in {seconds(value)}"


def said(key: str, value: Any, names: Names) -> str:
    """A value of a field in words."""
    if key in ("cooldown_s", "viewer_cooldown_s") and isinstance(value, (int, float)):
        return _pace(value)
    if key == "calls" and isinstance(value, list):
        return ", or ".join(call_said(call, names) for call in value) if value else "its pad alone"
    if key == "who" and isinstance(value, list):
        return ", ".join(ROLES.get(str(role), str(role)) for role in value)
    if key == "only_if" and isinstance(value, list):
        return " and ".join(condition_said(one, names) for one in value) if value else "always"
    if key == "air" and isinstance(value, str):
        return AIR.get(value, value)
    if key == "entry" and isinstance(value, str):
        return ENTRIES.get(value, str(value))
    if value is None and key in _UNSAID:
        return _UNSAID[key]
    if value is None or value == "" or value == [] or value == {}:
        return "none"
    if isinstance(value, bool):
        return "on" if value else "off"
    if isinstance(value, (int, float)):
        return seconds(value) if key.endswith("_s") or key == "s" else f"{value:,.10g}"
    if isinstance(value, str):
        if key == "file" and len(value) == 64:
            return f"file {value[:6]}"
        return names.of(_KINDS[key], value) if key in _KINDS else value.replace("_", " ") if key == "length" else value
    if isinstance(value, dict):
        inside = {name: one for name, one in value.items() if one is not None}
        if set(inside) <= {"jar", "count"} and "jar" in inside:
            return f"from the jar {names.of('jars', inside['jar'])}"
        if len(inside) == 1:
            return said(*next(iter(inside.items())), names)
        return ", ".join(f"{label(name)} {said(name, one, names)}" for name, one in inside.items())
    return _listed([said(key, one, names) for one in value])


def _listed(some: Sequence[str], most: int = 6) -> str:
    return ", ".join(some[:most]) + (f" and {len(some) - most} more" if len(some) > most else "")
