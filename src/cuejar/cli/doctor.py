"""What this machine lacks."""

from __future__ import annotations

from typing import Annotated

import typer

from cuejar.cli.base import Data, Port, app, printable, settings_of
from cuejar.cli.places import place_of


@app.command()
def doctor(
    port: Port = None,
    data: Data = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False,
) -> None:
    """Says what is missing or wrong on this machine, with the mend. Ends with 1 where Cue Jar would not run.

    \b
    Example: cuejar doctor
    """
    from cuejar.doctor import findings

    place = place_of(port, data)
    found = list(findings(settings_of(place.port or port, place.folder)))
    if as_json:
        typer.echo(printable([one._asdict() for one in found]))
    else:
        for one in found:
            typer.echo(f"{one.grade:6}{one.of:11}{one.what}{f' {one.mend}' if one.mend else ''}")
    if any(one.grade == "wrong" for one in found):
        raise typer.Exit(1)
