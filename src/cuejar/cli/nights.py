"""Saved nights: the list, and each as a file."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from cuejar.cli.base import Data, Port, app, asked, at_rest, fail, printable
from cuejar.cli.places import Place, place_of

if TYPE_CHECKING:
    from cuejar.studio import Studio

MOST = 200
night_app = typer.Typer(no_args_is_help=True, help="Past nights: list them or export one.")
app.add_typer(night_app, name="night")
KINDS = {
    "csv": "its calls as CSV",
    "events": "its calls as CloudEvents lines",
    "script": "a script to rehearse elsewhere",
    "vtt": "speech and captions as WebVTT",
    "otio": "the overlay as OpenTimelineIO",
    "otioz": "the same with its pictures, clips and sounds",
    "page": "a page to print",
}


def _length(row: dict[str, Any]) -> str:
    if row["ended"] is None:
        return "on air"
    minutes = round((row["ended"] - row["at"]) / 60_000)
    return f"{minutes // 60}:{minutes % 60:02} h"


def _rows(place: Place, most: int = 100_000) -> list[dict[str, Any]]:
    """Returns past nights, newest first."""
    if place.runs:
        found: list[dict[str, Any]] = []
        before: dict[str, int] = {}
        while True:
            asks = {"limit": min(MOST, most), **before}
            told = asked(place.port, lambda client, asks=asks: client.get("/api/nights", params=asks)).json()  # type: ignore[misc]
            found += told["nights"]
            if told["before"] is None or len(found) >= most:
                return found
            before = {"before": told["before"]}
    from cuejar.store.nights import nights

    with at_rest(place.there()) as studio:
        return [row._asdict() for row in nights(studio.sessions, most=most)]


@night_app.command(name="list")
def list_command(
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False, port: Port = None, data: Data = None
) -> None:
    """Says which nights are kept, the newest first: number, when, how long, calls, how many were refunded.

    \b
    Example: cuejar night list
    Example: cuejar night list --json --port 8700
    """
    rows = _rows(place_of(port, data))
    if as_json:
        typer.echo(printable(rows))
        return
    if not rows:
        typer.echo("No nights yet. The first is saved when your channel goes live.")
    for row in rows:
        when = datetime.fromtimestamp(row["at"] / 1000)
        counts = f"{row['calls']} calls, {row['refunds']} refunded"
        more = "  ".join(part for part in (row["category"], row["note"]) if part)
        typer.echo(f"{row['id']:>8}  {when:%a %d %b %Y %H:%M}  {_length(row):>8}  {counts}  {more}".rstrip())


@night_app.command(name="export")
def export_command(
    night: Annotated[str, typer.Argument(help="Its number from `cuejar night list`, or `last`.")],
    file: Annotated[Path, typer.Argument(help="Where it is written; without --as its ending says what it is.")],
    as_: Annotated[str, typer.Option("--as", help=f"Format: {', '.join(KINDS)}.")] = "",
    made_up: Annotated[bool, typer.Option("--made-up", help="Replace viewers' names with made-up ones.")] = False,
    port: Port = None,
    data: Data = None,
) -> None:
    """Writes a night into a file: its calls, a script, captions, a timeline for editing, or a page to print.

    \b
    Example: cuejar night export last friday.csv
    Example: cuejar night export last friday.script.json --made-up
    Example: cuejar night export last friday.otio --port 8700
    """
    kind = as_ or _by_ending(file)
    if kind not in KINDS:
        told = ", ".join(f"{name} ({words})" for name, words in KINDS.items())
        fail(f"Say with --as what it is to be: {told}.", 2)
    place = place_of(port, data)
    number = _number(night, place)
    try:
        if place.runs:
            asks = {"made_up": made_up}
            answer = asked(
                place.port, lambda client: client.get(f"/api/nights/{number}/files/{kind}", params=asks), 600
            )
            file.write_bytes(answer.content)
        else:
            with at_rest(place.there()) as studio:
                file.write_bytes(_whole(studio, number, kind, made_up))
    except OSError as error:
        fail(f"{file} can’t be written ({error.strerror or error}).")
    typer.echo(f"{file}, {file.stat().st_size:,} bytes")


def _number(night: str, place: Place) -> int:
    """Returns the number of a night that is named by it, or as the last."""
    if night.isascii() and night.isdigit():
        return int(night)
    if night != "last":
        fail(f"“{night}” isn’t the number of a night. `cuejar night list` prints them; `last` is the newest.", 2)
    rows = [row for row in _rows(place, 2) if row["ended"] is not None]
    if not rows:
        fail("No night has ended yet.")
    return int(rows[0]["id"])


def _by_ending(file: Path) -> str:
    from cuejar.nightfiles import ENDINGS

    found = [kind for kind, ending in ENDINGS.items() if file.name.lower().endswith(f".{ending}")]
    return found[0] if found else "script" if file.suffix.lower() == ".json" else ""


def _whole(studio: Studio, night: int, kind: Any, made_up: bool) -> bytes:
    from cuejar.carriage import files_of, media_of
    from cuejar.nightfiles import Kept, NoSuchNight, opened, pieces_of

    kept = Kept(studio.sessions, studio.database, studio.runner.journal.installation)
    media = media_of(studio.books.book, studio.library)
    try:
        piece = opened(kept, night, made_up)
    except NoSuchNight as error:
        fail(str(error))
    return b"".join(pieces_of(kept, kind, piece, media, files_of(studio.books.book, studio.library)))
