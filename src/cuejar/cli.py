"""The command line. What a command needs is imported by it alone: every worker process reads this file when it starts."""

from __future__ import annotations

import json
import os
import shutil
import signal
import socket
import subprocess
import sys
import threading
import time
from pathlib import Path
from typing import Annotated, Any, NoReturn

import typer

from cuejar.settings import CannotStart, Settings, prepare_data_folder

app = typer.Typer(add_completion=False, no_args_is_help=True, pretty_exceptions_enable=False)

Port = Annotated[
    int | None,
    typer.Option(help="The server's port; the pads' is this plus 5, the stand-ins' plus 10.", min=1, max=65525),
]
Data = Annotated[Path | None, typer.Option(help="The data folder.")]
PadsCert = Annotated[
    Path | None, typer.Option(help="A certificate (PEM) with which other devices reach the pads by HTTPS.")
]
PadsKey = Annotated[Path | None, typer.Option(help="The certificate's key (PEM).")]
THREADS_TURN_S = 0.0005
"""How long the thread that writes may keep the show's own waiting for its turn."""
STANDINS_UP_S = 60
"""How long the stand-ins may take to come up: a cold disk is slow."""


def _fail(line: str, status: int = 1) -> NoReturn:
    typer.echo(line, err=True)
    raise typer.Exit(status)


def _settings(port: int | None, data: Path | None, **more: Any) -> Settings:
    given = {"port": port, "data": data, **more}
    return Settings(**{name: value for name, value in given.items() if value is not None})


def _port_free(port: int) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError as error:
            raise CannotStart(f"Port {port} is in use. Choose another with --port.") from error


def _serve(settings: Settings, demo: bool) -> None:
    import uvicorn

    from cuejar.api.app import create_app
    from cuejar.demo.load import BROADCAST, demo_book, demo_files
    from cuejar.demo.outside import BOX
    from cuejar.pads.server import PadsServer, read_certificate
    from cuejar.standins.halt import HOOK_SECRET, PASSWORD
    from cuejar.studio import Studio

    certificate = read_certificate(settings.pads_cert, settings.pads_key)
    _port_free(settings.port)
    sys.setswitchinterval(THREADS_TURN_S)
    studio = Studio(settings, first=demo_book, files=demo_files()) if demo else Studio(settings)
    if demo and not studio.secrets.get(BROADCAST):
        studio.secrets.put(BROADCAST, PASSWORD)
        studio.secrets.put(BOX, HOOK_SECRET)
    uvicorn.run(
        create_app(studio, settings.port, PadsServer(studio, settings.pads_port, certificate)),
        host="127.0.0.1",
        port=settings.port,
        log_level="warning",
        access_log=False,
        ws_ping_interval=20,
        ws_per_message_deflate=False,
        timeout_graceful_shutdown=2,
    )


@app.command()
def serve(
    port: Port = None,
    data: Data = None,
    channel: Annotated[str | None, typer.Option(help="The channel's address.")] = None,
    standins: Annotated[
        str | None, typer.Option(help="Host and port of the stand-ins, for gear without an address.")
    ] = None,
    pads_cert: PadsCert = None,
    pads_key: PadsKey = None,
) -> None:
    """Runs the server alone."""
    given = {"channel": channel, "standins": standins, "pads_cert": pads_cert, "pads_key": pads_key}
    try:
        _serve(_settings(port, data, **given), demo=False)
    except CannotStart as error:
        _fail(str(error))


def _end_with(parent: int) -> None:
    """Ends this process once the one that started it is gone, however that ended."""
    while os.getppid() == parent:
        time.sleep(0.5)
    os.kill(os.getpid(), signal.SIGTERM)


