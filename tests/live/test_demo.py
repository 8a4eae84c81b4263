"""The demo: one command starts everything over the demo data, and Ctrl-C or a termination signal ends both processes."""

from __future__ import annotations

import signal
import socket
import subprocess
import sys
from pathlib import Path

import httpx
import pytest

from cuejar.demo.load import demo_book, demo_files
from tests.running import PATIENCE_S, free_ports, until


def _answers(port: int) -> bool:
    with socket.socket() as probe:
        return probe.connect_ex(("127.0.0.1", port)) == 0


@pytest.mark.parametrize("how", [signal.SIGINT, signal.SIGTERM, signal.SIGKILL])
def test_the_demo_ends_both(how: signal.Signals, tmp_path: Path) -> None:
    port = free_ports()
    command = [sys.executable, "-m", "cuejar.cli", "demo", "--port", str(port), "--data", str(tmp_path / "data")]
    demo = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    try:
        home = f"http://127.0.0.1:{port}"
        until(lambda: httpx.get(f"{home}/api/health", trust_env=False).json()["channel"] == "in_step")
        media = httpx.get(f"{home}/api/media", trust_env=False).json()
        assert len(media) == len(demo_files())
        assert not any(entry["missing"] for entry in media)
        assert httpx.get(f"{home}/api/snags", trust_env=False).json() == []
        titles = {
            r["title"] for r in httpx.get(f"http://127.0.0.1:{port + 10}/channel/rewards", trust_env=False).json()
        }
        assert titles == {reward["title"] for reward in demo_book()["rewards"]}
    finally:
        demo.send_signal(how)
        out, _ = demo.communicate(timeout=PATIENCE_S)
    assert demo.returncode == (-9 if how is signal.SIGKILL else 0)
    assert home in out
    assert not _answers(port)
    until(lambda: not _answers(port + 10))
