"""The two walks of docs/inside/architecture.md are taken as they stand there, and read from top to bottom."""

from __future__ import annotations

import re
import subprocess
import sys
from itertools import pairwise
from pathlib import Path

import pytest

DOC = Path(__file__).parents[2] / "docs" / "inside" / "architecture.md"


@pytest.mark.parametrize(("walk", "begins"), [("lamp", "A lamp turns red"), ("redemption", "A viewer redeems")])
def test_a_walk(tmp_path: Path, walk: str, begins: str) -> None:
    text = DOC.read_text("utf-8")
    told = text[text.index(f"**{begins}") :].split("\n\n", 2)[1]
    steps = [f"{file} {name}" for file, name in re.findall(r"^\| `([\w/.]+)` \| `(\w+)`", told, re.M)]
    assert len(steps) > 10
    command = [sys.executable, "-m", "tests.live.walks", str(tmp_path), walk]
    done = subprocess.run(command, cwd=DOC.parents[2], capture_output=True, text=True, timeout=240, check=False)
    assert done.returncode == 0, done.stderr
    taken = done.stdout.splitlines()
    assert [step for step in steps if step not in taken] == []
    first = [taken.index(step) for step in steps]
    assert [pair for pair, (one, other) in zip(pairwise(steps), pairwise(first), strict=True) if one > other] == []