@app.command()
def standins(
    port: Annotated[int, typer.Option(help="The stand-ins' port.", min=1, max=65535)] = 8710,
    state: Annotated[Path | None, typer.Option(help="A file in which the channel keeps what it knows.")] = None,
    token: Annotated[str, typer.Option(help="What the channel and the bridge ask for; empty: nothing.")] = "",
    parent: Annotated[int | None, typer.Option(help="End when this process, which started us, is gone.")] = None,
) -> None:
    """Runs the simulated channel and gear alone."""
    if parent is not None:
        threading.Thread(target=_end_with, args=[parent], daemon=True).start()
    import uvicorn

    from cuejar.settings import WEB
    from cuejar.standins.app import standins as make

    try:
        _port_free(port)
    except CannotStart as error:
        _fail(str(error))
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
    fresh: Annotated[bool, typer.Option(help="Start from the demo data again.")] = False,
    pads_cert: PadsCert = None,
    pads_key: PadsKey = None,
) -> None:
    """Runs the demo: the book of Tinwhistle Halt, the stand-ins and the server."""
    settings = _settings(port, data or Path("data"), pads_cert=pads_cert, pads_key=pads_key)
    settings.standins = f"127.0.0.1:{settings.standins_port}"
    settings.channel = f"http://{settings.standins}"
    folder = settings.data.expanduser()
    child: subprocess.Popen[bytes] | None = None
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    try:
        _port_free(settings.port)
        _port_free(settings.standins_port)
        if fresh and folder.exists():
            _clear(folder)
        prepare_data_folder(folder)
        state = folder / "channel.json"
        own = [
            sys.executable,
            "-m",
            "cuejar.cli",
            "standins",
            "--port",
            str(settings.standins_port),
            "--state",
            str(state),
            "--parent",
            str(os.getpid()),
        ]
        child = subprocess.Popen(own, start_new_session=True)
        _wait_for(settings.standins_port, child)
        typer.echo(f"Cue Jar        http://127.0.0.1:{settings.port}/")
        typer.echo(f"Audience page  http://127.0.0.1:{settings.standins_port}/")
        typer.echo(f"Data folder    {folder.resolve()}")
        typer.echo("Ctrl-C ends both.")
        sys.stdout.flush()
        _serve(settings, demo=True)
    except CannotStart as error:
        _fail(str(error))
    except KeyboardInterrupt:
        pass
    finally:
        if child is not None:
            child.send_signal(signal.SIGTERM)
            try:
                child.wait(5)
            except subprocess.TimeoutExpired:
                child.kill()


def _clear(folder: Path) -> None:
    """Empties a data folder; anything that does not look like one is left alone."""
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
            raise CannotStart("The stand-ins did not start.")
        with socket.socket() as probe:
            if probe.connect_ex(("127.0.0.1", port)) == 0:
                return
        time.sleep(0.05)
    raise CannotStart("The stand-ins do not answer.")


def _read_script(path: Path, seed: int | None) -> Any:
    from cuejar.core.engine.rehearsal import script_from
    from cuejar.core.parts.base import BookError

    try:
        data = json.loads(path.read_text("utf-8"))
        if seed is not None and isinstance(data, dict):
            data["seed"] = seed
        return script_from(data)
    except OSError as error:
        _fail(f"{path}: {os.strerror(error.errno or 0)}", 2)
    except (json.JSONDecodeError, UnicodeDecodeError) as error:
        _fail(f"{path}: is not JSON: {error}", 2)
    except BookError as error:
        _fail("\n".join(f"{path}: {problem}" for problem in error.problems), 2)


@app.command(name="rehearse")
def rehearse_command(
    scripts: Annotated[list[Path], typer.Argument(help="Scripts of nights to rehearse.")],
    report_only: Annotated[bool, typer.Option("--report", help="Print the report instead.")] = False,
    as_json: Annotated[bool, typer.Option("--json", help="The report as JSON.")] = False,
    beside: Annotated[bool, typer.Option("--beside", help="Write each output to SCRIPT.out.jsonl beside it.")] = False,
    seed: Annotated[int | None, typer.Option(help="Another seed than the script's.")] = None,
) -> None:
    """Runs scripted nights on a virtual clock and prints every decision and order, one JSON object a line."""
    from cuejar.core.engine.rehearsal import lines, rehearse, report

    read = [(path, _read_script(path, seed)) for path in scripts]
    for path, script in read:
        if report_only or as_json:
            summary = report(script)
            text = json.dumps(summary, ensure_ascii=False) if as_json else _told(summary)
        else:
            text = "\n".join(lines(rehearse(script)))
        if beside:
            out = path.with_name(path.name.removesuffix(".json") + ".out.jsonl")
            out.write_text(text + ("\n" if text else ""), "utf-8")
        elif text:
            if len(read) > 1:
                typer.echo(f"# {path}", err=True)
            typer.echo(text)


