"""Conditions in words."""

from __future__ import annotations

from cuejar.core.parts.base import JsonObject
from cuejar.core.words.names import ROLES, Names

_NOT = {
    "is": "is not",
    "is at least": "is less than",
    "is at most": "is more than",
    "has": "does not have",
    "contains": "does not contain",
    "draws": "does not draw",
}
_SIGNS = {"=": "is", ">=": "is at least", "<=": "is at most"}
_COUNTS = {"viewer": "the viewer’s number of calls", "all": "the total number of calls"}
_ABOUT = {
    "text_is": ("the text", "is", "“{}”"),
    "text_has": ("the text", "has", "the word “{}”"),
    "text_contains": ("the text", "contains", "“{}”"),
    "category": ("the category", "is", "{}"),
    "scene": ("the scene", "is", "{}"),
    "rolled": ("the roll", "is", "{}"),
}


def condition_said(condition: JsonObject, names: Names) -> str:
    """Returns a condition as a clause after "if": *the text is “train”*, *the scene is not Yard cam*."""
    is_not = bool(condition.get("not"))
    if condition.get("live") is not None:
        return "you are live" if condition["live"] != is_not else "you are off air"
    subject, verb, rest = _clause(condition, names)
    return f"{subject} {_NOT[verb] if is_not else verb} {rest}"


def _clause(condition: JsonObject, names: Names) -> tuple[str, str, str]:
    """Returns subject, verb and rest, as if the condition weren't inverted."""
    if condition.get("role") is not None:
        return "the viewer", "is", f"one of the {ROLES.get(condition['role'], condition['role'])}"
    if condition.get("gear") is not None:
        return names.of("gear", condition["gear"]), "is", "connected"
    if condition.get("count") is not None:
        count = _COUNTS.get(condition["count"]) or names.of("counts", condition["count"])
        return count, _SIGNS[condition.get("is", ">=")], f"{condition['number']:,}"
    if condition.get("drawn") is not None:
        return f"“{condition['drawn']}”", "draws", f"“{condition.get('value', '')}”"
    for key, (subject, verb, rest) in _ABOUT.items():
        if condition.get(key) is not None:
            return subject, verb, rest.format(condition[key])
    return "the number in the text", "is", _span(condition.get("text_from"), condition.get("text_to"))


def _span(low: float | None, high: float | None) -> str:
    if low is None:
        return f"{high:g} or less"
    if high is None:
        return f"{low:g} or more"
    return f"{low:g}" if low == high else f"{low:g} to {high:g}"
