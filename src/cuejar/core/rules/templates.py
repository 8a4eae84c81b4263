"""Templates: text with places for values, a part of Mustache (mustache(5)): values, sections, inverted sections,
comments.

There are no partials, no other delimiters, and no way around the escaping: ``{{{name}}}`` and ``{{&name}}`` mean
``{{name}}``. A template is parsed once, in one pass; filling it in has a budget of steps and characters, so that no
template or value makes it slow.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from functools import lru_cache
from typing import NamedTuple

MOST_LENGTH, MOST_TAGS, MOST_DEPTH, MOST_NAME = 10_000, 200, 8, 200
MOST_STEPS, MOST_OUT = 5_000, 50_000
"""The maximum number of inserted parts, and of resulting characters."""
_WHITE = " \t"


class TemplateError(ValueError):
    """A template can't be read, or would never end; the text says why, in the user's words."""


class _Value(NamedTuple):
    name: str


class _Section(NamedTuple):
    name: str
    inverted: bool
    inside: list[_Node]


_Node = str | _Value | _Section


class _Open(NamedTuple):
    name: str
    inverted: bool
    nodes: list[_Node]


def _tag(template: str, at: int) -> tuple[str, str, int] | None:
    """Returns the tag that begins at a position: its sign, its name, its end; None if it isn't closed."""
    if template.startswith("{{{", at):
        end = template.find("}}}", at + 3)
        return None if end < 0 else ("&", template[at + 3 : end].strip(), end + 3)
    end = template.find("}}", at + 2)
    if end < 0:
        return None
    inside = template[at + 2 : end].strip()
    sign = inside[:1] if inside[:1] in ("#", "^", "/", "!", "&", ">", "=") else ""
    return sign, inside[len(sign) :].strip(), end + 2


def _alone(template: str, begin: int, end: int) -> tuple[int, int] | None:
    """Returns the whole line of a tag that stands alone in it, with its line break; None if something stands beside it."""
    left = begin
    while left > 0 and template[left - 1] in _WHITE:
        left -= 1
    right = end
    while right < len(template) and template[right] in _WHITE:
        right += 1
    if left > 0 and template[left - 1] != "\n":
        return None
    if template.startswith("\r\n", right):
        return left, right + 2
    if right < len(template):
        return (left, right + 1) if template[right] == "\n" else None
    return left, right


@lru_cache(maxsize=4096)
def parsed(template: str) -> list[_Node]:
    """Returns a template's parts.

    Raises:
        TemplateError: it is too long, too deep, or its sections don't match.
    """
    if len(template) > MOST_LENGTH:
        raise TemplateError(f"the template is longer than {MOST_LENGTH:,} characters")
    nodes: list[_Node] = []
    open_: list[_Open] = []
    done = tags = 0
    while True:
        at = template.find("{{", done)
        tag = _tag(template, at) if at >= 0 else None
        if tag is None:
            break
        tags += 1
        if tags > MOST_TAGS:
            raise TemplateError(f"the template has more than {MOST_TAGS} places")
        sign, name, end = tag
        if len(name) > MOST_NAME and sign != "!":
            raise TemplateError(f"a name in the template is longer than {MOST_NAME} characters")
        begin = at
        if sign == "=":
            raise TemplateError("a template keeps {{ and }}; “{{=” is not taken")
        if sign in ("#", "^", "/", "!") and (line := _alone(template, at, end)) is not None and line[0] >= done:
            begin, end = line
        if begin > done:
            nodes.append(template[done:begin])
        done = end
        if sign in ("", "&"):
            nodes.append(_Value(name))
        elif sign in ("#", "^"):
            if len(open_) >= MOST_DEPTH:
                raise TemplateError(f"the template is more than {MOST_DEPTH} sections deep")
            open_.append(_Open(name, sign == "^", nodes))
            nodes = []
        elif sign == "/":
            if not open_ or open_[-1].name != name:
                raise TemplateError(f"“{{{{/{name[:60]}}}}}” closes nothing that is open")
            was = open_.pop()
            was.nodes.append(_Section(was.name, was.inverted, nodes))
            nodes = was.nodes
    if open_:
        raise TemplateError(f"“{{{{#{open_[-1].name[:60]}}}}}” is not closed")
    if done < len(template):
        nodes.append(template[done:])
    return nodes


class _Filling:
    """A template being filled in."""

    def __init__(self, values: Mapping[str, object], escape: Callable[[str], str]) -> None:
        self._stack: list[object] = [values]
        self._escape = escape
        self._out: list[str] = []
        self._steps = self._length = 0

    def whole(self, nodes: Sequence[_Node]) -> str:
        self._all(nodes)
        return "".join(self._out)

    def _all(self, nodes: Sequence[_Node]) -> None:
        for node in nodes:
            self._steps += 1
            if self._steps > MOST_STEPS:
                raise TemplateError(f"the template inserts more than {MOST_STEPS:,} parts")
            if isinstance(node, str):
                self._put(node)
            elif isinstance(node, _Value):
                value = self._value(node.name)
                self._put("" if value is None else self._escape(str(value)))
            else:
                self._section(node)

    def _put(self, text: str) -> None:
        self._length += len(text)
        if self._length > MOST_OUT:
            raise TemplateError(f"the template expands to more than {MOST_OUT:,} characters")
        self._out.append(text)

    def _section(self, node: _Section) -> None:
        value = self._value(node.name)
        if isinstance(value, (list, tuple)):
            some: Sequence[object] = value
        else:
            some = [value] if value or isinstance(value, Mapping) else []
        if node.inverted:
            if not some:
                self._all(node.inside)
            return
        for one in some:
            self._stack.append(one)
            self._all(node.inside)
            self._stack.pop()

    def _value(self, name: str) -> object:
        """Returns the value of a name: found in the nearest section that has its first step, then step by step; None if
        there is none.
        """
        if name == ".":
            return self._stack[-1]
        first, *steps = name.split(".")
        found: object = None
        for context in reversed(self._stack):
            if isinstance(context, Mapping) and first in context:
                found = context[first]
                break
        for step in steps:
            found = found.get(step) if isinstance(found, Mapping) else None
        return found


def filled_in(template: str, values: Mapping[str, object], escape: Callable[[str], str]) -> str:
    """Returns a template filled in with its values, each escaped.

    Raises:
        TemplateError: it can't be read, or becomes too long.
    """
    return _Filling(values, escape).whole(parsed(template))
