"""Export and import, checking a book, and restoring a copy: of a running Cue Jar, or of a data folder at rest."""

from __future__ import annotations

import asyncio
import json
import os
from collections.abc import AsyncIterator, Callable, Iterator
from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from cuejar.cli.base import Data, Port, app, asked, at_rest, fail, printable, settings_of
from cuejar.cli.places import place_of
from cuejar.platform import put, remove
from cuejar.settings import CannotStart

if TYPE_CHECKING:
    import httpx

    from cuejar.studio import Studio

JsonObject = dict[str, Any]
Chosen = Callable[[JsonObject], JsonObject]
"""The choices of a review."""
LONG_S = 3_600
"""How long a running Cue Jar may take over a file, which it reads completely."""
AsJson = Annotated[bool, typer.Option("--json", help="Print JSON.")]


@app.command(name="export")
def export_command(
    file: Annotated[Path, typer.Argument(help="The file to write (.zip).")],
    cue: Annotated[
        list[str] | None, typer.Option(help="Export only this cue (by id) with what it needs; can be repeated.")
    ] = None,
    everything: Annotated[
        bool,
        typer.Option(
            "--everything", help="Include the ledger, nights, viewers and points, to move to another computer."
        ),
    ] = False,
    port: Port = None,
    data: Data = None,
) -> None:
    """Exports the whole book with its media, or some cues, to one file. Passwords, tokens and links are left out.

    \b
    Example: cuejar export tinwhistle.zip
    Example: cuejar export halt.zip --everything
    Example: cuejar export whistle.zip --cue steam-whistle --port 8700
    """
    place = place_of(port, data)
    draft = file.with_name(f".{file.name}.new")
    try:
        with draft.open("wb") as out:
            if place.runs:
                _from_running(place.port, cue or [], everything, out.write)
            elif everything:
                fail("Start Cue Jar first: it has the points and counts, so only then can everything be exported.", 2)
            else:
                with at_rest(place.there()) as studio:
                    for piece in _out(studio, cue or []):
                        out.write(piece)
        put(draft, file)
    except OSError as error:
        fail(f"{file} can’t be written ({error.strerror or error}).")
    finally:
        with suppress(OSError):  # As with a name that is too long.
            remove(draft)
    typer.echo(f"{file}, {file.stat().st_size:,} bytes")


def _out(studio: Studio, cues: list[str]) -> Iterator[bytes]:
    from cuejar.core.parts.base import BookError

    try:
        return studio.carriage.out(cues)
    except BookError as error:
        fail(str(error))


def _from_running(port: int | None, cues: list[str], everything: bool, write: Callable[[bytes], object]) -> None:
    whole = "/api/carry/everything.zip" if everything else "/api/carry/book.zip"
    where, asks = ("/api/carry/cues.zip", {"cue": cues}) if cues else (whole, {})

    def ask(client: httpx.Client) -> httpx.Response:
        with client.stream("GET", where, params=asks) as answer:
            if answer.is_success:
                for piece in answer.iter_bytes():
                    write(piece)
            else:
                answer.read()  # It gives the reason.
            return answer

    asked(port, ask, LONG_S)


@app.command(name="import")
def import_command(
    file: Annotated[Path, typer.Argument(help="File to import: an export (.zip) or a book (.json).")],
    dry_run: Annotated[
        bool, typer.Option("--dry-run", help="Show what would change without changing anything.")
    ] = False,
    exact: Annotated[bool, typer.Option("--exact", help="Also remove everything that isn’t in it.")] = False,
    allow: Annotated[
        bool, typer.Option("--allow", help="Allow all its permissions: hooks, keys, replies, rewards.")
    ] = False,
    as_json: AsJson = False,
    port: Port = None,
    data: Data = None,
) -> None:
    """Imports a book or some cues, as one step that can be undone. Permissions are off until you allow them.

    \b
    Example: cuejar import tinwhistle.zip --dry-run
    Example: cuejar import whistle.zip --allow
    """
    if not file.is_file():
        fail(f"There is no file {file}.", 2)
    place = place_of(port, data)

    def chosen(review: dict[str, Any]) -> dict[str, Any]:
        rows = [row["key"] for row in review["rows"] if exact or row["takes"]]
        # The show takes points and counts, so it must run; parts that belong together are imported together.
        parts = [one["part"] for one in review["data"] if one["fresh"]] if place.runs else []
        return {"take": rows, "allowed": [one["key"] for one in review["asked"]] if allow else [], "data": parts}

    if place.port is not None:
        review = _into_running(place.port, file, chosen, dry_run)
    else:
        with at_rest(place.folder) as studio:
            review = asyncio.run(_into_rest(studio, file, chosen, dry_run))
    typer.echo(printable(review) if as_json else "\n".join(_told(review, dry_run)))
    if review["problems"]:
        raise typer.Exit(1)


