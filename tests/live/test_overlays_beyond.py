"""Overlays on another computer: between two networks of their own, with a cable between them."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest

from cuejar.demo.make import FILES
from tests.running import free_ports, until

HOME, STREAMING, GAMING = Path(__file__).parents[2], "10.77.0.1", "10.77.0.2"
ASKED = """
import json, sys, httpx
from websockets.sync.client import connect
begins, paths, feed = sys.argv[1], json.loads(sys.argv[2]), sys.argv[3]
with httpx.Client(trust_env=False, timeout=20) as client:
    found = {path: client.get(begins + path).status_code for path in paths}
    found["foreign host"] = client.get(begins + paths[0], headers={"Host": "halt.example"}).status_code
    try:
        with connect("ws" + begins[4:] + feed, proxy=None, open_timeout=20) as socket:
            found["feed"] = json.loads(socket.recv(timeout=20))["t"]
    except Exception as error:
        found["feed"] = type(error).__name__
print(json.dumps(found))
"""


class Computers:
    """Two: one with Cue Jar, and one in the same house."""

    def __init__(self, folder: Path) -> None:
        self.port = free_ports()
        serve = [sys.executable, "-m", "cuejar.cli", "serve", "--port", str(self.port), "--data", str(folder / "data")]
        self.log = (folder / "serve.log").open("w")
        own = 'ip link set lo up && exec "$0" "$@"'
        self.first = subprocess.Popen(["unshare", "-n", "sh", "-c", own, *serve], stdout=self.log, stderr=self.log)
        self.second = subprocess.Popen(["unshare", "-n", "sh", "-c", own, "sleep", "600"])
        names = [f"halt{self.port % 10000}{end}" for end in "ab"]
        until(
            lambda: all(
                os.readlink(f"/proc/{one.pid}/ns/net") != os.readlink("/proc/self/ns/net")
                for one in (self.first, self.second)
            )
        )
        self._ip("link", "add", names[0], "type", "veth", "peer", "name", names[1])
        for one, name, address in zip((self.first, self.second), names, (STREAMING, GAMING), strict=True):
            self._ip("link", "set", name, "netns", str(one.pid))
            self.at(one, "ip", "addr", "add", f"{address}/24", "dev", name)
            self.at(one, "ip", "link", "set", name, "up")

    @staticmethod
    def _ip(*words: str) -> None:
        subprocess.run(["ip", *words], check=True, capture_output=True)

    @staticmethod
    def at(one: subprocess.Popen[bytes], *command: str) -> str:
        done = subprocess.run(
            ["nsenter", "-t", str(one.pid), "-n", *command], check=True, capture_output=True, text=True, cwd=HOME
        )  # fmt: skip
        return done.stdout

    def api(self, method: str, path: str, told: str) -> Any:
        """Asks Cue Jar on its own computer; ``told`` is what else `httpx.request` is given."""
        ask = f"import httpx\nprint(httpx.request({method!r}, 'http://127.0.0.1:{self.port}{path}', trust_env=False, timeout=60, {told}).text)"
        return json.loads(self.at(self.first, sys.executable, "-c", ask))

    def asks(self, begins: str, *paths: str, feed: str) -> dict[str, Any]:
        """Returns how the other computer is answered."""
        found: dict[str, Any] = json.loads(
            self.at(self.second, sys.executable, "-c", ASKED, begins, json.dumps(paths), feed)
        )
        return found

    def end(self) -> None:
        for one in (self.first, self.second):
            one.kill()
            one.wait()


def fails(act: Callable[[], object]) -> bool:
    try:
        act()
    except subprocess.CalledProcessError:
        return True
    return False


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
