"""Tries the packed program as somebody who downloaded it: no Python, no checkout, an empty home (``make app``)."""

from __future__ import annotations

import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import httpx

from cuejar.demo.make import FILES
from tests.running import client, free_ports, until

WHISTLE = "Steam whistle"
PROGRAM = Path(__file__).parents[1] / "dist" / "app" / "Cue Jar" / "cuejar"


def main() -> None:
    """Raises AssertionError: something doesn't work."""
    with tempfile.TemporaryDirectory() as folder:
        home = Path(folder)
        clean = {"HOME": folder, "PATH": "/usr/bin:/bin", "CUEJAR_KEY_STORE": "0"}

        def run(*words: str) -> str:
            command = [str(PROGRAM), *words]
            done = subprocess.run(command, env=clean, cwd=home, capture_output=True, text=True, timeout=300)
            assert done.returncode == 0 and "Traceback" not in done.stderr, (words, done.stdout, done.stderr)
            return done.stdout

        found = run("doctor")
        for said in ("The pages are there.", "voices can read aloud", "All kinds of media can be read"):
            assert said in found, found
        port = free_ports()
        begin = time.monotonic()
        one = subprocess.Popen([PROGRAM, "--background"], env={**clean, "CUEJAR_PORT": str(port)}, cwd=home)
        until(lambda: httpx.get(f"http://127.0.0.1:{port}/", trust_env=False).is_success, 0.02)
        first = time.monotonic() - begin
        one.send_signal(signal.SIGINT)
        assert one.wait(30) == 0
        demo = subprocess.Popen([PROGRAM, "demo", "--yesterday", "--port", str(port)], env=clean, cwd=home)
        try:
            api, channel = client(f"http://127.0.0.1:{port}"), client(f"http://127.0.0.1:{port + 10}/channel")
            until(lambda: api.get("/api/health").json()["channel"] == "in_step")
            ask = {"viewer": "owlpost", "reward": WHISTLE, "text": ""}
            # Until its gear is connected, the reward is paused.
            asked = until(lambda: (told := channel.post("/redemptions", json=ask)).is_success and told.json()["id"])
            until(lambda: channel.get(f"/redemptions/{asked}").json()["state"] == "fulfilled")
            ticket = (FILES / "paper-ticket.png").read_bytes()
            assert api.post("/api/media", files={"files": ("ticket.png", ticket)}, timeout=120).json()["media"]
            assert len(api.get("/api/voices").json()["voices"]) > 50
            run("export", "halt.zip")
            run("import", "halt.zip", "--data", "other")
            assert "2 nights" in run("rehearse", "--audience", "Friday", "--nights", "2")
            run("night", "export", "last", "friday.otioz")
        finally:
            demo.send_signal(signal.SIGINT)
            assert demo.wait(30) == 0
    print(f"It works. First page after {first:.1f} s.")


if __name__ == "__main__":
    main()
    sys.exit(0)
