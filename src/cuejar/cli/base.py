"""What every command shares: common options, one line for each error, and how a running Cue Jar is asked."""

from __future__ import annotations

import io
import json
import os
import socket
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, NoReturn

import typer

from cuejar import __version__
from cuejar.settings import CannotStart, Settings

if TYPE_CHECKING:
    import httpx

    from cuejar.studio import Studio

app = typer.Typer(add_completion=False, pretty_exceptions_enable=False, rich_markup_mode=None)
PORTS = (0, 5, 6, 10)
"""The server's port, the pads', the overlays' and the stand-ins', counted from the first."""

Port = Annotated[
    int | None,
    typer.Option(
        help="The server's port; the pads' is this plus 5, the overlays' on the network plus 6, the stand-ins' plus 10.",
        min=1,
        max=65525,
    ),
]
Data = Annotated[Path | None, typer.Option(help="The data folder.")]


def _version(wanted: bool) -> None:
    if wanted:
        typer.echo(f"Cue Jar {__version__}")
        raise typer.Exit


@app.callback(invoke_without_command=True)
def main(
    context: typer.Context,
    version: Annotated[
        bool, typer.Option("--version", help="Print the version.", callback=_version, is_eager=True)
    ] = False,
    background: Annotated[bool, typer.Option("--background", help="Start without opening the browser.")] = False,
) -> None:
    """Turns viewers' calls into effects on a stream that last as long as they should and go back by themselves.

    Without a command it starts, and opens in the browser.
    """
    # Several threads on sums as small as ours wait for one another, and slow down the game beside us.
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):  # A terminal may know few characters.
            stream.reconfigure(errors="replace")
    if context.invoked_subcommand is None:
        from cuejar.cli.serving import start_and_open

        start_and_open(background)


@contextmanager
def at_rest(folder: Path) -> Iterator[Studio]:
    """Returns the book and library of a data folder that no Cue Jar has open."""
    from cuejar.studio import Studio

    try:
        studio = Studio(settings_of(None, folder))
    except CannotStart as error:
        fail(str(error))
    try:
        yield studio
    finally:
        studio.let_go()


def answers(port: int) -> bool:
    """Returns whether a Cue Jar answers at a port."""
    import httpx

    try:
        answer = httpx.get(f"http://127.0.0.1:{port}/api/health", timeout=3, trust_env=False)
        return answer.is_success and "owed" in answer.json()
    except (httpx.HTTPError, ValueError):
        return False


def printable(value: object) -> str:
    """Returns a value as JSON for the standard output; see `escaped`."""
    return escaped(json.dumps(value, ensure_ascii=False))


def escaped(text: str) -> str:
    """Returns JSON with escapes for all characters that the standard output can't show."""
    coding = sys.stdout.encoding or "utf-8" if sys.stdout is not None else "utf-8"
    try:
        text.encode(coding)
    except UnicodeEncodeError:
        return "".join(c if c.isascii() else json.dumps(c)[1:-1] for c in text)
    return text


def fail(line: str, status: int = 1) -> NoReturn:
    typer.echo(line, err=True)
    raise typer.Exit(status)


def settings_of(port: int | None, data: Path | None, **more: Any) -> Settings:
    given = {"port": port, "data": data, **more}
    return Settings(**{name: value for name, value in given.items() if value is not None})


def port_free(port: int) -> None:
    """Raises CannotStart: another program listens there."""
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError as error:
            raise CannotStart(f"Port {port} is in use. Choose another with --port.") from error


def free_port(first: int) -> int:
    """Returns the first port, or one after it, that is free with those that go with it. Raises CannotStart: none is."""
    for port in range(first, min(first + 200, 65_525), 20):
        try:
            for beside in PORTS:
                port_free(port + beside)
        except CannotStart:
            continue
        return port
    raise CannotStart(f"The ports from {first} on are in use. Choose another with --port.")


def asked(port: int | None, ask: Callable[[httpx.Client], httpx.Response], timeout_s: float = 60) -> httpx.Response:
    """Returns the answer of a running Cue Jar. Exits with 2 if there is none, with 1 and its words if it refuses.

    Args:
        port: where it runs; None: it doesn’t.
    """
    import httpx

    if port is None:
        fail("Cue Jar isn’t running. Start it, or name its --port.", 2)
    where = f"http://127.0.0.1:{port}"
    try:
        with httpx.Client(base_url=where, timeout=timeout_s, trust_env=False) as client:
            answer = ask(client)
    except httpx.HTTPError as error:
        fail(f"No Cue Jar answers at {where} ({error or type(error).__name__}). Start it, or name its --port.", 2)
    if answer.status_code < 400:
        return answer
    try:
        refusal = answer.json()
        words = f"{refusal['what']} {refusal.get('do', '')}".strip()
    except (ValueError, KeyError, TypeError):
        fail(f"No Cue Jar answers at {where} ({answer.status_code}). Start it, or name its --port.", 2)
    fail(words)
