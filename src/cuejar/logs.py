"""The log: warnings and errors on the terminal, and in a rotating file of the data folder."""

from __future__ import annotations

import logging
import logging.handlers
import os
import queue
import sys
from contextlib import suppress
from pathlib import Path

from cuejar.platform import make_private

FOLDER = "logs"
FILE = "cue-jar.log"
MOST_BYTES, KEPT = 1_000_000, 3
"""The size of a log file, and how many former ones are kept."""


class _Calm(logging.handlers.RotatingFileHandler):
    def handleError(self, record: logging.LogRecord) -> None:
        """Ignores a full disk, or a file that another program has open: the show goes on without its log."""


def empty(folder: Path) -> None:
    """Empties the log, as a line of it may name a viewer who is forgotten."""
    for file in (folder / FOLDER).glob(f"{FILE}*"):
        with suppress(OSError):
            os.truncate(file, 0)


def log_to(folder: Path) -> logging.handlers.QueueListener:
    """Writes warnings and errors to the terminal and to a file, in a thread of its own, so that no disk delays the show.

    Returns:
        The running listener; stopping it writes what is left.
    """
    terminal = logging.StreamHandler(sys.stderr)
    terminal.setFormatter(logging.Formatter("%(message)s"))
    handlers: list[logging.Handler] = [terminal]
    file = folder / FOLDER / FILE
    try:
        file.parent.mkdir(exist_ok=True)
        make_private(file.parent)
        kept = _Calm(file, maxBytes=MOST_BYTES, backupCount=KEPT, encoding="utf-8", delay=True)
        kept.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
        handlers.append(kept)
    except OSError:
        pass  # There is still the terminal.
    records: queue.SimpleQueue[logging.LogRecord] = queue.SimpleQueue()
    root = logging.getLogger()
    root.addHandler(logging.handlers.QueueHandler(records))
    root.setLevel(logging.WARNING)
    listener = logging.handlers.QueueListener(records, *handlers)
    listener.start()
    return listener
