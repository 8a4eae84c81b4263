"""Read at the start of every process: what Windows refuses is refused here, too.

A file that a process of ours has open can be neither replaced, moved nor deleted, and a file is never moved over another;
names such as ``CON`` and paths of more than 260 characters can't be made; text files end their lines with CR LF; the
terminal has the characters of code page 1252; functions and signals that only POSIX has are missing for our code.
"""

from __future__ import annotations

import builtins
import io
import os
import signal
import sys
from collections.abc import Callable
from typing import Any

_real = {name: getattr(os, name) for name in ("replace", "rename", "unlink", "remove", "kill")}
SHARED = (".sqlite", ".sqlite-wal", ".sqlite-shm")
"""SQLite opens its files so that they can be deleted while they are open."""


def _ours() -> list[int]:
    """Returns this process, and those that started from it or from which it was started, as long as they are ours."""
    mark, found = os.environ.get("ELSEWHERE", ""), []
    for name in os.listdir("/proc"):
        if name.isdigit():
            try:
                with open(f"/proc/{name}/environ", "rb") as told:
                    if f"ELSEWHERE={mark}\0".encode() in told.read() or int(name) == os.getpid():
                        found.append(int(name))
            except OSError:
                continue
    return found


def _is_open(path: str) -> bool:
    there = os.path.realpath(path)
    for process in _ours():
        try:
            handles = os.listdir(f"/proc/{process}/fd")
        except OSError:
            continue
        for handle in handles:
            try:
                if os.readlink(f"/proc/{process}/fd/{handle}") == there:
                    return True
            except OSError:
                continue
    return False


def _guarded(name: str) -> Callable[..., Any]:
    def act(path: Any, *others: Any, **more: Any) -> Any:
        told = [path, *others] if name in ("replace", "rename") else [path]
        for one in told:
            text = os.fsdecode(one) if isinstance(one, (str, bytes, os.PathLike)) else ""
            if (
                text
                and more.get("dir_fd") is None
                and not text.endswith(SHARED)
                and os.path.isfile(text)
                and _is_open(text)
            ):
                raise PermissionError(
                    13, "The process cannot access the file because it is being used by another process", text
                )
        if name == "rename" and os.path.exists(others[0]):
            raise FileExistsError(17, "Cannot create a file when that file already exists", os.fsdecode(others[0]))
        return _real[name](path, *others, **more)

    return act


def _of_ours() -> bool:
    """Returns whether the product's own code asks, rather than Python or a library, which know their system."""
    return str(sys._getframe(2).f_globals.get("__name__", "")).startswith("cuejar")


def _kill(process: int, number: int) -> None:
    if _of_ours() and number not in (signal.SIGTERM, signal.SIGINT):
        raise OSError(22, "Windows has no such signal")
    _real["kill"](process, number)


def _missing(name: str) -> Callable[..., Any]:
    real = getattr(os, name)

    def act(*others: Any, **more: Any) -> Any:
        if _of_ours():
            raise AttributeError(f"Windows has no os.{name}")
        return real(*others, **more)

    return act


DEVICES = {"CON", "PRN", "AUX", "NUL", *(f"{name}{n}" for name in ("COM", "LPT") for n in range(1, 10))}
MOST_PATH, WRITES = 260, os.O_WRONLY | os.O_RDWR | os.O_CREAT


def _refuse_names(event: str, told: tuple[Any, ...]) -> None:
    """Refuses to make what has a name that Windows can't have."""
    if event not in ("open", "os.mkdir", "os.rename"):
        return
    path = told[1 if event == "os.rename" else 0]
    if event == "open" and not (isinstance(told[2], int) and told[2] & WRITES):
        return
    text = os.path.abspath(os.fsdecode(path)) if isinstance(path, (str, bytes)) else ""
    if not text.startswith(os.environ["ELSEWHERE_HOME"]):
        return
    names = text.removeprefix(os.environ["ELSEWHERE_HOME"]).split("/")
    odd = [
        name
        for name in names
        if name.split(".")[0].upper() in DEVICES or name.endswith((".", " ")) or set(name) & set('<>:"|?*\\')
    ]
    if odd or len(text) > MOST_PATH:
        raise OSError(
            22, f"The filename, directory name, or volume label syntax is incorrect: {odd or len(text)}", text
        )


_open = io.open


def _opened(file: Any, mode: str = "r", *others: Any, **more: Any) -> Any:
    asks = str(sys._getframe(1).f_globals.get("__name__", ""))
    if "b" not in mode and "r" not in mode and len(others) < 4 and asks.startswith(("cuejar", "pathlib", "os")):
        more["newline"] = more.get("newline") if more.get("newline") is not None else "\r\n"
    return _open(file, mode, *others, **more)


if os.environ.get("ELSEWHERE"):
    sys.addaudithook(_refuse_names)
    io.open = builtins.open = _opened
    for _name in ("replace", "rename", "unlink", "remove"):
        setattr(os, _name, _guarded(_name))
    os.kill = _kill
    for _name in ("nice", "fork", "getuid", "geteuid", "setsid", "killpg"):
        setattr(os, _name, _missing(_name))
    for stream in (sys.stdout, sys.stderr):
        if hasattr(stream, "reconfigure"):
            stream.reconfigure(encoding="cp1252", errors="strict")
