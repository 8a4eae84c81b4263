"""Two computers: networks of their own, with a cable between them."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

from tests.running import free_ports, until

HOME, STREAMING, GAMING = Path(__file__).parents[1], "10.77.0.1", "10.77.0.2"
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

    def __init__(self, folder: Path, *more: str) -> None:
        """Args:
        more: more options of ``cuejar serve``.
        """
        self.port = free_ports()
        serve = [sys.executable, "-m", "cuejar.cli", "serve", "--port", str(self.port), "--data", str(folder / "data")]
        serve += more
        self.log = (folder / "serve.log").open("w")
        own = 'ip link set lo up && exec "$0" "$@"'
        self.first = subprocess.Popen(["unshare", "-n", "sh", "-c", own, *serve], stdout=self.log, stderr=self.log)
        self.second = subprocess.Popen(["unshare", "-n", "sh", "-c", own, "sleep", "600"])
        names = self.names = [f"halt{self.port % 10000}{end}" for end in "ab"]
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

    def cut(self, is_cut: bool) -> None:
        """Takes the network card of the computer with Cue Jar away, or gives it back."""
        self.at(self.first, "ip", "link", "set", self.names[0], "down" if is_cut else "up")

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
