"""Overlays on another computer: between two networks of their own, with a cable between them."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest

from cuejar.demo.make import FILES
from tests.computers import STREAMING, Computers, fails
from tests.running import until


@pytest.fixture
def computers(tmp_path: Path) -> Iterator[Computers]:
    if os.geteuid() != 0:
        pytest.skip("only root may lay a cable between two networks")
    made = Computers(tmp_path)
    try:
        until(lambda: not fails(lambda: made.api("GET", "/api/health", "")))
        yield made
    finally:
        made.end()
    assert "Traceback" not in (tmp_path / "serve.log").read_text()


def test_another_computer_shows_the_overlay_and_nothing_else(computers: Computers) -> None:
    file = FILES / "paper-ticket.png"
    added = computers.api("POST", "/api/media", f"files={{'files': ('t.png', open({str(file)!r}, 'rb').read())}}")
    media = f"/media/{added['media'][0]['hash']}"
    path = computers.api("POST", "/api/overlays/stream/link", "")["path"]
    begins = f"http://{STREAMING}:{computers.port + 6}"
    assert fails(lambda: computers.asks(begins, path, feed=f"{path}/feed")), "nothing listens there before"
    refused = computers.api("PUT", "/api/overlays-beyond", "json={'address': '10.9.9.9'}")
    assert "is not an address of this computer" in refused["what"] and STREAMING in refused["do"]
    told = computers.api("PUT", "/api/overlays-beyond", f"json={{'address': {STREAMING!r}}}")
    assert told["begins"] == begins and not told["secure"]
    until(lambda: computers.api("GET", "/api/overlays-beyond", "")["listens"])
    others = (
        "/",
        "/desk",
        "/api/book",
        "/api/health",
        "/api/token",
        "/pads",
        "/index.html",
        "/overlay/wrong",
        "/media/" + "0" * 64,
    )
    found = computers.asks(begins, path, media, *others, feed=f"{path}/feed")
    assert {found[path], found[media]} == {200} and {found[one] for one in others} == {404}
    assert found["foreign host"] == 403 and found["feed"] == "whole"
    assert computers.asks(begins, path, feed="/overlay/wrong/feed")["feed"] != "whole"
    main = f"http://{STREAMING}:{computers.port}"
    assert fails(lambda: computers.asks(main, "/desk", feed="/api/feed")), "the main port is for this computer alone"
    computers.api("PUT", "/api/overlays-beyond", "json={'address': ''}")

    until(lambda: fails(lambda: computers.asks(begins, path, feed=f"{path}/feed")))


def test_without_it_the_desk_says_nothing(running: Any) -> None:
    assert [row["beyond"] for row in running.state()["overlays"]] == [""]
    assert httpx.get(f"http://127.0.0.1:{running.port}/api/overlays-beyond", trust_env=False).json()["beyond"] == ""
