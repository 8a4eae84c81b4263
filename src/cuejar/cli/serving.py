"""Running Cue Jar: the server, the stand-ins, the demo."""

from __future__ import annotations

import contextlib
import gc
import os
import shutil
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from cuejar.cli.base import Data, Port, app, fail, free_port, port_free, settings_of
from cuejar.cli.places import PORT_FILE, note, running_on
from cuejar.logs import FILE as LOG_FILE
from cuejar.logs import FOLDER as LOGS
from cuejar.logs import log_to
from cuejar.platform import apart, ask_to_stop, on_stop, open_browser, remove, stop_this, wait_for_end_of
from cuejar.settings import CannotStart, Settings, prepare_data_folder
from cuejar.starting import own_command

if TYPE_CHECKING:
    from pydantic import BaseModel
    from starlette.types import ASGIApp

    from cuejar.store.database import Damaged

PadsCert = Annotated[Path | None, typer.Option(help="Certificate (PEM) for serving pads to other devices over HTTPS.")]
PadsKey = Annotated[Path | None, typer.Option(help="The certificate's key (PEM).")]
THREADS_TURN_S = 0.0005
"""How long the writing thread may make the show's wait for its turn."""
STANDINS_UP_S = 60
"""How long the stand-ins may take to start: a cold disk is slow."""


def _serve(
    settings: Settings,
    demo: bool,
    past: bool = False,
    started: Callable[[], object] = lambda: None,
    damaged: Callable[[], object] = lambda: None,
    tray: bool = False,
) -> None:
    # Searching for cycles among what is only being imported would cost a tenth of the start.
    gc.disable()
    import uvicorn

    from cuejar.demo.load import BROADCAST, demo_book, demo_files
    from cuejar.demo.outside import BOX
    from cuejar.demo.yesterday import yesterday
    from cuejar.ending import end_in_time
    from cuejar.first import First
    from cuejar.pads.overlays import OverlaysServer
    from cuejar.pads.server import PadsServer, read_certificate
    from cuejar.quiet import QuietServer
    from cuejar.standins.halt import HOOK_SECRET, PASSWORD
    from cuejar.store.database import Damaged
    from cuejar.studio import Studio
    from cuejar.tray import NO_TRAY, show_tray

    certificate = read_certificate(settings.pads_cert, settings.pads_key)
    port_free(settings.port)
    sys.setswitchinterval(THREADS_TURN_S)

    def make(go_on: bool = False) -> Studio:
        if demo:
            return Studio(settings, demo_book, demo_files(), go_on, yesterday if past else None)
        return Studio(settings, go_on=go_on)

    try:
        studio = make()
    except Damaged as error:
        typer.echo(f"{error}\nChoose at http://127.0.0.1:{settings.port}/", err=True)
        studio = make(go_on=not _mended(settings, error, damaged))
    if demo and not studio.secrets.get(BROADCAST):
        studio.secrets.put(BROADCAST, PASSWORD)
        studio.secrets.put(BOX, HOOK_SECRET)
    beside = [
        PadsServer(studio, settings.pads_port, certificate),
        OverlaysServer(studio, settings.overlays_port, certificate),
    ]

    def whole() -> ASGIApp:
        from cuejar.api.app import create_app

        return create_app(studio, settings.port, beside)

    served = First(studio, settings.port, beside, whole)
    log, port_file = log_to(studio.folder), studio.folder / PORT_FILE

    class Server(QuietServer):
        icon = NO_TRAY

        async def startup(self, sockets: list[socket.socket] | None = None) -> None:
            end_in_time()
            await super().startup(sockets)
            if self.started:
                note(studio.folder, settings)
                threading.Thread(target=_prepare, name="preparing", daemon=True).start()
                started()
                if tray:
                    self.icon = show_tray(f"http://127.0.0.1:{settings.port}", studio.folder, self.ended)

        def ended(self) -> None:
            self.should_exit = True

        async def shutdown(self, sockets: list[socket.socket] | None = None) -> None:
            await super().shutdown(sockets)
            self.icon.stop()
            log.stop()
            with contextlib.suppress(OSError):
                remove(port_file)

    options = uvicorn.Config(
        served,
        host="127.0.0.1",
        port=settings.port,
        log_level="warning",
        log_config=None,
        access_log=False,
        ws_ping_interval=7,
        ws_ping_timeout=7,
        ws_per_message_deflate=False,
        timeout_graceful_shutdown=2,
    )
    server = Server(options)
    with contextlib.suppress(KeyboardInterrupt):
        server.run()
    if not server.started:
        log.stop()
        raise SystemExit(3)


