"""The project's processes, started quickly: one process imports everything once, and each one that a test starts is a
fork of it.

A fork has its own id and is as real as one from the shell (``tests/live/test_demo.py`` starts those).
"""

from __future__ import annotations

import atexit
import gc
import importlib
import json
import os
import random
import signal
import subprocess
import sys
from pathlib import Path

import psutil

NEEDED = (
    "uvicorn", "uvicorn.loops.auto", "uvicorn.loops.uvloop", "uvicorn.lifespan.on", "uvicorn.protocols.http.auto",
    "uvicorn.protocols.websockets.auto", "websockets.asyncio.client", "websockets.proxy", "encodings.idna", "keyring.backends.chainer",
    "keyring.backends.SecretService", "cuejar.cli", "cuejar.api.app", "cuejar.demo.load", "cuejar.demo.yesterday", "cuejar.pads.overlays",
    "cuejar.standins.app", "cuejar.store.upgrading", "cuejar.tray",
)  # fmt: skip
"""What a server imports on its way, too."""
_first: subprocess.Popen[str] | None = None


def start(args: list[str], log: Path) -> psutil.Process:
    """Starts ``cuejar ARGS…`` with this process's environment; its output goes to ``log``."""
    global _first
    if _first is None:
        _first = subprocess.Popen(
            [sys.executable, "-m", "tests.copies"],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            text=True,
            cwd=Path(__file__).parents[1],
        )
        atexit.register(_first.kill)
    assert _first.stdin is not None and _first.stdout is not None
    _first.stdin.write(json.dumps({"args": args, "log": str(log), "environment": dict(os.environ)}) + "\n")
    _first.stdin.flush()
    return psutil.Process(int(_first.stdout.readline()))


def main() -> None:
    """Reads orders from the standard input, and answers each with the id of the fork that carries it out."""
    for module in NEEDED:
        importlib.import_module(module)
    importlib.import_module("cuejar.cli.serving")._prepare()
    gc.collect()
    gc.freeze()
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)  # Nobody has to wait for a finished fork.
    for line in sys.stdin:
        order = json.loads(line)
        pid = os.fork()
        if pid == 0:
            become(order["args"], order["log"], order["environment"])
        print(pid, flush=True)


def become(args: list[str], log: str, environment: dict[str, str]) -> None:
    signal.signal(signal.SIGCHLD, signal.SIG_DFL)
    os.environ.clear()
    os.environ.update(environment)
    random.seed()
    out = os.open(log, os.O_WRONLY | os.O_CREAT | os.O_APPEND)
    for own in (1, 2):
        os.dup2(out, own)
    os.dup2(os.open(os.devnull, os.O_RDONLY), 0)
    sys.argv = ["cuejar", *args]
    cli = importlib.import_module("cuejar.cli")
    sys.modules["__main__"] = cli  # As with ``python -m cuejar.cli``: workers start with it.
    cli.app(args)


if __name__ == "__main__":
    main()
