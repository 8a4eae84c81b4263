"""The engine and its rules, compiled: twice as fast, built at set-up (``python -m scripts.compiled``) where there is a
C compiler.

A compiled module counts only while its source is the one it was built from; after an edit the source itself is used,
so nothing has to be rebuilt for the edit to count. ``CUEJAR_INTERPRETED=1`` always uses the sources.
"""

from __future__ import annotations

import hashlib
import importlib
import os
import re
import sys
from collections.abc import Iterator, Mapping, Sequence
from importlib.abc import MetaPathFinder
from importlib.machinery import EXTENSION_SUFFIXES, ModuleSpec
from importlib.util import spec_from_file_location
from pathlib import Path
from types import ModuleType

PACKAGE = Path(__file__).parent
FOLDER = PACKAGE / "compiled"
STARTS = ("cuejar.core.engine.engine",)
COMPILED = ("cuejar.core.engine.", "cuejar.core.rules.")
"""What is compiled, of all that the engine imports; the rest are models, tables and libraries, which gain nothing."""
_IMPORT = re.compile(rb"from (cuejar\.core[\w.]*) import (\([^)]*\)|.*)")
SHARED = "cuejar_engine"
"""The name of the library that all compiled modules share (mypyc's group)."""


def _source(module: str, package: Path) -> Path | None:
    """Returns the file of a module or a package; None if it is a name in one."""
    there = package.joinpath(*module.split(".")[1:])
    return next((file for file in (there.with_suffix(".py"), there / "__init__.py") if file.is_file()), None)


def _imported(content: bytes) -> Iterator[str]:
    """Yields the modules that a source imports, and names in them that may be modules."""
    for module, names in _IMPORT.findall(content):
        package = module.decode()
        yield package
        yield package.rpartition(".")[0]
        listed = names.strip(b"()").replace(b"\n", b",").split(b",")
        yield from (
            f"{package}.{words[0].decode()}" for name in listed if (words := name.split()) and words[0].islower()
        )


def sources(package: Path = PACKAGE) -> dict[str, bytes]:
    """Returns the sources of the engine, and of everything in the core that it imports, by their modules."""
    found, waiting = dict[str, bytes](), list(STARTS)
    while waiting:
        module = waiting.pop()
        if module in found or (file := _source(module, package)) is None:
            continue
        found[module] = file.read_bytes()
        waiting += [one for one in _imported(found[module]) if one not in found]
    return found


def digest(package: Path = PACKAGE) -> str:
    """Returns a digest of the sources, wherever they lie."""
    found = hashlib.sha256()
    for module, content in sorted(sources(package).items()):
        found.update(f"{module} {len(content)}\n".encode() + content)
    return found.hexdigest()[:16]


def compiled_modules(package: Path = PACKAGE) -> list[str]:
    """Returns the modules that are compiled: those of `COMPILED` that define no models, which mypyc can't."""
    found = sources(package).items()
    return sorted(module for module, text in found if module.startswith(COMPILED) and b"from pydantic" not in text)


def made(folder: Path = FOLDER, package: Path = PACKAGE) -> dict[str, Path]:
    """Returns the modules compiled from exactly these sources for this Python."""
    there = folder / digest(package) if folder.is_dir() else folder
    return {
        ".".join(path.relative_to(there).parts).removesuffix(EXTENSION_SUFFIXES[0]): path
        for path in sorted(there.rglob("*" + EXTENSION_SUFFIXES[0]))
    }


class Compiled(MetaPathFinder):
    """Finds compiled modules before Python finds their sources."""

    def __init__(self, modules: Mapping[str, Path]) -> None:
        self.modules = modules

    def find_spec(
        self, fullname: str, path: Sequence[str] | None = None, target: ModuleType | None = None
    ) -> ModuleSpec | None:
        there = self.modules.get(fullname)
        return spec_from_file_location(fullname, there) if there is not None else None


def offer() -> None:
    """Uses compiled modules from now on, where they match."""
    if os.environ.get("CUEJAR_INTERPRETED") or "cuejar.core.engine" in sys.modules:
        return
    modules = made()
    if f"{SHARED}__mypyc" not in modules:
        return
    finder = Compiled(modules)
    sys.meta_path.insert(0, finder)
    try:
        importlib.import_module(f"{SHARED}__mypyc")
    except ImportError:  # From another machine: the sources are used.
        sys.meta_path.remove(finder)


def is_compiled() -> bool:
    """Returns whether this process runs the compiled engine."""
    return f"{SHARED}__mypyc" in sys.modules
