"""Operating systems: one module knows them, and what it offers does what it says."""

from __future__ import annotations

import ast
import os
import re
import stat
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path

import pytest

from cuejar import platform
from tests.running import until

HOME = Path(__file__).parents[1] / "src" / "cuejar"
SYSTEM = re.compile(
    r"^(sys\.platform|os\.(name|nice|fork|kill|killpg|setsid|getppid|getuid|geteuid|chmod|umask|startfile|set_blocking)|"
    r"signal\.(SIG[A-Z]+|setitimer|signal|raise_signal|alarm)|loop\.add_signal_handler)$"
)


def test_nothing_else_asks_for_the_system() -> None:
    asks = [
        f"{path.relative_to(HOME)}:{node.lineno} {ast.unparse(node)}"
        for path in HOME.rglob("*.py")
        if path.name != "platform.py" and "compiled" not in path.parts
        for node in ast.walk(ast.parse(path.read_text("utf-8")))
        if isinstance(node, ast.Attribute) and SYSTEM.match(ast.unparse(node))
    ]
    assert asks == []
    assert SYSTEM.match("os.nice") and SYSTEM.match("signal.SIGTERM") and not SYSTEM.match("signal.set_wakeup_fd")


def test_a_folder_belongs_to_one_process(tmp_path: Path) -> None:
    lock = platform.Lock(tmp_path / ".lock")
    other = "import sys; from cuejar.platform import Lock; from pathlib import Path; Lock(Path(sys.argv[1]))"
    command = [sys.executable, "-c", other, str(tmp_path / ".lock")]
    assert "Taken" in subprocess.run(command, capture_output=True, text=True, check=False).stderr
    lock.close()
    assert subprocess.run(command, check=False).returncode == 0
    with pytest.raises(OSError, match="lock"):
        platform.Lock(tmp_path / "nowhere" / ".lock")


def test_private_files_are_their_owners(tmp_path: Path) -> None:
    path = tmp_path / "secret"
    with platform.open_private(path) as out:
        out.write("mind the gap")
    with pytest.raises(FileExistsError):
        platform.open_private(path, new=True)
    assert path.read_text("utf-8") == "mind the gap"
    assert sys.platform == "win32" or stat.S_IMODE(path.stat().st_mode) == 0o600


def test_a_file_that_a_scanner_has_open_is_put_in_its_place_all_the_same(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("cuejar.platform.sys.platform", "win32")
    draft, to, tries = tmp_path / "draft", tmp_path / "to", 0
    draft.write_text("new")
    replace = Path.replace

    def busy(self: Path, target: Path) -> Path:
        nonlocal tries
        tries += 1
        if tries < 4:
            raise PermissionError(13, "in use")
        return replace(self, target)

    monkeypatch.setattr(Path, "replace", busy)
    platform.put(draft, to)
    assert tries == 4 and to.read_text() == "new"
    monkeypatch.setattr(platform, "BUSY_S", 0.05)
    monkeypatch.setattr(Path, "unlink", lambda *_, **__: (_ for _ in ()).throw(PermissionError(13, "in use")))
    with pytest.raises(PermissionError):
        platform.remove(to)


class TooMuch(Exception):
    pass


def limited(work: Callable[[], object]) -> None:
    with platform.processor_time(0.2, TooMuch):
        work()


def test_processor_time_ends_work_that_goes_on_and_on() -> None:
    with pytest.raises(TooMuch):
        limited(lambda: [None for _ in iter(int, 1)])
    limited(lambda: time.sleep(0.4))  # Waiting costs nothing.
    until(lambda: all(thread.name != "processor time" for thread in threading.enumerate()))


def test_a_child_is_asked_to_stop_and_hears_of_its_parents_end() -> None:
    waits = "from cuejar.platform import wait_for_end_of; import sys; wait_for_end_of(int(sys.argv[1])); print('over')"
    parent = subprocess.Popen([sys.executable, "-c", "import time; time.sleep(60)"], **platform.apart())
    child = subprocess.Popen([sys.executable, "-c", waits, str(parent.pid)], stdout=subprocess.PIPE, text=True)
    assert os.getpid() != parent.pid and child.poll() is None
    platform.ask_to_stop(parent)
    parent.wait(10)
    assert child.communicate(timeout=20)[0].strip() == "over"
    platform.ask_to_stop(parent)  # It has ended already.
