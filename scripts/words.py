"""Every text that a person can meet, with its file and line: ``make words`` prints them.

``web/words.mjs`` provides the pages' texts. Those of the server, the command line and the core are the strings in the
code that read like words; ``…`` stands for values.
"""

from __future__ import annotations

import ast
import json
import re
import subprocess
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

HOME = Path(__file__).parents[1]
CODE = HOME / "src" / "cuejar"
LEFT_OUT = ("web", "compiled", "store/versions", "core/measures/colour.py")
"""Texts without words, or in all the languages of viewers."""
SAID = re.compile(r"[A-Za-z’'”%)…,:] [A-Za-z“(…0-9]")
CODE_LIKE = re.compile(
    r"[{}<>;=]|^\s*(SELECT|INSERT|UPDATE|DELETE|CREATE|PRAGMA|BEGIN|DROP|ALTER|WITH|FROM|WHERE)\b|^[a-z_]+( [a-z_0-9]+)+$|--|\\"
)
"""Statements, patterns, and lists of names."""
HEADING = re.compile(r"^#+ (.+)")


@dataclass(frozen=True, order=True)
class Text:
    file: str
    line: int
    at: str
    """The tag or attribute of a page; ``code`` or ``heading`` elsewhere."""
    text: str

    def __str__(self) -> str:
        return f"{self.file}:{self.line}: {self.text}"


def of_the_pages() -> Iterator[Text]:
    """Yields the texts in the pages' templates and scripts. Needs Node and the packages of ``web/``."""
    told = subprocess.run(["node", "words.mjs"], cwd=HOME / "web", check=True, capture_output=True, text=True).stdout
    for line in told.splitlines():
        yield Text(**json.loads(line))


def of_the_code() -> Iterator[Text]:
    """Yields the strings of the Python code that read like words, without docstrings."""
    for file in sorted(CODE.rglob("*.py")):
        where = file.relative_to(CODE).as_posix()
        if not where.startswith(LEFT_OUT):
            yield from _strings(file)


def of_the_forms() -> Iterator[Text]:
    """Yields the texts of pages that the server fills in: the playbill, a night to print, the mending page."""
    for file in sorted(CODE.rglob("*.mustache")):
        for number, line in enumerate(file.read_text().splitlines(), 1):
            bare = re.sub(r"\{\{\{?[#^/].*?\}\}|<[^>]*>", " ", line)
            said = " ".join(re.sub(r"\{\{.*?\}\}\}?", "…", bare).split())
            if re.search(r"[A-Za-z]{3}", said) and not re.search(r"[{};]", said):
                yield Text(file.relative_to(HOME).as_posix(), number, "form", said)


def of_the_docs() -> Iterator[Text]:
    """Yields the headings of the docs."""
    for file in [HOME / "README.md", *sorted((HOME / "docs").rglob("*.md"))]:
        fenced = False
        for number, line in enumerate(file.read_text().splitlines(), 1):
            fenced ^= line.startswith("```")
            if not fenced and (found := HEADING.match(line)):
                yield Text(file.relative_to(HOME).as_posix(), number, "heading", found[1])


def _strings(file: Path) -> Iterator[Text]:
    tree = ast.parse(file.read_text())
    inside: set[int] = set()
    for node in ast.walk(tree):
        if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant):
            inside.add(id(node.value))
        elif isinstance(node, ast.JoinedStr):
            inside.update(id(part) for part in node.values)
    for node in ast.walk(tree):
        if id(node) in inside:
            continue
        if isinstance(node, ast.JoinedStr):
            said = "".join(str(part.value) if isinstance(part, ast.Constant) else "…" for part in node.values)
        elif isinstance(node, ast.Constant) and isinstance(node.value, str):
            said = node.value
        else:
            continue
        said = " ".join(said.split())
        if SAID.search(said) and not CODE_LIKE.search(said):
            yield Text(file.relative_to(HOME).as_posix(), node.lineno, "code", said)


def every_text() -> list[Text]:
    return sorted({*of_the_pages(), *of_the_code(), *of_the_forms(), *of_the_docs()})


if __name__ == "__main__":
    for one in every_text():
        print(one)