def _prepare() -> None:
    """Imports and builds what no page needs at once, so that the show needn't when it is called for."""
    from cuejar.core.engine.rows import Told
    from cuejar.core.measures.colour import names
    from cuejar.live.drivers.said import Said

    names()
    waiting: list[type[BaseModel]] = [Told, Said]
    while waiting:
        model = waiting.pop()
        model.model_rebuild()
        waiting += model.__subclasses__()


def _tell(settings: Settings) -> None:
    """Prints where Cue Jar is, where its data is, and how to stop it."""
    folder = settings.data.expanduser().resolve()
    typer.echo(f"Cue Jar        http://127.0.0.1:{settings.port}/")
    typer.echo(f"Data folder    {folder}")
    typer.echo(f"Log            {folder / LOGS / LOG_FILE}")
    typer.echo("Ctrl-C ends it.")
    sys.stdout.flush()


def start_and_open(background: bool = False) -> None:
    """Starts Cue Jar on the usual data folder and opens it in the browser; one that already runs is only opened.

    Args:
        background: no browser; there is an icon in the tray, where there is a tray.
    """
    settings = settings_of(None, None)
    if port := running_on(settings.data.expanduser()):
        typer.echo(f"Cue Jar is already running at http://127.0.0.1:{port}/")
        if not background:
            open_browser(f"http://127.0.0.1:{port}/")
        return
    try:
        usual, settings.port = settings.port, free_port(settings.port)
        if settings.port != usual:
            typer.echo(f"Port {usual} is in use; this is at port {settings.port}.")

        def shown() -> None:
            if not background:
                open_browser(f"http://127.0.0.1:{settings.port}/")

        def started() -> None:
            _tell(settings)
            shown()

        _serve(settings, demo=False, started=started, damaged=shown, tray=True)
    except CannotStart as error:
        fail(str(error))


def _mended(settings: Settings, damaged: Damaged, shown: Callable[[], object]) -> bool:
    """Shows the page on which the streamer chooses. Returns True if a copy was restored, False to go on with what can
    be read.
    """
    import uvicorn

    from cuejar.api.mending import mending_app

    answers: list[bool] = []

    def chosen(copied: bool) -> None:
        answers.append(copied)
        server.should_exit = True

    page = mending_app(settings.data.expanduser(), damaged, settings.port, chosen)
    options = uvicorn.Config(page, "127.0.0.1", settings.port, log_level="warning", access_log=False)

    class Server(uvicorn.Server):
        async def startup(self, sockets: list[socket.socket] | None = None) -> None:
            await super().startup(sockets)
            shown()

    server = Server(options)
    server.run()
    if not answers:
        raise CannotStart("Nothing was chosen; everything is as it was.")
    return answers[0]


@app.command()
def serve(
    port: Port = None,
    data: Data = None,
    channel: Annotated[str | None, typer.Option(help="The channel's address.")] = None,
    standins: Annotated[
        str | None, typer.Option(help="Host and port of the stand-ins, used for gear without an address.")
    ] = None,
    pads_cert: PadsCert = None,
    pads_key: PadsKey = None,
) -> None:
    """Runs the server alone.

    \b
    Example: cuejar serve
    Example: cuejar serve --port 8800 --data halt
    """
    given = {"channel": channel, "standins": standins, "pads_cert": pads_cert, "pads_key": pads_key}
    try:
        settings = settings_of(port, data, **given)
        _serve(settings, demo=False, started=lambda: _tell(settings))
    except CannotStart as error:
        fail(str(error))


def _end_with(parent: int) -> None:
    """Ends this process once its parent has ended, for whatever reason."""
    wait_for_end_of(parent)
    stop_this()


