"""Ending in time: a stop completes whatever runs, and workers don't outlive their parent."""

from __future__ import annotations

import os
import signal
import socket
import sys
import time
from multiprocessing import parent_process
from threading import Thread

from cuejar.platform import end_at_once, give_way, stop_signals

STOP_S = 5.0
"""How long a stop may take. Everything that matters is already written: it is, from the moment it happens."""


def end_in_time() -> None:
    """Makes a stop signal end this process within `STOP_S`, even if nothing in it reacts any more.

    To be called once the loop runs: it replaces the loop's own signal handler.
    """
    hears, tells = socket.socketpair()
    tells.setblocking(False)
    signal.set_wakeup_fd(tells.fileno(), warn_on_full_buffer=False)
    Thread(target=_wait_for_the_end, args=[hears, tells], name="the end", daemon=True).start()


def _wait_for_the_end(hears: socket.socket, tells: socket.socket) -> None:
    """Args:
    tells: the other end; it stays open as long as this thread has it.
    """
    ends = stop_signals()
    while tells.fileno() >= 0 and not ends & set(hears.recv(64)):
        pass
    time.sleep(STOP_S)
    print("Cue Jar was still busy after 5 seconds and is ended now; nothing is lost.", file=sys.stderr, flush=True)
    os._exit(0)


def end_with_parent() -> None:
    """Ends a worker process once its parent is gone, for whatever reason, or when it is asked to."""
    end_at_once()
    Thread(target=_wait_for_parent, name="the show's end", daemon=True).start()


def work_beside() -> None:
    """Sets up a worker process that nobody waits for: it gives way to everything else, and ends with its parent."""
    give_way(much=True)
    end_with_parent()


def work_behind() -> None:
    """Sets up a worker process that a person waits for: it gives way to the show, but gets its share beside a game."""
    give_way(much=False)
    end_with_parent()


def _wait_for_parent() -> None:
    parent = parent_process()
    if parent is not None:
        parent.join()
        os._exit(1)
