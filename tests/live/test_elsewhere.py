"""The main jobs under the rules of Windows: open files stay where they are, the terminal knows few characters, and what
only POSIX has is missing (``tests/elsewhere``).
"""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import uuid
from collections.abc import Iterator
from datetime import date
from pathlib import Path

import httpx
import psutil
import pytest

from cuejar.demo.make import FILES
from tests.copies import Copies, ended
from tests.running import PATIENCE_S, client, free_ports, until

HOOK = Path(__file__).parents[1] / "elsewhere"


class Elsewhere:
    """A home of its own, with processes under these rules."""

    def __init__(self, home: Path) -> None:
        self.home, self.port = home, free_ports()
        self.environment = {**os.environ, "PYTHONPATH": str(HOOK), "ELSEWHERE": uuid.uuid4().hex, "ELSEWHERE_HOME": str(home), "CUEJAR_KEY_STORE": "0",
                            "CUEJAR_LAST": str(home / "last")}  # fmt: skip
        self.copies = Copies(self.environment)
        self.log = home / "demo.log"
        self.server: psutil.Process | None = None

    def run(self, *words: str, status: int = 0) -> str:
        """Returns what a command prints, in the terminal's own characters."""
        done = self.copies.run(*words, cwd=self.home)
        said = (done.stdout + done.stderr).decode("cp1252")
        assert done.returncode == status and "Traceback" not in said, (words, said)
        return said

    def demo(self, *more: str) -> httpx.Client:
        self.server = self.copies.start(["demo", "--port", str(self.port), *more], self.log, cwd=self.home)
        api = client(f"http://127.0.0.1:{self.port}")
        until(lambda: api.get("/api/health").json()["channel"] == "in_step")
        return api

    def end(self, number: int) -> int:
        assert self.server is not None
        both = [self.server, *self.server.children()]
        self.server.send_signal(number)
        psutil.wait_procs(both, PATIENCE_S)  # What it started ends by itself, a moment later.
        if number != signal.SIGKILL:  # Its end is written down once it was seen.
            until(lambda: ended(self.log) >= 0)
        return ended(self.log)


@pytest.fixture
def elsewhere(tmp_path: Path) -> Iterator[Elsewhere]:
    made = Elsewhere(tmp_path)
    yield made
    if made.server is not None and made.server.is_running():
        for process in [*made.server.children(recursive=True), made.server]:
            process.kill()
    made.copies.end()


def test_the_rules_hold(elsewhere: Elsewhere) -> None:
    """Else the rest would prove nothing."""
    asked = """
import os
for name in ("one", "two"):
    open(name, "w").write(name)
with open("one") as held:
    for act in (lambda: os.replace("two", "one"), lambda: os.remove("one"), lambda: os.rename("one", "three")):
        try:
            act()
        except PermissionError:
            print("refused", end=" ")
os.replace("two", "one")
try:
    print("\\u2192")
except UnicodeEncodeError:
    print("no arrow")
"""
    done = subprocess.run(
        [sys.executable, "-c", asked], env=elsewhere.environment, cwd=elsewhere.home, capture_output=True, text=True
    )
    assert done.stdout == "refused refused refused no arrow\n", done.stderr


def test_the_main_jobs(elsewhere: Elsewhere) -> None:
    api = elsewhere.demo("--yesterday")
    channel = client(f"http://127.0.0.1:{elsewhere.port + 10}/channel")
    ask = {"viewer": "owlpost", "reward": "Steam whistle", "text": ""}
    asked = until(lambda: (told := channel.post("/redemptions", json=ask)).is_success and told.json()["id"])
    until(lambda: channel.get(f"/redemptions/{asked}").json()["state"] == "fulfilled")
    for name in ("paper-ticket.png", "platform-bell.ogg", "crossing.webm"):
        given = {"files": (f"CON.{name}", (FILES / name).read_bytes())}
        assert api.post("/api/media", files=given, timeout=4 * PATIENCE_S).json()["media"], name
    assert api.get("/api/voices", timeout=PATIENCE_S).json()["voices"]
    bell = elsewhere.home / "Bell & tea" / "platform bell.ogg"
    bell.parent.mkdir()
    bell.write_bytes((FILES / "platform-bell.ogg").read_bytes() + b" ")
    pasted = f'"{bell}"\r\n{bell.as_uri()}\r\nC:\\Halt\\bell.ogg\r\n{bell.parent / "CON.ogg"}\r\n'
    told = api.post("/api/media/paths", json={"text": pasted}, timeout=4 * PATIENCE_S).json()
    assert {one["name"] for one in told["media"]} == {"platform bell"}
    assert [one["name"] for one in told["refused"]] == ["C:\\Halt\\bell.ogg", str(bell.parent / "CON.ogg")]
    begun = api.post("/api/rehearsals", json={"audience": "friday", "nights": 2}).json()["id"]
    until(lambda: api.get(f"/api/rehearsals/{begun}").json()["state"] == "done")
    for words in (
        ["export", "halt.zip"], ["export", "all.zip", "--everything"], ["import", "halt.zip", "--dry-run"],
        ["import", "halt.zip", "--data", "other"], ["rehearse", "--audience", "Friday", "--book", "halt.zip", "--against", "halt.zip"],
        ["night", "list"], ["night", "export", "last", "night.otioz"], ["night", "export", "last", "night.script.json"],
        ["rehearse", "night.script.json", "--report"], ["playbill", "playbill.html"], ["doctor"],
    ):  # fmt: skip
        elsewhere.run(*words)
    for odd in ("CON.zip", "halt?.zip", f"{'long' * 70}.zip", "halt.zip."):
        assert odd[:20] in elsewhere.run("export", odd, status=1), "said in words"
    script = elsewhere.home / "night.script.json"
    script.write_bytes(script.read_bytes().replace(b"\r\n", b"\n").replace(b"\n", b"\r\n"))
    elsewhere.run("rehearse", "night.script.json")
    listed = '\ufefftitle;cost\r\n"Ring the bell";50\r\n"Fog, thick";120\r\n'
    rows = api.post("/api/rewards/table/preview", json={"text": listed}).json()["rows"]
    assert [(row["title"], row["what"]) for row in rows] == [("Ring the bell", "new"), ("Fog, thick", "new")]
    until(lambda: list((elsewhere.home / "data" / "copies").glob("*.sqlite")))
    assert elsewhere.end(signal.SIGINT) == 0
    elsewhere.demo()
    elsewhere.end(signal.SIGKILL)
    elsewhere.run("restore", str(date.today()))
    elsewhere.demo()
    assert elsewhere.end(signal.SIGTERM) == 0, "as when its window is closed"
    elsewhere.demo("--fresh")
    assert elsewhere.end(signal.SIGINT) == 0
    said = (elsewhere.home / "demo.log").read_text("cp1252")
    assert "Traceback" not in said, said[said.index("Traceback") :][:3000]
