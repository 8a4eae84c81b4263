"""Starting by hand: what it prints, the browser it opens, a second start, taken ports, and the log."""

from __future__ import annotations

import logging
import os
import signal
import socket
import subprocess
import sys
from pathlib import Path

import httpx
import pytest

from cuejar import logs
from tests.running import PATIENCE_S, free_ports, until


class Start:
    """A start of ``cuejar`` in a shell, with a browser that writes down what it opens."""

    def __init__(self, folder: Path, port: int, *arguments: str) -> None:
        self.opened = folder / "opened.txt"
        browser = folder / "browser"
        browser.write_text(f'#!/bin/sh\necho "$1" >> {self.opened}\n')
        browser.chmod(0o755)
        given = {"CUEJAR_DATA": str(folder / "data"), "CUEJAR_PORT": str(port), "CUEJAR_KEY_STORE": "0"}
        self.process = subprocess.Popen(
            [sys.executable, "-m", "cuejar.cli", *arguments],
            env={**os.environ, **given, "BROWSER": f"{browser} %s"}, stdout=subprocess.PIPE, text=True,
        )  # fmt: skip

    def addresses(self) -> list[str]:
        return self.opened.read_text().split() if self.opened.exists() else []

    def end(self) -> str:
        self.process.send_signal(signal.SIGTERM)
        return self.process.communicate(timeout=PATIENCE_S)[0]


def test_it_opens_once_and_a_second_start_opens_the_same(tmp_path: Path) -> None:
    port = free_ports()
    home = f"http://127.0.0.1:{port}/"
    first = Start(tmp_path, port)
    try:
        until(lambda: first.addresses() == [home])
        assert httpx.get(home, trust_env=False).is_success
        second = Start(tmp_path, port)
        said, _ = second.process.communicate(timeout=PATIENCE_S)
        assert second.process.returncode == 0 and f"already running at {home}" in said
        until(lambda: first.addresses() == [home, home])
    finally:
        said = first.end()
    assert home in said and str(tmp_path / "data") in said and "Ctrl-C ends it." in said
    assert not (tmp_path / "data" / "port").exists()


def test_a_taken_port_is_answered_by_the_next(tmp_path: Path) -> None:
    port = free_ports()
    with socket.socket() as other:
        other.bind(("127.0.0.1", port + 5))  # The pads' port counts too.
        other.listen()
        start = Start(tmp_path, port)
        until(lambda: start.addresses() or start.process.poll() is not None)
        opened = start.addresses()
        again = Start(tmp_path, port)  # It finds the running one, wherever that is.
        again.process.communicate(timeout=PATIENCE_S)
        said = start.end()
    assert opened == [f"http://127.0.0.1:{port + 20}/"] and f"Port {port} is in use" in said
    assert start.addresses() == opened * 2


def test_serve_says_where_it_is_and_opens_nothing(tmp_path: Path) -> None:
    port = free_ports()
    start = Start(tmp_path, port, "serve")
    until(lambda: (tmp_path / "data" / "port").exists() and _answers(port))
    said = start.end()
    assert [line.split()[0] for line in said.splitlines()] == ["Cue", "Data", "Log", "Ctrl-C"] and not start.addresses()


def _answers(port: int) -> bool:
    with socket.socket() as probe:
        return probe.connect_ex(("127.0.0.1", port)) == 0


def test_the_log_is_on_the_terminal_and_in_a_file_and_never_in_the_way(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    root = logging.getLogger()
    monkeypatch.setattr(root, "handlers", [])
    listener = logs.log_to(tmp_path)
    logging.getLogger("cuejar.test").warning("The kettle is %s.", "cold")
    logging.getLogger("cuejar.test").info("not worth a line")
    listener.stop()
    file = tmp_path / "logs" / "cue-jar.log"
    assert capsys.readouterr().err == "The kettle is cold.\n"
    assert file.read_text("utf-8").rstrip().endswith("WARNING cuejar.test: The kettle is cold.")
    file.unlink()
    file.mkdir()  # It cannot be written any longer.
    listener = logs.log_to(tmp_path)
    logging.getLogger("cuejar.test").error("The kettle boils.")
    listener.stop()
    assert "The kettle boils." in capsys.readouterr().err
