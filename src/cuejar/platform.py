"""What differs between operating systems: locks, priorities, limits, stopping processes, private files.

Nothing outside this module knows the system it runs on; import-linter and a test check that.
"""

from __future__ import annotations

import ctypes
import errno
import os
import plistlib
import signal
import subprocess
import sys
import threading
import time
import webbrowser
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import IO, Any, Protocol, TypeVar
from urllib.parse import urlsplit
from urllib.request import url2pathname

import psutil
from filelock import FileLock, Timeout
from platformdirs import user_config_path
from tenacity import Retrying, retry_if_exception_type, stop_after_delay, wait_exponential

T = TypeVar("T")
BUSY_S = 2.0
"""How long another program, such as a virus scanner, may keep a file open that is to be replaced or deleted."""
_NAME, _RUN = "cue-jar", r"Software\Microsoft\Windows\CurrentVersion\Run"
LOOK_S = 0.05
"""How often a limit on processor time, or a parent process, is checked."""


class Taken(Exception):
    """Another process holds the lock."""


class Lock:
    """A lock file, held until it is closed or the process ends."""

    def __init__(self, path: Path) -> None:
        """Raises Taken; OSError: the file can't be written."""
        with path.open("a"):  # Says why it can't be written, if it can't.
            pass
        self._lock = FileLock(path, thread_local=False)
        try:
            self._lock.acquire(timeout=0)
        except Timeout:
            raise Taken(str(path)) from None
        except NotImplementedError:  # A network drive without locks.
            raise OSError(errno.ENOTSUP, "files can’t be locked on this drive") from None

    def close(self) -> None:
        self._lock.release()


# Files


def open_private(path: Path, *, new: bool = False, binary: bool = False) -> IO[Any]:
    """Opens a file for writing that only its owner can read; ``new``: it must not exist yet."""
    flags = os.O_WRONLY | os.O_CREAT | (os.O_EXCL if new else os.O_TRUNC) | getattr(os, "O_BINARY", 0)
    handle = os.open(path, flags, 0o600)
    return os.fdopen(handle, "wb") if binary else os.fdopen(handle, "w", encoding="utf-8")


def make_private(path: Path) -> None:
    """Lets only its owner read a file or a folder. On Windows the user's own folders are private anyway."""
    if sys.platform != "win32":
        path.chmod(0o700 if path.is_dir() else 0o600)


def _patiently(work: Callable[[], T]) -> T:
    tries = Retrying(
        retry=retry_if_exception_type(PermissionError),
        stop=stop_after_delay(BUSY_S if sys.platform == "win32" else 0),
        wait=wait_exponential(0.01, max=0.2),
        reraise=True,
    )
    return tries(work)


def put(draft: Path, to: Path) -> None:
    """Moves a finished file to its place, replacing the former one. Waits while another program has that open."""
    _patiently(lambda: draft.replace(to))


def remove(path: Path) -> None:
    """Deletes a file, if it exists. Waits while another program has it open."""
    _patiently(lambda: path.unlink(missing_ok=True))


PATHS_BEGIN = "a drive, such as C:\\" if sys.platform == "win32" else "/"
"""How whole paths begin here, for people."""


def path_in(line: str) -> Path | None:
    """Returns the path that a pasted line means, without quotes, with ``~`` expanded, from a ``file:`` address if it is
    one; None if it isn't a whole path.
    """
    plain = line.strip().strip("\"'“”‘’").strip()
    if plain.lower().startswith("file:"):
        try:
            plain = url2pathname(urlsplit(plain).path)
        except (ValueError, OSError):
            return None
    if not plain or "\x00" in plain:
        return None
    try:
        path = Path(plain).expanduser()
    except RuntimeError:  # The home of an unknown user.
        return None
    return path if path.is_absolute() else None


# The computer


def has_desktop() -> bool:
    """Returns whether there is a screen with a keyboard: windows can be shown, and keys pressed."""
    return sys.platform in ("win32", "darwin") or any(os.environ.get(one) for one in ("DISPLAY", "WAYLAND_DISPLAY"))


def has_tray() -> bool:
    """Returns whether an icon can be shown in a tray. macOS wants it in the first thread, which has the show."""
    return sys.platform == "win32" or (sys.platform != "darwin" and bool(os.environ.get("DISPLAY")))


def open_browser(address: str) -> None:
    """Opens an address in the user's browser, if there is one; never in the terminal, and without waiting for it."""

    def opened() -> None:
        with suppress(webbrowser.Error, OSError):
            webbrowser.open(address)

    if has_desktop() or os.environ.get("BROWSER"):
        threading.Thread(target=opened, name="browser", daemon=False).start()


# Processes


def give_way(much: bool) -> None:
    """Lowers this process's priority, so that the show and games come first; ``much``: nobody waits for its work."""
    with suppress(psutil.Error, OSError):
        process = psutil.Process()
        if sys.platform == "win32":
            process.nice(psutil.IDLE_PRIORITY_CLASS if much else psutil.BELOW_NORMAL_PRIORITY_CLASS)
        else:
            process.nice(int(process.nice()) + (15 if much else 4))


def apart() -> dict[str, Any]:
    """Returns what starts a child that the terminal's Ctrl-C doesn't reach, for `subprocess.Popen`."""
    if sys.platform == "win32":
        return {"creationflags": subprocess.CREATE_NEW_PROCESS_GROUP}
    return {"start_new_session": True}


