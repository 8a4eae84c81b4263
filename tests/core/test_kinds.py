"""What a kind of beat is, only its own file says: nothing else decides by a kind's name."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from pathlib import Path

import pytest

from cuejar.core.kinds.table import KINDS

HOME = Path(__file__).parents[2] / "src" / "cuejar"
OWN = ("core/kinds", "demo", "standins", "wires", "store/migrations")
"""Where a kind's name may stand: its file, examples, and the messages of gear of the same name."""
OTHERS = frozenset({"call", "gear", "media", "keeper", "facts", "renamed", "there", "piece", "entry", "old"})
"""What else has a kind: calls, gear, files."""


def _names(node: ast.expr) -> set[str]:
    """Returns the names of kinds that stand in a comparison's side, or as the keys of a table."""
    if isinstance(node, ast.Dict):
        listed: list[ast.expr | None] = list(node.keys)
    else:
        listed = list(node.elts) if isinstance(node, (ast.Tuple, ast.Set, ast.List)) else [node]
    return {one.value for one in listed if isinstance(one, ast.Constant) and isinstance(one.value, str)} & set(KINDS)


def _whose(node: ast.expr) -> str:
    """Returns whose kind it is (``beat`` of ``beat.spec.kind`` is ``spec``); empty if it isn't a kind."""
    if isinstance(node, ast.Name):
        return "kind" if node.id == "kind" else ""
    if isinstance(node, ast.Attribute) and node.attr == "kind":
        inner: ast.expr = node.value
    elif isinstance(node, ast.Subscript) and isinstance(node.slice, ast.Constant) and node.slice.value == "kind":
        inner = node.value
    else:
        return ""
    return inner.attr if isinstance(inner, ast.Attribute) else inner.id if isinstance(inner, ast.Name) else "kind"


def decided_by_name(source: str) -> Iterator[str]:
    """Yields where a source decides by the name of a kind of beat."""
    for node in ast.walk(ast.parse(source)):
        if isinstance(node, ast.Compare):
            sides = [node.left, *node.comparators]
            whose = [said for side in sides if (said := _whose(side))]
            if whose and set().union(*map(_names, sides)) and not set(whose) & OTHERS:
                yield f"{node.lineno}: {ast.unparse(node)}"
        elif isinstance(node, ast.Dict) and len(node.keys) >= 3 and len(_names(node)) * 4 >= len(node.keys) * 3:
            yield f"{node.lineno}: a table of {', '.join(sorted(_names(node)))}"
        elif isinstance(node, ast.Match) and _whose(node.subject) not in ("", *OTHERS):
            patterns = [case.pattern for case in node.cases if isinstance(case.pattern, ast.MatchValue)]
            if any(_names(pattern.value) for pattern in patterns):
                yield f"{node.lineno}: match {ast.unparse(node.subject)}"


def test_only_a_kinds_own_file_decides_by_its_name() -> None:
    found = {
        f"{file.relative_to(HOME)}:{where}"
        for file in HOME.rglob("*.py")
        if not str(file.relative_to(HOME)).startswith(OWN)
        for where in decided_by_name(file.read_text("utf-8"))
    }
    assert found == set()


@pytest.mark.parametrize(
    ("source", "is_found"),
    [
        ('if beat.kind == "speech": pass', True),
        ('x = [b for b in beats if b["kind"] in ("tap", "keys")]', True),
        ('if beat.spec.kind != "hook": pass', True),
        ('kind == "light"', True),
        ('TOLD = {"hook": 1, "reply": 2, "do": 3}', True),
        ('match order.kind:\n    case "throw": pass', True),
        ('if call.kind == "reward": pass', False),
        ("if beat.kind == other.kind: pass", False),
        ('x = {"scene": 1, "name": 2, "age": 3}', False),
    ],
)
def test_and_this_finds_it(source: str, is_found: bool) -> None:
    assert bool(list(decided_by_name(source))) is is_found