def _into_running(port: int, file: Path, chosen: Chosen, dry: bool) -> JsonObject:
    with file.open("rb") as content:
        answer = asked(port, lambda client: client.post("/api/carry/in", files={"file": (file.name, content)}), LONG_S)
    where = f"/api/carry/in/{answer.json()['key']}"
    choices = chosen(answer.json())
    review: dict[str, Any] = asked(port, lambda client: client.post(f"{where}/review", json=choices)).json()
    if dry or review["problems"]:
        asked(port, lambda client: client.delete(where))
    else:
        body = {**choices, "version": review["version"]}
        asked(port, lambda client: client.post(f"{where}/take", json=body), LONG_S)
    return review


async def _into_rest(studio: Studio, file: Path, chosen: Chosen, dry: bool) -> JsonObject:
    from cuejar.api.carry import ChoicesIn
    from cuejar.carriage import Show
    from cuejar.core.measures.catalogue import Catalogues
    from cuejar.core.parts.base import BookError
    from cuejar.media.probe import NotTaken
    from cuejar.store.bundle import NotABundle
    from cuejar.store.writer import CannotWrite

    async def content() -> AsyncIterator[bytes]:
        with file.open("rb") as source:
            while chunk := source.read(1 << 20):
                yield chunk

    unknown = Show(Catalogues())
    try:
        key = await studio.carriage.arrive(content(), file.name)
        first = json.loads(await studio.carriage.review(key, ChoicesIn().choices, unknown))
        choices = ChoicesIn(**chosen(first)).choices
        review: JsonObject = json.loads(await studio.carriage.review(key, choices, unknown))
        if not dry and not review["problems"]:
            await studio.carriage.take(key, choices, unknown, None)
        studio.carriage.leave(key)
    except NotABundle as error:
        fail(f"{file}: {error} Nothing was imported.", 2)
    except (BookError, NotTaken, CannotWrite) as error:
        fail(f"{file}: {error}. Nothing was imported.")
    return review


def _told(review: dict[str, Any], dry: bool) -> Iterator[str]:
    for row in review["rows"]:
        mark = {"new": "+", "changed": "~", "removed": "-"}[row["state"]] if row["takes"] else " "
        yield f"{mark} {row['kind']:9} {row['name']}{' as ' + row['as_id'] if row['as_id'] else ''}"
        for field in row["fields"] if not row["as_id"] else []:
            change = (
                f": {field['was']} → {field['now']}" if field["was"] else f": {field['now']}" if field["now"] else ""
            )
            yield f"    {field['what']}{change}"
    for lost in review["names"]:
        yield f"? {lost['what']} “{lost['name']}” is not here; {lost['to'] or 'nothing'} stands for it"
    for one in review["asked"]:
        yield f"! {', '.join(one['by'])} {one['what']}: {'allowed' if one['allowed'] else 'off until it is allowed'}"
    yield from (f"{name} has no content" for name in review["missing"])
    for part in review["data"]:
        yield _part_told(part)
    yield from (f"{what} was left out of the export" for what in review["left_out"])
    yield from (f"problem: {problem['path']} {problem['what']}" for problem in review["problems"])
    yield (
        f"{'Would import' if dry else 'Imported'}: {review['counted']}."
        if not review["problems"]
        else "Nothing was imported."
    )


