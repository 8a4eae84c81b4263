"""Runs every example of the commands' help and of the docs as it is printed, with the usual ports and folders.

``python -m tests.examples FOLDER`` prints what fails, and ends with 1 if anything does.
"""

from __future__ import annotations

import os
import re
import shlex
import signal
import socket
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import date
from pathlib import Path

import trustme
import typer
from typer.core import TyperCommand, TyperGroup

from cuejar.cli import app
from tests import copies
from tests.running import PATIENCE_S, until

HOME = Path(__file__).parents[1]
PAGES = [HOME / "README.md", *sorted((HOME / "docs").rglob("*.md"))]
LASTING = {"serve": 8700, "demo": 8700, "standins": 8710, "": 8700}
"""Commands that run until Ctrl-C, with the port at which each answers."""


def of_docs() -> set[str]:
    blocks = [
        block
        for page in PAGES
        for block in re.findall(r"^```\n(.*?)^```", page.read_text("utf-8"), re.MULTILINE | re.DOTALL)
    ]
    lines = {line.split(" # ")[0].strip() for block in blocks for line in block.splitlines()}
    return {line for line in lines if line.split()[:1] == ["cuejar"]}


def of_help() -> set[str]:
    def commands(group: TyperGroup) -> Iterator[TyperCommand]:
        for one in group.commands.values():
            if isinstance(one, TyperGroup):
                yield from commands(one)
            elif isinstance(one, TyperCommand):
                yield one

    group = typer.main.get_command(app)
    assert isinstance(group, TyperGroup)
    return {line for one in commands(group) for line in re.findall(r"Example: (cuejar.*)", one.help or "")}


def _port(words: list[str]) -> int | None:
    """Returns where a command that runs until Ctrl-C answers; None: it ends by itself."""
    name = words[1] if len(words) > 1 else ""
    if name not in LASTING and "--listen" not in words:
        return None
    return int(words[words.index("--port") + 1]) if "--port" in words else LASTING[name]


def _listens(port: int) -> bool:
    with socket.socket() as probe:
        return probe.connect_ex(("127.0.0.1", port)) == 0


class _Lasting:
    """A command that runs until Ctrl-C."""

    def __init__(self, line: str, log: Path) -> None:
        self.log, self.ended = log, -1
        self.process = copies.start(shlex.split(line)[1:], log)


@contextmanager
def _lasting(line: str) -> Iterator[_Lasting]:
    port = _port(shlex.split(line))
    assert port is not None
    own = _Lasting(line, Path.cwd().with_name(f"log{time.monotonic_ns()}"))
    try:
        until(lambda: _listens(port) or not own.process.is_running())
        yield own
    finally:
        # Its children go when it ends; what is left of them is killed.
        children = own.process.children(True) if own.process.is_running() else []
        if own.process.is_running():
            own.process.send_signal(signal.SIGINT)
            own.process.wait(PATIENCE_S)
        own.ended = copies.ended(own.log)
        for child in children:
            if child.is_running():
                child.kill()


def _problem(line: str) -> str:
    """Runs an example. Returns what is wrong, or nothing."""
    words = shlex.split(line)
    port = _port(words)
    if port is None:
        done = copies.ours.run(*words[1:])
        said = (done.stdout + done.stderr).decode()
        # An overlay that isn't connected keeps a night from beginning, as `check` says here; without a display no keys
        # can be pressed.
        right = (0, 1) if words[1:] == ["check"] or (words[1] == "hands" and "eys can’t be pressed" in said) else (0,)
        return "" if done.returncode in right and "Traceback" not in said else f"{done.returncode}: {said[-1500:]}"
    with _lasting(line) as own:
        answers = _listens(port)
    said = own.log.read_text("utf-8")
    if answers and own.ended == 0 and "Traceback" not in said:
        return ""
    return f"{own.ended}{'' if answers else ', answers nowhere'}: {said[-1500:]}"


def _order(line: str) -> tuple[bool, bool, str]:
    """What writes files comes before what reads them."""
    return ("import" in line, "export" not in line, line)


def main(folder: Path) -> int:
    """Returns how many examples failed."""
    os.chdir(folder)
    ours = trustme.CA().issue_cert("localhost", "127.0.0.1")
    ours.private_key_pem.write_to_path("halt.key")
    ours.cert_chain_pems[0].write_to_path("halt.pem")
    told = of_docs() | of_help()
    lasting = sorted(line for line in told if _port(shlex.split(line)) is not None)
    asleep = {line for line in told if " restore" in line}
    wrong: dict[str, str] = {}

    def tell(line: str) -> None:
        begin = time.monotonic()
        if why := _problem(line):
            wrong[line] = why
        print(f"{time.monotonic() - begin:6.1f} s  {line}", flush=True)

    with _lasting("cuejar demo --yesterday"):
        until(lambda: list(Path("data/copies").glob("*.sqlite")))
        for line in sorted(told - set(lasting) - asleep, key=_order):
            tell(line)
            # Two books to be compared, and a script under two names.
            for made, copy in (("halt.zip", "tomorrow.zip"), ("friday.script.json", "night.script.json")):
                if Path(made).exists() and not Path(copy).exists():
                    Path(copy).write_bytes(Path(made).read_bytes())
    today = next(Path("data/copies").glob(f"*{date.today():%Y-%m-%d}*"))
    today.with_name(today.name.replace(f"{date.today():%Y-%m-%d}", "2026-05-01")).write_bytes(today.read_bytes())
    for line in [*sorted(asleep), *lasting]:
        tell(line)
    for line, why in wrong.items():
        print(f"{line}\n    {why}\n")
    print(f"{len(told)} examples, {len(wrong)} failed")
    return len(wrong)


if __name__ == "__main__":
    sys.exit(1 if main(Path(sys.argv[1])) else 0)
