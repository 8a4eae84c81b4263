"""Draws of viewers: drawn once more from what the ledger kept, so that anybody can see that they were fair."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any

import typer

from cuejar.cli.base import Data, Port, app, asked, at_rest, fail, printable
from cuejar.cli.places import Place, place_of

draw_app = typer.Typer(no_args_is_help=True, help="Draws of viewers: draw one again.")
app.add_typer(draw_app, name="draw")
MOST_SAID = 30


@draw_app.callback()
def _draws() -> None:
    pass


def _draws_of(place: Place, line: str) -> list[dict[str, Any]]:
    if place.runs:
        told: list[dict[str, Any]] = asked(
            place.port, lambda client: client.get("/api/draws", params={"line": line})
        ).json()
        return told
    from cuejar.store.draws import draws_of

    with at_rest(place.there()) as studio, studio.sessions() as session:
        return [one.model_dump() for one in draws_of(session, line)]


@draw_app.command(name="again")
def again_command(
    line: Annotated[str, typer.Argument(help="A call or a run of the ledger; `last` is the latest draw.")] = "last",
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False,
    port: Port = None,
    data: Data = None,
) -> None:
    """Draws viewers once more, by the seed that the ledger kept, and says whether the same one comes out.

    \b
    Example: cuejar draw again
    Example: cuejar draw again rd-17 --json --port 8700
    """
    rows = _draws_of(place_of(port, data), line)
    if as_json:
        typer.echo(printable(rows))
    elif not rows:
        if line != "last":
            fail(f"No viewer was drawn by “{line}”. Copy the call from its line in the ledger.")
        typer.echo("No viewer has been drawn yet.")
    for row in rows if not as_json else ():
        whole = sum(one["weight"] for one in row["those"])
        typer.echo(f"{datetime.fromtimestamp(row['at'] / 1000):%a %d %b %Y %H:%M}  {row['cue']}, from {row['jar']}")
        for one in row["those"][:MOST_SAID]:
            mark = "→" if one["viewer"] == row["drawn"] else " "
            typer.echo(f"  {mark} {one['name'] or 'forgotten':30} {one['weight'] / whole:8.2%}")
        if len(row["those"]) > MOST_SAID:
            typer.echo(f"    and {len(row['those']) - MOST_SAID:,} more")
        typer.echo(f"  Seed {row['seed']} gives {row['number']:.6f}.")
        typer.echo("  Drawn again: the same viewer." if row["holds"] else "  Drawn again: somebody else.")
    if any(not row["holds"] for row in rows):
        raise typer.Exit(1)