class Child(Protocol):
    """A process started with `apart`."""

    def send_signal(self, signal: int, /) -> None: ...


def ask_to_stop(child: Child) -> None:
    """Asks a child started with `apart` to stop; one that has already ended is fine."""
    with suppress(ProcessLookupError, PermissionError):
        if sys.platform == "win32":
            child.send_signal(signal.CTRL_BREAK_EVENT)
        else:
            child.send_signal(signal.SIGTERM)


def stop_signals() -> set[int]:
    """Returns the signals that ask this process to stop."""
    if sys.platform == "win32":
        return {signal.SIGTERM, signal.SIGINT, signal.SIGBREAK}
    return {signal.SIGTERM, signal.SIGINT}


def stop_this() -> None:
    """Asks this process to stop, as Ctrl-C or its parent would."""
    signal.raise_signal(signal.SIGTERM)


def interrupted_by_stop() -> None:
    """Makes every signal that asks this process to stop raise KeyboardInterrupt, even if Ctrl-C was ignored before."""

    def interrupt() -> None:
        raise KeyboardInterrupt

    signal.signal(signal.SIGINT, signal.default_int_handler)
    on_stop(interrupt)


def end_at_once() -> None:
    """Makes this worker process end without ado when it is asked to: asked twice, one that tidies up would complain."""
    signal.signal(signal.SIGTERM, signal.SIG_DFL)


def on_stop(act: Callable[[], object]) -> None:
    """Calls a function when this process is asked to stop, except by Ctrl-C, which raises KeyboardInterrupt."""
    for number in stop_signals() - {signal.SIGINT}:
        signal.signal(number, lambda *_: act())


def wait_for_end_of(parent: int) -> None:
    """Returns once a process has ended, for whatever reason; a new process with its number is another one."""
    with suppress(psutil.NoSuchProcess):
        process = psutil.Process(parent)
        while process.is_running() and not _is_over(process):
            time.sleep(LOOK_S * 10)


def _is_over(process: psutil.Process) -> bool:
    try:
        return bool(process.status() == psutil.STATUS_ZOMBIE)
    except psutil.AccessDenied:
        return False


def raise_in(thread: int, error: type[BaseException]) -> None:
    """Raises an error in another thread of this process, at its next step in Python."""
    ctypes.pythonapi.PyThreadState_SetAsyncExc(ctypes.c_ulong(thread), ctypes.py_object(error))


@contextmanager
def processor_time(seconds: float, error: type[BaseException]) -> Iterator[None]:
    """Limits the processor time of this process within the block, wherever its threads spend it.

    Raises:
        error: the limit is exceeded.
    """
    done, lock = threading.Event(), threading.Lock()
    thread, until = threading.get_ident(), time.process_time() + seconds

    def watch() -> None:
        while not done.wait(LOOK_S):
            with lock:
                if not done.is_set() and time.process_time() > until:
                    raise_in(thread, error)
                    return

    watcher = threading.Thread(target=watch, name="processor time", daemon=True)
    watcher.start()
    try:
        yield
    finally:
        with lock:
            done.set()


# Starting with the computer


def _startup_file() -> Path:
    """Returns the file that starts Cue Jar when its user logs in, by the convention of the desktop (not on Windows)."""
    if sys.platform == "darwin":
        return Path.home() / "Library" / "LaunchAgents" / "cue-jar.plist"
    return user_config_path() / "autostart" / "cue-jar.desktop"


def starts_with_computer() -> bool:
    """Returns whether Cue Jar starts when its user logs in."""
    if sys.platform == "win32":
        import winreg

        with suppress(OSError), winreg.OpenKey(winreg.HKEY_CURRENT_USER, _RUN) as key:
            return bool(winreg.QueryValueEx(key, _NAME)[0])
        return False
    return _startup_file().is_file()


def start_with_computer(command: list[str] | None) -> None:
    """Starts a command whenever its user logs in; None: nothing any more. Raises OSError."""
    if sys.platform == "win32":
        import winreg

        with winreg.CreateKey(winreg.HKEY_CURRENT_USER, _RUN) as key:
            if command is not None:
                winreg.SetValueEx(key, _NAME, 0, winreg.REG_SZ, subprocess.list2cmdline(command))
            else:
                with suppress(FileNotFoundError):
                    winreg.DeleteValue(key, _NAME)
        return
    file = _startup_file()
    if command is None:
        file.unlink(missing_ok=True)
        return
    file.parent.mkdir(parents=True, exist_ok=True)
    if sys.platform == "darwin":
        file.write_bytes(plistlib.dumps({"Label": _NAME, "ProgramArguments": command, "RunAtLoad": True}))
    else:
        file.write_text(f"[Desktop Entry]\nType=Application\nName=Cue Jar\nExec={desktop_line(command)}\n", "utf-8")


def desktop_line(command: list[str]) -> str:
    """Returns a command as a desktop entry writes it (Desktop Entry Specification 1.5, *The Exec key*)."""
    within = str.maketrans({one: f"\\{one}" for one in '"`$\\'})
    quoted = " ".join('"' + one.translate(within).replace("%", "%%") + '"' for one in command)
    return quoted.replace("\\", "\\\\")  # A value escapes backslashes once more.
