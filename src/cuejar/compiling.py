"""The engine and its rules, compiled: twice as fast, built at set-up (``python -m scripts.compiled``) where there is a
C compiler.

A compiled module counts only while its source is the one it was built from; after an edit the source itself is used,
so nothing has to be rebuilt for the edit to count. ``CUEJAR_INTERPRETED=1`` always uses the sources.
"""

from __future__ import annotations

import hashlib
import importlib
import os
import sys
from collections.abc import Mapping, Sequence
from importlib.abc import MetaPathFinder
from importlib.machinery import EXTENSION_SUFFIXES, ModuleSpec
from importlib.util import spec_from_file_location
from pathlib import Path
from types import ModuleType

PACKAGE = Path(__file__).parent
FOLDER = PACKAGE / "compiled"
ROOMS = ("parts", "facts", "book", "kinds", "rules", "engine")
"""The engine's dependencies: editing any of them invalidates the compiled modules."""
SHARED = "cuejar_engine"
"""The name of the library that all compiled modules share (mypyc's group)."""


def digest(package: Path = PACKAGE) -> str:
    """Returns a digest of the sources, wherever they lie."""
    found = hashlib.sha256()
    for room in ROOMS:
        for source in sorted((package / "core" / room).glob("*.py")):
            content = source.read_bytes()
            found.update(f"{room}/{source.name} {len(content)}\n".encode() + content)
    return found.hexdigest()[:16]


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