@app.command(hidden=True)
def ear(
    recording: Annotated[Path | None, typer.Option(help="A sound file in place of the microphone.")] = None,
) -> None:
    """Listens for phrases, asked by lines of JSON on its input. Cue Jar starts it by itself."""
    from cuejar.voice.ear import listen

    listen(recording)


@app.command()
def standins(
    port: Annotated[int, typer.Option(help="The stand-ins' port.", min=1, max=65535)] = 8710,
    state: Annotated[Path | None, typer.Option(help="File in which the channel keeps its state.")] = None,
    token: Annotated[str, typer.Option(help="What the channel and the bridge ask for; empty: nothing.")] = "",
    parent: Annotated[int | None, typer.Option(help="End when this process ends.")] = None,
) -> None:
    """Runs the simulated channel and gear alone.

    \b
    Example: cuejar standins --port 8710
    """
    if parent is not None:
        threading.Thread(target=_end_with, args=[parent], daemon=True).start()
    import uvicorn

    from cuejar.settings import WEB
    from cuejar.standins.app import standins as make

    try:
        port_free(port)
    except CannotStart as error:
        fail(str(error))
    uvicorn.run(
        make(port, WEB, state, token=token),
        host="127.0.0.1",
        port=port,
        log_level="warning",
        timeout_graceful_shutdown=2,
    )


@app.command()
def demo(
    port: Port = None,
    data: Data = None,
    fresh: Annotated[bool, typer.Option(help="Reset to the demo data.")] = False,
    past: Annotated[bool, typer.Option("--yesterday", help="Include a past night to look at.")] = False,
    pads_cert: PadsCert = None,
    pads_key: PadsKey = None,
) -> None:
    """Runs the demo: the book of Tinwhistle Halt, the stand-ins and the server.

    \b
    Example: cuejar demo
    Example: cuejar demo --fresh --port 8800
    """
    settings = settings_of(port, data or Path("data"), pads_cert=pads_cert, pads_key=pads_key)
    settings.standins = f"127.0.0.1:{settings.standins_port}"
    settings.channel = f"http://{settings.standins}"
    folder = settings.data.expanduser()
    child: subprocess.Popen[bytes] | None = None
    on_stop(lambda: sys.exit(0))
    try:
        port_free(settings.port)
        port_free(settings.standins_port)
        if fresh and folder.exists():
            _clear(folder)
        prepare_data_folder(folder)
        state = folder / "channel.json"
        at, parent = str(settings.standins_port), str(os.getpid())
        own = own_command("standins", "--port", at, "--state", str(state), "--parent", parent)
        child = subprocess.Popen(own, **apart())
        _wait_for(settings.standins_port, child)
        typer.echo(f"Cue Jar        http://127.0.0.1:{settings.port}/")
        typer.echo(f"Audience page  http://127.0.0.1:{settings.standins_port}/")
        typer.echo(f"Data folder    {folder.resolve()}")
        typer.echo("Ctrl-C ends both.")
        sys.stdout.flush()
        _serve(settings, demo=True, past=past)
    except CannotStart as error:
        fail(str(error))
    except KeyboardInterrupt:
        pass
    finally:
        if child is not None:
            ask_to_stop(child)
            try:
                child.wait(5)
            except subprocess.TimeoutExpired:
                child.kill()


def _clear(folder: Path) -> None:
    """Empties a data folder; refuses anything that doesn't look like one."""
    if any(folder.iterdir()) and not (folder / "cue-jar.sqlite").exists() and not (folder / ".lock").exists():
        raise CannotStart(
            f"{folder} does not look like a data folder of Cue Jar; --fresh would empty it. Choose another --data."
        )
    from cuejar.studio import lock_folder

    lock_folder(folder).close()
    for item in folder.iterdir():
        shutil.rmtree(item) if item.is_dir() else item.unlink()


def _wait_for(port: int, child: subprocess.Popen[bytes]) -> None:
    end = time.monotonic() + STANDINS_UP_S
    while time.monotonic() < end:
        if child.poll() is not None:
            raise CannotStart("The stand-ins didn’t start.")
        with socket.socket() as probe:
            if probe.connect_ex(("127.0.0.1", port)) == 0:
                return
        time.sleep(0.05)
    raise CannotStart("The stand-ins aren’t answering.")
