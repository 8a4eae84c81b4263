"""Starting with the computer, the tray, and what a report of a problem says and keeps to itself."""

from __future__ import annotations

import configparser
import io
import os
import random
import re
import signal
import subprocess
import sys
import zipfile
from pathlib import Path

import pytest

from cuejar import platform
from cuejar.logs import FILE, FOLDER
from cuejar.report import Cleaner
from cuejar.tray import Icon, show_tray
from tests.running import PATIENCE_S, Running, free_ports, until

ODD = ["/opt/Cue Jar/Cue Jar", 'a "quoted" \\ 100% $HOME `x`', "--background"]


def test_it_starts_with_the_computer_and_no_longer(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path))
    assert not platform.starts_with_computer()
    platform.start_with_computer(ODD)
    assert platform.starts_with_computer()
    entry = configparser.RawConfigParser()
    entry.read(tmp_path / "autostart" / "cue-jar.desktop")
    line = entry["Desktop Entry"]["exec"]
    words = re.findall(r'"((?:[^"\\]|\\.)*)"', line.replace("\\\\", "\\"))
    assert [re.sub(r"\\(.)", r"\1", one).replace("%%", "%") for one in words] == ODD
    platform.start_with_computer(None)
    platform.start_with_computer(None)
    assert not platform.starts_with_computer()


TEA = {"id": "tea", "name": "Tea", "calls": [{"kind": "reward", "reward": "tea"}],
       "beats": [{"id": "c", "kind": "count", "name": "teas"}]}  # fmt: skip
NAMES = [("v1", "saltwick_jo"), ("v2", "Owl Post"), ("", "hopper_kit")]
LINES = {
    "Saltwick_Jo wrote s a l t w i c k _ j o": "",
    "a link /o/stream/9f8e7d6c5b4a39281706f5e4d3c2b1a0": "",
    "ws://streamer:tea123@10.4.0.7:4455/x?token=kettle": "",
    f"opened {Path.home()}/Pictures/poster.png": "",
    "The lamp kettle-lamp answered late, 127.0.0.1:8710, after 5000 ms": "The lamp kettle-lamp answered late, 127.0.0.1:8710, after 5000 ms",
    "the password is steam-engine": "",
}


def test_a_report_names_nobody_and_gives_nothing_away() -> None:
    clean = Cleaner(NAMES, ["steam-engine", ""])
    for line, same in LINES.items():
        said = clean.line(line)
        assert said == same if same else said != line
        for lost in ("saltwick", "9f8e7d", "tea123", "10.4.0.7", "kettle\n", "steam-engine", str(Path.home()) + "/"):
            assert lost not in said.casefold(), said
    assert "token=…" not in clean.line("x") and clean.line("?token=kettle") == "?…"


def test_a_report_is_packed(running: Running) -> None:
    running.with_broadcaster()
    log = running.data / FOLDER / FILE
    log.parent.mkdir(exist_ok=True)
    running.book(rewards=[{"id": "tea", "title": "Tea", "cost": 5}], cues=[TEA])
    until(lambda: running.channel.get("/rewards").json())
    running.redeem("owlpost", "Tea")
    until(lambda: running.api.get("/api/ledger").json()["lines"])
    link = running.api.post("/api/overlays/stream/link").json()["path"].rsplit("/", 1)[1]
    log.write_text(f"WARNING cuejar: owlpost was turned away at ws://10.0.0.9:4455\n{link} is open\n", "utf-8")
    answer = running.api.get("/api/computer/report.zip")
    assert answer.headers["content-type"] == "application/zip"
    with zipfile.ZipFile(io.BytesIO(answer.content)) as made:
        texts = {name: made.read(name).decode() for name in made.namelist()}
    assert set(texts) == {"computer.txt", "wrong-now.txt", "book.json", "log.txt"}
    assert "was turned away at ws://…:4455" in texts["log.txt"] and not {"owlpost", link} & set(
        re.split(r"[^\w-]", "".join(texts.values()))
    )
    assert '"broadcaster": 1' in texts["book.json"] and "Python" in texts["computer.txt"]


