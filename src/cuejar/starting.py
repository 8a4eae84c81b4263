"""Starting worker processes: three tries, then words. A packed program starts them in its own way, which may be blocked."""

from __future__ import annotations

import sys
from multiprocessing import get_context, parent_process
from pathlib import Path

from platformdirs import user_data_path

TRIES = 3
START_S = 30.0
"""How long a worker may take to start: a cold disk is slow, and a virus scanner reads everything first."""
CANNOT_START = "Background work can’t start on this computer. Start Cue Jar again; if that doesn’t help, see whether a virus scanner blocks it."


class NoWorkers(Exception):
    """No worker process starts."""

    def __init__(self) -> None:
        super().__init__(CANNOT_START)


def ready() -> bool:
    """What a new worker does first, to show that it started."""
    return True


def not_within_a_worker() -> None:
    """Raises NoWorkers in a worker process: one that starts the whole program instead would do so without end."""
    if parent_process() is not None:
        raise NoWorkers


def can_start() -> bool:
    """Returns whether a worker process starts, after up to three tries. Takes as long as that takes."""
    not_within_a_worker()
    for _ in range(TRIES):
        process = get_context("spawn").Process(target=ready, daemon=True)
        try:
            process.start()
        except OSError:
            continue
        process.join(START_S)
        if process.exitcode == 0:
            return True
        process.kill()
    return False


def at_login(folder: Path) -> list[str]:
    """Returns what starts Cue Jar on a data folder when its user logs in, without a browser."""
    if folder.resolve() == user_data_path("cue-jar").resolve():
        return own_command("--background")
    return own_command("serve", "--data", str(folder.resolve()))


def own_command(*arguments: str) -> list[str]:
    """Returns what starts Cue Jar itself with these arguments: as it runs now, packed or not."""
    if getattr(sys, "frozen", False):
        return [sys.executable, *arguments]
    return [sys.executable, "-m", "cuejar.cli", *arguments]
