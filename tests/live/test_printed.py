"""What help and docs print is what runs: every example, in a home of its own, at the usual ports."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

from tests.running import apart_net


def test_every_printed_example_runs(tmp_path: Path) -> None:
    environment = {name: value for name, value in os.environ.items() if not name.startswith("CUEJAR_")}
    (tmp_path / "work").mkdir()
    done = subprocess.run(
        [*apart_net(), sys.executable, "-m", "tests.examples", str(tmp_path / "work")],
        env={**environment, "HOME": str(tmp_path), "CUEJAR_KEY_STORE": "0"}, cwd=Path(__file__).parents[2],
        capture_output=True, text=True, timeout=1200,
    )  # fmt: skip
    assert done.returncode == 0, done.stdout + done.stderr
    assert " 0 failed" in done.stdout


def test_commands_find_what_runs_and_say_so(tmp_path: Path) -> None:
    """Nothing is made in a home where there is nothing; the folder used last counts, and a running one before it."""
    environment = {**os.environ, "CUEJAR_LAST": str(tmp_path / "last"), "XDG_DATA_HOME": str(tmp_path / "home")}
    environment.pop("CUEJAR_DATA", None)

    def cli(*words: str) -> subprocess.CompletedProcess[str]:
        command = [*apart_net(), sys.executable, "-m", "cuejar.cli", *words]
        return subprocess.run(command, env=environment, capture_output=True, text=True, timeout=120)

    usual = tmp_path / "home" / "cue-jar"
    for words in (["night", "list"], ["export", str(tmp_path / "x.zip")], ["restore"]):
        said = cli(*words)
        assert (said.returncode, said.stdout) == (2, ""), words
        assert f"There is no data folder {usual} yet" in said.stderr
    assert not usual.exists() and not (tmp_path / "x.zip").exists()
    used = tmp_path / "Halt"
    (tmp_path / "book.json").write_text(
        '{"format": "cue-jar-book", "version": 1, "overlays": [{"id": "s", "name": "S"}]}'
    )
    assert cli("import", str(tmp_path / "book.json"), "--data", str(used)).returncode == 0
    (tmp_path / "last").write_text(str(used))
    said = cli("night", "list")
    assert said.returncode == 0 and f"Data folder {used}" in said.stderr and "No nights yet" in said.stdout
    (tmp_path / "last").write_text("\0nonsense")
    assert cli("night", "list").returncode == 2, "what can't be read there counts for nothing"