def _part_told(part: dict[str, Any]) -> str:
    """Returns a part beside the book, in words."""
    mark = "+" if part["takes"] else " "
    why = "" if part["takes"] else "; all here" if not part["fresh"] else "; only while Cue Jar runs"
    odd = f"; {part['odd']:,} lines can’t be read" if part["odd"] else ""
    return f"{mark} {part['part']:9} {part['fresh']:,} of {part['all']:,} are new{why}{odd}"


@app.command()
def check(
    book: Annotated[Path | None, typer.Argument(help="A book (.json), an export (.zip) or a data folder.")] = None,
    as_json: AsJson = False,
    port: Port = None,
) -> None:
    """Whether tonight can begin: what a running Cue Jar, or a book in a file, has that cannot work.

    Ends with 0 where nothing is wrong, with 1 where something cannot work, with 2 where it cannot be read.

    \b
    Example: cuejar check
    Example: cuejar check tinwhistle.zip --json
    """
    if book is not None:
        rows = _of_file(book)
    else:
        rows = asked(place_of(port, None).port, lambda client: client.get("/api/readiness")).json()
    if as_json:
        typer.echo(printable(rows))
    else:
        for row in rows:
            typer.echo(f"{'wrong' if row['grade'] == 'error' else 'look':6}{row['what']} {row['mend']}".rstrip())
        if not rows:
            typer.echo("Everything is ready." if book is None else "No problems found.")
    if any(row["grade"] == "error" for row in rows):
        raise typer.Exit(1)


def _of_file(path: Path) -> list[dict[str, Any]]:
    from cuejar.core.parts.base import BookError
    from cuejar.core.snags.snags import snags
    from cuejar.store.bundle import NotABundle, read
    from cuejar.studio import BOOK_COPY

    path = path / BOOK_COPY if path.is_dir() else path
    try:
        bundle = read(path, settings_of(None, None).max_bundle_mb * 1_000_000)
    except NotABundle as error:
        fail(f"{path}: {error}", 2)
    except BookError as error:
        fail("\n".join(f"{path}: {problem}" for problem in error.problems), 2)
    names = {cue.id: cue.name for cue in bundle.book.cues}
    rows = [
        {
            "grade": snag.grade,
            "what": f"{names[snag.cue]}: {snag.what}",
            "mend": snag.mend,
            "cue": snag.cue,
            "check": snag.check,
        }
        for snag in snags(bundle.book, None)
    ]
    if path.suffix == ".zip":
        rows += [
            {
                "grade": "error",
                "what": f"The file “{entry.name}” is not in it.",
                "mend": "",
                "cue": "",
                "check": "lost_file",
            }
            for entry in bundle.book.media
            if entry.file not in bundle.media
        ]
    return rows


@app.command()
def restore(
    day: Annotated[str, typer.Argument(help="Which copy, by its day (2026-05-01); without one they are listed.")] = "",
    data: Data = None,
) -> None:
    """Goes back to the copy of a day. What is there now is kept beside it. No Cue Jar may be running on the folder.

    \b
    Example: cuejar restore
    Example: cuejar restore 2026-05-01
    """
    from cuejar.store.copies import copies
    from cuejar.store.copies import restore as put_back
    from cuejar.store.database import FILE
    from cuejar.studio import lock_folder

    folder = place_of(None, data).there()
    if not day:
        rows = copies(folder)
        for one in rows:
            typer.echo(
                f"{one.day}  {one.cues} cues, {one.calls:,} calls, {one.size / 1e6:.1f} MB. Last change: {one.what}"
            )
        if not rows:
            typer.echo(f"There is no copy in {folder} yet. Cue Jar makes one a day while it runs.")
        return
    try:
        lock = lock_folder(folder)
        aside = put_back(folder / FILE, day)
        lock.close()
    except CannotStart as error:
        fail(str(error))
    # The copy beside the database belonged to the former one.
    (folder / "book-copy.json").unlink(missing_ok=True)
    typer.echo(
        f"The copy of {day} was restored.{f' The old data is kept as {os.path.basename(aside)}.' if aside else ''}"
    )
