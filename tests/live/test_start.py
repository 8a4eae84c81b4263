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

from cuejar import logs, platform
from tests.running import PATIENCE_S, Running, free_ports, until


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


def test_what_a_killed_one_left_leads_nowhere(tmp_path: Path, running: Running) -> None:
    """Another Cue Jar answers at the port that stands there: it has another folder."""
    port, own = free_ports(), tmp_path / "own"
    (own / "data").mkdir(parents=True)
    (own / "data" / "port").write_text(str(running.port))
    start = Start(own, port)
    try:
        until(lambda: start.addresses() == [f"http://127.0.0.1:{port}/"])
    finally:
        start.process.kill()
        start.process.wait()
    assert (own / "data" / "port").exists()
    again = Start(own, port)
    until(lambda: len(again.addresses()) == 2)
    assert "already" not in again.end()


def test_a_damaged_folder_opens_the_page_on_which_one_chooses(tmp_path: Path) -> None:
    port = free_ports()
    first = Start(tmp_path, port)
    until(first.addresses)
    day = tmp_path / "data" / "copies"
    until(lambda: list(day.glob("cue-jar-*.sqlite")))
    first.end()
    file = tmp_path / "data" / "cue-jar.sqlite"
    with file.open("r+b") as spoilt:
        spoilt.seek(4096)
        spoilt.write(b"?" * (file.stat().st_size - 8192))
    second = Start(tmp_path, port)
    try:
        until(lambda: len(second.addresses()) == 2)
        page = httpx.get(second.addresses()[1], headers={"Accept": "text/html"}, trust_env=False)
        assert "<form" in page.text and "copy" in page.text
    finally:
        second.process.kill()
        second.process.wait()


def test_no_browser_is_looked_for_where_there_is_no_desktop(monkeypatch: pytest.MonkeyPatch) -> None:
    opened: list[str] = []
    for one in ("DISPLAY", "WAYLAND_DISPLAY", "BROWSER"):
        monkeypatch.delenv(one, raising=False)
    monkeypatch.setattr("cuejar.platform.webbrowser.open", opened.append)
    platform.open_browser("http://127.0.0.1/")
    monkeypatch.setenv("DISPLAY", ":9")
    platform.open_browser("http://127.0.0.1/desk")
    until(lambda: opened)
    assert opened == ["http://127.0.0.1/desk"]


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
    logs.empty(tmp_path)
    assert file.read_text("utf-8") == "", "a viewer who is forgotten may have been named there"
    file.unlink()
    file.mkdir()  # It cannot be written any longer.
    listener = logs.log_to(tmp_path)
    logging.getLogger("cuejar.test").error("The kettle boils.")
    listener.stop()
    assert "The kettle boils." in capsys.readouterr().err
