"""Watches over happenings handled again at start-up: one that never ends, or that crashes the program, is set aside.

A file beside the database names the entry being handled. An entry in which the last start ended after a
second or more, or in which two starts ended, is skipped at the next.
"""

from __future__ import annotations

import contextlib
import json
import os
import threading
import time
from pathlib import Path
from types import TracebackType

from cuejar.platform import raise_in

LATE_S = 5.0
"""How long one entry may take."""
SLOW_S = 1.0
LOOK_S = 0.1
_WIDTH = 64


class TookTooLong(BaseException):
    """Ends an entry that goes on for ever. It isn't an ordinary error: nothing that guards against those may catch it."""


class Replay:
    """Watches over one replay. Used with ``with``; call `handling` before each entry."""

    def __init__(self, marker: Path, late_s: float = LATE_S) -> None:
        """Args:
        marker: the file that names the entry being handled.
        """
        self._marker, self._late_s = marker, late_s
        self._before = _read(marker)
        self._thread = threading.get_ident()
        self._lock = threading.Lock()
        self._file = -1
        self._stop = threading.Event()
        self.entry = 0
        """The entry being handled."""
        self.late = 0
        """The entry that took too long."""
        self._since = 0.0

    def died_in(self) -> int | None:
        """Returns the entry that ended the previous start, if known."""
        entry, times, slow = self._before
        return entry if entry and (slow or times >= 2) else None

    def __enter__(self) -> Replay:
        with contextlib.suppress(OSError):  # A full disk is no reason not to start.
            self._file = os.open(self._marker, os.O_RDWR | os.O_CREAT)
        self._since = time.monotonic()
        threading.Thread(target=self._watch, name="replay", daemon=True).start()
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, at: TracebackType | None) -> None:
        self._stop.set()
        with self._lock:
            self.entry = 0
        with contextlib.suppress(OSError):
            if self._file >= 0:
                os.close(self._file)
            self._marker.unlink(missing_ok=True)

    def handling(self, entry: int) -> None:
        with self._lock:
            self.entry, self._since = entry, time.monotonic()
            self._write(slow=False)

    def _write(self, slow: bool) -> None:
        entry, times, _ = self._before
        told = {"entry": self.entry, "times": times + 1 if entry == self.entry else 1, "slow": slow}
        if self._file < 0:
            return
        with contextlib.suppress(OSError):
            os.lseek(self._file, 0, os.SEEK_SET)
            os.write(self._file, json.dumps(told).ljust(_WIDTH).encode())

    def _watch(self) -> None:
        slow = 0
        while not self._stop.wait(LOOK_S):
            with self._lock:
                taken = time.monotonic() - self._since
                if not self.entry or taken < SLOW_S or self.late:
                    continue
                if slow != self.entry:
                    slow = self.entry
                    self._write(slow=True)
                if taken > self._late_s:
                    self.late = self.entry
                    raise_in(self._thread, TookTooLong)


def _read(marker: Path) -> tuple[int, int, bool]:
    try:
        told = json.loads(marker.read_text("utf-8"))
        return int(told["entry"]), int(told["times"]), bool(told["slow"])
    except (OSError, ValueError, TypeError, KeyError):
        return 0, 0, False
