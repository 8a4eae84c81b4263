"""Questions to the other side of a wire, and to a running Cue Jar for its playbill."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated

import typer

from cuejar.cli.base import Port, app, asked, fail, printable
from cuejar.cli.places import place_of
from cuejar.cli.serving import standins


@app.command()
def wire(
    kind: Annotated[str, typer.Argument(help="channel, things, broadcaster, keys, avatar, voice, haptics or hook.")],
    address: Annotated[str, typer.Argument(help="Address of the other side.")] = "",
    token: Annotated[str, typer.Option(help="Its token, or the broadcaster's password.")] = "",
    listen: Annotated[bool, typer.Option("--listen", help="Play the other side instead, until Ctrl-C.")] = False,
    port: Annotated[int, typer.Option(help="Port to listen on.", min=1, max=65535)] = 8710,
    record: Annotated[Path | None, typer.Option(help="Write the conversation to this file (JSON-RPC wires).")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print one JSON object per rule.")] = False,
) -> None:
    """Tries the rules of a wire against anybody's other side, and says which hold. Ends with 1 where one is broken.

    \b
    Example: cuejar wire things ws://127.0.0.1:8710/things
    Example: cuejar wire things --listen --port 8710
    """
    import asyncio

    from cuejar.core.kinds.gear import GEAR_KINDS
    from cuejar.wires.table import PAGES, TRIALS
    from cuejar.wires.trial import Trial, Tried

    if listen and kind in GEAR_KINDS:
        gear = GEAR_KINDS[kind]
        typer.echo(f"{gear.title}: {gear.address.format(host='127.0.0.1', port=port + gear.port_offset)}")
        typer.echo("Ctrl-C ends it.")
        standins(port, None, token)
        return
    if kind not in TRIALS:
        which = GEAR_KINDS if listen else TRIALS
        fail(f"“{kind}” isn’t a wire that can be {'played' if listen else 'tried'}: {', '.join(which)}.", 2)
    if not address:
        fail("Say where the other side is, or play it with --listen.", 2)

    def told(row: Tried) -> None:
        if as_json:
            typer.echo(printable(row._asdict()))
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
            f"{counts['holds']} hold, {counts['broken']} broken, {counts['not tried']} not tried. docs/reference/wires/{PAGES.get(kind, kind)}.md"
        )
    if not trial.holds:
        raise typer.Exit(1)


@app.command()
def playbill(
    file: Annotated[Path, typer.Argument(help="File to write: a page (.html) or text (.md).")],
    port: Port = None,
) -> None:
    """Writes what viewers may read: every reward with its price and what it does, how to write, the cast.

    \b
    Example: cuejar playbill playbill.html
    """
    if file.suffix not in (".html", ".md"):
        fail(f"{file} must be a page (.html) or text (.md).")
    answer = asked(place_of(port, None).port, lambda client: client.get(f"/api/playbill{file.suffix}"))
    try:
        file.write_text(answer.text, "utf-8")
    except OSError as error:
        fail(f"{file} can’t be written ({error.strerror}).")
    typer.echo(f"{file}, {len(answer.content):,} bytes")
