"""A folder jar follows its folder while the show runs; a text jar is filled from a pasted list."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from cuejar.demo.make import FILES
from tests.running import Running, until


def _fire(running: Running) -> dict[str, Any]:
    fired: dict[str, Any] = running.api.post("/api/cues/a/fire").json()
    return fired


def test_a_file_put_into_the_folder_is_in_the_next_draw(running: Running, tmp_path: Path) -> None:
    folder = tmp_path / "posters"
    folder.mkdir()
    beat = {"id": "pic", "kind": "picture", "media": {"jar": "wall"}, "length": {"s": 0.2}}
    running.book(
        jars=[{"id": "wall", "folder": str(folder), "rule": "bag"}],
        cues=[{"id": "a", "name": "A", "entry": "overlap", "beats": [beat]}],
    )
    assert "nothing that can be drawn" in _fire(running)["failed"][0]
    (folder / "notes.txt").write_text("no picture")
    (folder / "tea.gif").write_bytes((FILES / "poster-tea.gif").read_bytes())
    until(lambda: not _fire(running)["failed"])
    (folder / "owl.png").write_bytes((FILES / "poster-owl.png").read_bytes())

    def drawn() -> set[str]:
        _fire(running)
        lines = running.api.get("/api/ledger?cue=a").json()["lines"]
        return {d for line in lines for note in line["notes"] if note["what"] == "draw" for d in note["drawn"]}

    until(lambda: len(drawn()) == 2, 0.3)
    (folder / "tea.gif").unlink()
    (folder / "owl.png").unlink()
    until(lambda: _fire(running)["failed"])


def test_a_pasted_list(running: Running) -> None:
    running.book(jars=[{"id": "says", "kind": "text", "entries": [{"value": "old"}]}])
    text = '"Mind the gap"\n\n  \u201cTea is served\u201d  \nAll aboard\nAll aboard\n"'
    running.api.post("/api/jars/says/file", json={"form": "list", "text": text}).raise_for_status()
    jar = running.api.get("/api/book").json()["book"]["jars"][0]
    assert [entry["value"] for entry in jar["entries"]] == ["Mind the gap", "Tea is served", "All aboard", '"']
    assert running.api.post("/api/jars/nobody/file", json={"form": "list", "text": "x"}).status_code == 404