@app.command()
def wire(
    kind: Annotated[str, typer.Argument(help="channel, things, broadcaster, keys, avatar, voice, haptics or hook.")],
    address: Annotated[str, typer.Argument(help="Where the other side is.")] = "",
    token: Annotated[str, typer.Option(help="Its token, or the broadcaster's password.")] = "",
    listen: Annotated[bool, typer.Option("--listen", help="Play the other side instead, until Ctrl-C.")] = False,
    port: Annotated[int, typer.Option(help="Where to listen.", min=1, max=65535)] = 8710,
    record: Annotated[Path | None, typer.Option(help="A file for what was said (JSON-RPC wires).")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="One JSON object a rule.")] = False,
) -> None:
    """Tries the rules of a wire against anybody's other side, and says which hold. Ends with 1 where one is broken."""
    import asyncio

    from cuejar.core.kinds.gear import GEAR_KINDS
    from cuejar.wires.table import PAGES, TRIALS
    from cuejar.wires.trial import Trial, Tried

    if listen and kind in GEAR_KINDS:
        gear = GEAR_KINDS[kind]
        typer.echo(f"{gear.title}: {gear.address.format(host='127.0.0.1', port=port + gear.behind)}")
        typer.echo("Ctrl-C ends it.")
        standins(port, None, token)
        return
    if kind not in TRIALS:
        which = GEAR_KINDS if listen else TRIALS
        _fail(f"“{kind}” is none of the wires that can be {'played' if listen else 'tried'}: {', '.join(which)}.", 2)
    if not address:
        _fail("Say where the other side is, or play it with --listen.", 2)

    def told(row: Tried) -> None:
        if as_json:
            typer.echo(json.dumps(row._asdict(), ensure_ascii=False))
            return
        typer.echo(f"{row.outcome:10}{' '.join(row.rule.split())}{f' — {row.why}' if row.why else ''}")
        if row.message:
            typer.echo(f"{'':10}{row.message}")

    trial = Trial(told)
    asyncio.run(TRIALS[kind](trial, address, token))
    if record is not None:
        lines = [json.dumps(row, ensure_ascii=False) for row in trial.session]
        record.write_text("".join(f"{line}\n" for line in lines), "utf-8")
    counts = {
        outcome: sum(row.outcome == outcome for row in trial.tried) for outcome in ("holds", "broken", "not tried")
    }
    if not as_json:
        typer.echo(
            f"{counts['holds']} hold, {counts['broken']} broken, {counts['not tried']} not tried. docs/wires/{PAGES.get(kind, kind)}.md"
        )
    if not trial.holds:
        raise typer.Exit(1)


@app.command()
def check(port: Port = None) -> None:
    """Whether tonight can begin: what a running Cue Jar would say is wrong. Ends with 1 where something cannot work."""
    import httpx

    where = f"http://127.0.0.1:{port or Settings().port}"
    try:
        answer = httpx.get(f"{where}/api/readiness", timeout=10, trust_env=False)
        rows = answer.raise_for_status().json()
    except (httpx.HTTPError, ValueError) as error:
        _fail(f"No Cue Jar answers at {where} ({error or type(error).__name__}). Start it, or say its --port.", 2)
    for row in rows:
        typer.echo(f"{'wrong' if row['grade'] == 'error' else 'look':6}{row['what']} {row['mend']}")
    if not rows:
        typer.echo("Everything is ready.")
    if any(row["grade"] == "error" for row in rows):
        raise typer.Exit(1)


@app.command()
def playbill(
    file: Annotated[Path, typer.Argument(help="Where it is written: a page (.html), or a text (.md).")],
    port: Port = None,
) -> None:
    """Writes what viewers may read: every reward with its price and what it does, how to write, the cast."""
    import httpx

    if file.suffix not in (".html", ".md"):
        _fail(f"{file} is neither a page (.html) nor a text (.md).")
    where = f"http://127.0.0.1:{port or Settings().port}"
    try:
        answer = httpx.get(f"{where}/api/playbill{file.suffix}", timeout=60, trust_env=False).raise_for_status()
    except httpx.HTTPError as error:
        _fail(f"No Cue Jar answers at {where} ({error or type(error).__name__}). Start it, or say its --port.", 2)
    try:
        file.write_text(answer.text, "utf-8")
    except OSError as error:
        _fail(f"{file} cannot be written ({error.strerror}).")
    typer.echo(f"{file}, {len(answer.content):,} bytes")


def _told(summary: dict[str, Any]) -> str:
    rows = [f"{summary['length_s']:g} s, at rest at the end: {'yes' if summary['at_rest_at_end'] else 'NO'}"]
    for name in ("verdicts", "reasons", "settled", "dropped", "finished"):
        counts = ", ".join(f"{key} {value}" for key, value in summary[name].items()) or "none"
        rows.append(f"{name:12}{counts}")
    for lane, wait in summary["waits"].items():
        rows.append(f"lane {lane}: {wait['runs']} runs, wait median {wait['median_s']:g} s, 95th {wait['p95_s']:g} s")
    for output, share in summary["covered"].items():
        rows.append(f"{output}: {share:.1%} of the time")
    if summary["spared_by_pauses"]:
        rows.append(f"{summary['spared_by_pauses']} refunds spared at a channel that pauses")
    rows.append(f"at most {summary['highest_at_once']} at once, {summary['points_spent']} points spent")
    return "\n".join(rows)


if __name__ == "__main__":
    app()
