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
import tempfile
from collections.abc import Sequence
from pathlib import Path

import psutil

NEEDED = (
    "uvicorn", "uvicorn.loops.auto", "uvicorn.loops.uvloop", "uvicorn.lifespan.on", "uvicorn.protocols.http.auto",
    "uvicorn.protocols.websockets.auto", "websockets.asyncio.client", "websockets.proxy", "encodings.idna", "keyring.backends.chainer",
    "keyring.backends.SecretService", "keyring.backends.kwallet", "keyring.backends.libsecret", "anyio._backends._asyncio",
    "multiprocessing.popen_spawn_posix", "multiprocessing.resource_tracker", "cuejar.cli", "cuejar.api.app", "cuejar.demo.load", "cuejar.demo.yesterday", "cuejar.pads.overlays",
    "cuejar.standins.app", "cuejar.store.upgrading", "cuejar.tray",
)  # fmt: skip
"""What a server imports on its way, too."""


class Copies:
    """A process that has everything imported, and its forks."""

    def __init__(self, environment: dict[str, str] | None = None) -> None:
        """``environment``: what it starts with, and every fork has; None: this process's, as it is at each start."""
        self._environment = environment
        self._first: subprocess.Popen[str] | None = None

    def start(
        self, args: Sequence[str], log: Path, errors: Path | None = None, cwd: Path | None = None
    ) -> psutil.Process:
        """Starts ``cuejar ARGS…``; its output goes to ``log``, and its errors there, too, or to a file of their own."""
        if self._first is None:
            self._first = subprocess.Popen(
                [sys.executable, "-m", "tests.copies"],
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                text=True,
                env=self._environment,
                cwd=Path(__file__).parents[1],
            )
            atexit.register(self._first.kill)
        assert self._first.stdin is not None and self._first.stdout is not None
        _status(log).unlink(missing_ok=True)
        order = {
            "args": list(args),
            "log": str(log),
            "errors": str(errors or log),
            "cwd": str(cwd or Path.cwd()),
            "environment": self._environment or dict(os.environ),
        }
        self._first.stdin.write(json.dumps(order) + "\n")
        self._first.stdin.flush()
        return psutil.Process(int(self._first.stdout.readline()))

    def run(self, *args: str, cwd: Path | None = None, timeout: float = 300) -> subprocess.CompletedProcess[bytes]:
        """Runs a command that ends by itself."""
        with tempfile.TemporaryDirectory() as folder:
            out, errors = Path(folder, "out"), Path(folder, "errors")
            self.start(args, out, errors, cwd).wait(timeout)
            return subprocess.CompletedProcess(args, ended(out), out.read_bytes(), errors.read_bytes())

    def end(self) -> None:
        """Ends the process; its forks go on."""
        if self._first is not None:
            self._first.kill()
            self._first.wait()


ours = Copies()
start = ours.start


def ended(log: Path) -> int:
    """Returns the status with which a fork ended; -1: it was killed."""
    status = _status(log)
    return int(status.read_text()) if status.exists() else -1


def _status(log: Path) -> Path:
    return log.with_name(f"{log.name}.status")


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
            become(**order)
        print(pid, flush=True)


def become(args: list[str], log: str, errors: str, cwd: str, environment: dict[str, str]) -> None:
    signal.signal(signal.SIGCHLD, signal.SIG_DFL)
    os.environ.clear()
    os.environ.update(environment)
    os.chdir(cwd)
    random.seed()
    for own, file in ((1, log), (2, errors)):
        os.dup2(os.open(file, os.O_WRONLY | os.O_CREAT | os.O_APPEND), own)
    os.dup2(os.open(os.devnull, os.O_RDONLY), 0)
    sys.argv = ["cuejar", *args]
    cli = importlib.import_module("cuejar.cli")
    sys.modules["__main__"] = importlib.import_module("cuejar.cli.__main__")  # As with ``python -m cuejar.cli``.
    status: object = 1
    try:
        cli.app(args)
    except SystemExit as end:
        status = end.code or 0
        raise
    finally:
        _status(Path(log)).write_text(str(status if isinstance(status, int) else 1))


if __name__ == "__main__":
    main()
