"""The compiled engine and the plain one are the same: any book, any night, the same orders; and an edit counts at once."""

from __future__ import annotations

import hashlib
import os
import shutil
import subprocess
import sys
from collections.abc import Iterable
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from cuejar import compiling
from cuejar.compiling import PACKAGE, Compiled, compiled_modules, is_compiled, made, sources
from cuejar.core.book.files import book_from
from cuejar.core.engine.engine import Engine
from cuejar.core.facts import happenings as h
from cuejar.core.nights.generator import night_of
from cuejar.demo.load import demo_book
from tests.core import whole

NIGHTS = 80
EVENINGS = 6


def come_to(engine: Engine, happenings: Iterable[tuple[int, h.Happening]]) -> None:
    """Prints the number of orders of a night, and a digest of them."""
    orders = engine.handle(h.Rest(dict(whole.REST)), 0)
    for at, happening in happenings:
        orders += engine.handle(happening, at)
    for _ in range(500):
        if (due := engine.due()) is None:
            break
        orders += engine.advance(due)
    print(len(orders), hashlib.sha256(repr(orders).encode()).hexdigest())


def tell_nights() -> None:
    """Prints drawn books with everything in them, and evenings of the demo's audiences; the same each time."""

    @settings(
        max_examples=NIGHTS, derandomize=True, database=None, deadline=None, suppress_health_check=list(HealthCheck)
    )
    @given(st.data())
    def drawn(data: Any) -> None:
        book = data.draw(whole.whole_books())
        come_to(Engine(book, 3, dict(whole.MEDIA), tracing=True), data.draw(whole.whole_nights(book)))

    print("compiled" if is_compiled() else "as it stands")
    drawn()
    halt = book_from(demo_book())
    for seed in range(EVENINGS):
        come_to(Engine(halt, seed, tracing=seed % 2 > 0), night_of(halt.audiences[seed % 2], halt, seed))


def told(**env: str) -> list[str]:
    command = [sys.executable, "-m", "tests.test_compiled"]
    said = subprocess.run(command, env={**os.environ, **env}, capture_output=True, text=True, timeout=300, check=True)
    return said.stdout.splitlines()


@pytest.mark.skipif(not made(), reason="the engine is not compiled here")
def test_the_compiled_engine_does_what_the_sources_say() -> None:
    compiled, stands = told(CUEJAR_INTERPRETED=""), told(CUEJAR_INTERPRETED="1")
    assert (compiled[0], stands[0]) == ("compiled", "as it stands")
    assert len(compiled) > NIGHTS / 2 + EVENINGS
    assert sum(int(line.split()[0]) for line in compiled[1:]) > 500 * EVENINGS, "something happens in them"
    assert compiled[1:] == stands[1:]


def loaded() -> set[str]:
    """Returns the modules of the core that Python itself loads for the engine."""
    program = (
        "import sys, cuejar.core.engine.engine\n"
        "print(*(name for name, it in sys.modules.items() if name.startswith('cuejar.core') and it.__file__))"
    )
    said = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, timeout=60, check=True)
    return set(said.stdout.split())


def test_everything_that_the_engine_loads_is_known_to_be_its_source() -> None:
    there = loaded()
    assert len(there) > 80 and there <= set(sources())
    assert {"cuejar.core.measures.catalogue", "cuejar.core.measures.throw", "cuejar.core.facts.paths"} <= there
    assert {"cuejar.core.engine.engine", "cuejar.core.rules.door"} <= set(compiled_modules()) <= there


@pytest.mark.skipif(not made(), reason="the engine is not compiled here")
def test_an_edit_of_what_the_engine_stands_on_counts_at_once(tmp_path: Path) -> None:
    package = tmp_path / "cuejar"
    shutil.copytree(PACKAGE / "core", package / "core", ignore=shutil.ignore_patterns("__pycache__"))
    assert set(made(package=package)) == {*compiled_modules(), f"{compiling.SHARED}__mypyc"}
    for module in loaded():
        file = package.joinpath(*module.split(".")[1:]).with_suffix(".py")
        if file.is_file():
            before = file.read_text("utf-8")
            file.write_text(before + "\n", "utf-8")
            assert made(package=package) == {}, module
            file.write_text(before, "utf-8")
    (package / "core" / "nights" / "papers.py").write_text("# what the engine doesn't need", "utf-8")
    assert made(package=package), "an edit of anything else doesn't matter"


def test_what_cannot_be_loaded_is_left_alone(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """From another machine, or cut off: the sources are used."""
    there = tmp_path / f"{compiling.SHARED}__mypyc.so"
    there.write_bytes(b"\x7fELF and no more")
    monkeypatch.setattr(compiling, "made", lambda: {f"{compiling.SHARED}__mypyc": there})
    monkeypatch.delenv("CUEJAR_INTERPRETED", raising=False)
    for name in [name for name in sys.modules if name.startswith(("cuejar.core.engine", compiling.SHARED))]:
        monkeypatch.delitem(sys.modules, name)
    before = list(sys.meta_path)
    compiling.offer()
    assert sys.meta_path == before
    assert Compiled({"cuejar.nobody": there}).find_spec("cuejar.somebody") is None


if __name__ == "__main__":
    tell_nights()