def test_without_a_tray_there_is_nothing(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.delenv("DISPLAY", raising=False)
    tray = show_tray("http://127.0.0.1:1", Path(), lambda: None)
    assert not isinstance(tray, Icon)
    tray.stop()


MANAGER = """
import sys
from Xlib import X, display
from Xlib.protocol import event
d = display.Display()
root, tray = d.screen().root, d.intern_atom("_NET_SYSTEM_TRAY_S0")
own = root.create_window(0, 0, 64, 64, 0, X.CopyFromParent)
own.map()
own.set_selection_owner(tray, X.CurrentTime)
told = event.ClientMessage(window=root, client_type=d.intern_atom("MANAGER"), data=(32, [X.CurrentTime, tray, own.id, 0, 0]))
root.send_event(told, X.StructureNotifyMask)
d.sync()
while True:
    one = d.next_event()
    if one.type == X.ClientMessage and one.client_type == d.intern_atom("_NET_SYSTEM_TRAY_OPCODE") and one.data[1][1] == 0:
        icon = d.create_resource_object("window", one.data[1][2])
        icon.reparent(own, 0, 0)
        icon.map()
        press = dict(time=0, root=root, window=icon, child=X.NONE, root_x=5, root_y=5, event_x=5, event_y=5, state=0, same_screen=1)
        d.sync()
        print("docked", flush=True)
        sys.stdin.readline()
        icon.send_event(event.ButtonPress(detail=1, **press), X.ButtonPressMask)
        d.sync()
"""
"""A desktop's tray: takes an icon in, and clicks it once a line is read."""


def test_the_icon_is_in_the_tray_and_opens_the_browser(tmp_path: Path) -> None:
    display = f":{random.randint(200, 900)}"
    screen = subprocess.Popen(
        ["Xvfb", display, "-screen", "0", "320x200x24", "-nolisten", "tcp"], stderr=subprocess.DEVNULL
    )
    port, opened, browser = free_ports(), tmp_path / "opened", tmp_path / "browser"
    browser.write_text(f'#!/bin/sh\necho "$1" >> {opened}\n')
    browser.chmod(0o755)
    given = {"CUEJAR_DATA": str(tmp_path / "data"), "CUEJAR_PORT": str(port), "CUEJAR_KEY_STORE": "0",
             "BROWSER": f"{browser} %s", "DISPLAY": display}  # fmt: skip
    try:
        until(lambda: Path(f"/tmp/.X11-unix/X{display[1:]}").exists())
        manager = subprocess.Popen(
            [sys.executable, "-c", MANAGER], env={**os.environ, "DISPLAY": display}, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
        )  # fmt: skip
        server = subprocess.Popen([sys.executable, "-m", "cuejar.cli", "--background"], env={**os.environ, **given})
        try:
            assert manager.stdin is not None and manager.stdout is not None
            assert manager.stdout.readline() == "docked\n"
            assert not opened.exists(), "it was started in the background"
            manager.stdin.write("\n")
            manager.stdin.flush()
            until(lambda: opened.read_text().split() == [f"http://127.0.0.1:{port}/"])
            server.terminate()
            assert server.wait(PATIENCE_S) in (0, -signal.SIGTERM), "the icon keeps nothing from ending"
        finally:
            server.kill()
            manager.kill()
    finally:
        screen.kill()
        screen.wait()


def test_all_to_rest_and_starting_from_the_tray(
    running: Running, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    running.book(
        cues=[{**TEA, "calls": [], "beats": [{"id": "c", "kind": "caption", "text": "tea", "length": {"s": 60}}]}]
    )
    running.api.post("/api/cues/tea/fire", json={"text": ""}).raise_for_status()
    icon = Icon(f"http://127.0.0.1:{running.port}", running.data, lambda: None)
    icon.all_to_rest()
    assert running.api.post("/api/all-to-rest").json()["ended"] == [], "it is at rest already"
    icon.turn_start()
    entry = (tmp_path / "config" / "autostart" / "cue-jar.desktop").read_text("utf-8")
    assert str(running.data.resolve()) in entry, "it starts with the same folder"
    icon.turn_start()
    assert not platform.starts_with_computer()
