"""Writes all orders to a file, one per line, as ``cuejar rehearse`` prints them: to investigate a fault."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from cuejar.core.engine.night import Timed
from cuejar.core.engine.rehearsal import lines


class OrderLog:
    """Listens, and writes. Lines of an earlier process stay before it."""

    def __init__(self, file: Path) -> None:
        self._out = file.open("a", encoding="utf-8", buffering=1)

    def hear(self, timed: Sequence[Timed]) -> None:
        self._out.writelines(f"{line}\n" for line in lines(timed))
