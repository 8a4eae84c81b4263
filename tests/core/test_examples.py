"""The worked examples of the docs are reproduced line by line; lines of one instant may come in another order."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path
from typing import Any, NamedTuple

import pytest
from typer.testing import CliRunner

from cuejar.cli import app

EXAMPLES = Path(__file__).parents[2] / "docs" / "reference" / "examples"
NAMES = sorted(path.name.removesuffix(".script.json") for path in EXAMPLES.glob("*.script.json"))


def ordered(rows: list[dict[str, Any]]) -> list[str]:
    return sorted((json.dumps(row, sort_keys=True) for row in rows), key=lambda text: (json.loads(text)["at"], text))


class Done(NamedTuple):
    returncode: int
    stdout: str
    stderr: str


def rehearse(*arguments: str) -> Done:
    """Runs ``cuejar rehearse ARGUMENTS…`` in this process."""
    done = CliRunner().invoke(app, ["rehearse", *arguments], catch_exceptions=False)
    return Done(done.exit_code, done.stdout, done.stderr)


def test_the_command_itself() -> None:
    script = str(EXAMPLES / f"{NAMES[0]}.script.json")
    done = subprocess.run(
        [sys.executable, "-m", "cuejar.cli", "rehearse", script], capture_output=True, text=True, check=True
    )
    assert done.stdout == rehearse(script).stdout != ""


def test_every_example_is_explained() -> None:
    assert len(NAMES) >= 8
    for name in NAMES:
        assert (EXAMPLES / f"{name}.md").is_file(), name
        assert (EXAMPLES / f"{name}.expected.jsonl").is_file(), name


@pytest.mark.parametrize("name", NAMES)
def test_worked_example(name: str) -> None:
    done = rehearse(str(EXAMPLES / f"{name}.script.json"))
    assert done.returncode == 0, done.stderr
    got = [json.loads(line) for line in done.stdout.splitlines()]
    assert [row["at"] for row in got] == sorted(row["at"] for row in got)
    want = [json.loads(line) for line in (EXAMPLES / f"{name}.expected.jsonl").read_text("utf-8").splitlines()]
    assert ordered(got) == ordered(want)


def test_report_and_beside(tmp_path: Path) -> None:
    script = tmp_path / "lanes.json"
    script.write_text((EXAMPLES / "lanes.script.json").read_text("utf-8"), "utf-8")
    report = json.loads(rehearse(str(script), "--json").stdout)
    assert (report["let_in"], report["refunds"], report["length_s"]) == (6, 1, 30)
    assert {"runs": 5, "median_s": 3.0, "p95_s": 8.2}.items() <= report["waits_by_lane"]["yard"].items()
    assert report["seen"] == round((4 + 1 + 5 + 4 + 2) / 30, 4)
    assert report["at_rest"] is True
    assert "at rest at the end: yes" in rehearse(str(script), "--report").stdout
    assert rehearse(str(script), "--beside").stdout == ""
    assert (tmp_path / "lanes.out.jsonl").read_text("utf-8").count('"type": "start"') == 5


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"format": "something"}, "format"),
        ({"until": -1}, "until"),
        ({"happenings": [{"at": 1, "kind": "dance"}]}, "happenings[0].kind"),
        ({"happenings": [{"at": "soon", "kind": "follow"}]}, "happenings[0].at"),
        (
            {"happenings": [{"at": 1, "kind": "redemption", "id": "a", "reward": "b"}]},
            "happenings[0].viewer: is needed",
        ),
        ({"book": {"cues": [{"id": "a", "name": "A", "lane": "none"}]}}, "book.cues[0].lane: there is no lane “none”"),
        ({"extra": 1}, "extra: there is no such key"),
        (
            {"happenings": [{"at": 1, "kind": "book", "book": {"cues": [{"id": "a"}]}}]},
            "happenings[0].book.cues[0].name: is needed",
        ),
    ],
)
def test_a_script_that_does_not_parse(tmp_path: Path, change: dict[str, Any], says: str) -> None:
    base = {"format": "cue-jar-script", "version": 1, "book": {}, "happenings": []}
    path = tmp_path / "bad.json"
    path.write_text(json.dumps({**base, **change}), "utf-8")
    done = rehearse(str(path))
    assert done.returncode == 2
    assert says in done.stderr
    assert done.stdout == ""
