"""Nights of an audience on the command line: one, many, two books side by side, a setting over a range."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

import typer

from cuejar.cli.base import fail, printable, settings_of
from cuejar.cli.places import place_of

if TYPE_CHECKING:
    from cuejar.core.book.audience import Audience
    from cuejar.core.book.book import Book
    from cuejar.core.facts.happenings import MediaFacts
    from cuejar.core.nights.recorded import Recording
    from cuejar.core.nights.tally import Result

SWEPT = ("refunds", "wait_p95_s", "dropped", "seen")
"""The figures of a sweep that are printed; JSON has all of them."""


def _book(path: Path) -> Book:
    from cuejar.core.parts.base import BookError
    from cuejar.store.bundle import NotABundle, read

    try:
        return read(path, settings_of(None, None).max_bundle_mb * 1_000_000).book
    except NotABundle as error:
        fail(f"{path}: {error}", 2)
    except BookError as error:
        fail("\n".join(f"{path}: {problem}" for problem in error.problems), 2)


def _audience(book: Book, name: str) -> Audience:
    from cuejar.core.parts.folding import folded

    found = next((one for one in book.audiences if folded(name) in (folded(one.id), folded(one.name))), None)
    if found is None:
        there = ", ".join(one.name for one in book.audiences) or "none"
        fail(f"The book has no audience “{name}”. Available: {there}.", 2)
    return found


def told(
    name: str, path: Path | None, data: Path | None, against: Path | None, nights: int, sweep: str, as_json: bool
) -> Iterator[str]:
    """Returns the results of an audience's nights, as lines."""
    from cuejar.core.nights.assumed import of_audience
    from cuejar.core.parts.base import BookError
    from cuejar.starting import NoWorkers
    from cuejar.studio import BOOK_COPY

    place = place_of(None, data, tell=path is None)
    folder = place.folder if path is not None else place.there()
    book = _book(path if path is not None else folder / BOOK_COPY)
    audience = _audience(book, name)
    past = _past(folder) if audience.likes == "past" else {}
    media, unknown = _media(folder, book, path is None)
    assumed = of_audience(book, audience, bool(past), unknown)
    many = Many(book, audience, past, nights, as_json, assumed, media)
    try:
        if sweep:
            yield from _swept(many, sweep)
        else:
            yield from _nights(many, _book(against) if against is not None else None)
    except BookError as error:
        fail("\n".join(str(problem) for problem in error.problems), 2)
    except NoWorkers as error:
        fail(str(error))


def _media(folder: Path, book: Book, own: bool) -> tuple[dict[str, MediaFacts] | None, int]:
    """Returns what is in the files of a book, from the library of a data folder, and how many files in use are unknown.

    Args:
        own: it is the book of that folder: files outside its library are missing, as they are on the page.
    """
    from sqlalchemy.exc import DBAPIError

    from cuejar.core.carry.references import Key, references
    from cuejar.core.facts.happenings import MediaFacts
    from cuejar.store.database import FILE
    from cuejar.store.facts import facts_in

    known: dict[str, MediaFacts] = {}
    if (folder / FILE).exists():
        try:
            known = facts_in(folder / FILE, book)
        except DBAPIError as error:
            typer.echo(f"The library in {folder} can’t be read ({error.orig}).", err=True)
    if own:
        return known, 0
    used = {key for named in references(book).values() for key in named}
    unknown = [entry.id for entry in book.media if entry.id not in known]
    return known | {name: MediaFacts() for name in unknown}, sum(Key("media", name) in used for name in unknown)


def _past(folder: Path) -> dict[str, float]:
    """Returns how often each thing was called on the nights saved in a data folder; empty if none can be read."""
    from sqlalchemy.exc import DBAPIError

    from cuejar.store.database import FILE
    from cuejar.store.nights import pasts_in

    if not (folder / FILE).exists():
        return {}
    try:
        return pasts_in(folder / FILE)
    except DBAPIError as error:
        typer.echo(f"The nights in {folder} can’t be read ({error.orig}).", err=True)
        return {}


class Many(NamedTuple):
    """The nights of an audience that were asked for."""

    book: Book
    audience: Audience
    past: dict[str, float]
    nights: int
    as_json: bool
    assumed: list[str]
    media: dict[str, MediaFacts] | None

    def results(self, books: list[Book | None], numbers: Sequence[int]) -> list[list[Result]]:
        """Returns the results of the nights of some books (by their numbers), book by book."""
        from cuejar.nights import Task, Work, results

        work = [Work(number, seed) for seed in range(1, self.nights + 1) for number in numbers]
        done = dict(results(Task(books, self.audience.id, media=self.media, past=self.past), work))
        return [[done[one] for one in work if one.book == number] for number in numbers]


def _nights(many: Many, against: Book | None) -> Iterator[str]:
    from cuejar.core.nights.standouts import standouts

    books: list[Book | None] = [many.book] if against is None else [many.book, against]
    each = many.results(books, range(len(books)))
    if against is None:
        yield from _of_one(each[0], [one._asdict() for one in standouts(each[0][0], many.book)], many)
    else:
        yield from _of_two(each[0], each[1], many.as_json, many.assumed)


def _of_one(results: list[Result], stand_out: list[dict[str, Any]], many: Many) -> Iterator[str]:
    from cuejar.core.nights.compare import FIGURES, spreads

    figures = spreads(results)
    if many.as_json:
        told = {name: one._asdict() for name, one in figures.items()}
        nights = [one.json() for one in results]
        whole = {"nights": nights, "figures": told, "stands_out": stand_out, "assumed": many.assumed}
        yield printable(whole)
        return
    yield f"{len(results)} {'night' if len(results) == 1 else 'nights'}; figures: median (lowest to highest)"
    for figure, words in FIGURES.items():
        yield f"{words:42}{figures[figure]}"
    for reason, count in results[0].turned_away.items():
        yield f"refused in the first night: {reason} {count}"
    for one in stand_out:
        yield f"! {one['what']} {one['mend']}"
    yield from _assumed(many.assumed)


def _of_two(before: list[Result], after: list[Result], as_json: bool, assumed: Sequence[str]) -> Iterator[str]:
    from cuejar.core.nights.compare import FIGURES, shifts

    found = shifts(before, after)
    if as_json:
        told = {figure: {key: one._asdict() for key, one in shift._asdict().items()} for figure, shift in found.items()}
        yield printable({"figures": told, "assumed": list(assumed)})
        return
    yield f"{len(before)} {'night' if len(before) == 1 else 'nights'} each; the difference is paired, night by night"
    for figure, words in FIGURES.items():
        shift = found[figure]
        yield f"{words:42}{shift.before!s:28}→ {shift.after!s:28}by {shift.by}"
    yield from _assumed(assumed)


def _swept(many: Many, sweep: str) -> Iterator[str]:
    from cuejar.core.nights.compare import FIGURES, spreads, values_of, with_setting
    from cuejar.core.parts.base import BookError, Problem

    path, sign, told = sweep.partition("=")
    if not sign:
        raise BookError([Problem(sweep, "is no setting and range; write it like lanes.yard.width=1..4")])
    values = values_of(told)
    books: list[Book | None] = [many.book, *(with_setting(many.book, path.strip(), value) for value in values)]
    points = [spreads(found) for found in many.results(books, range(1, len(books)))]
    if many.as_json:
        rows = [
            {"value": value, "figures": {name: one._asdict() for name, one in point.items()}}
            for value, point in zip(values, points, strict=True)
        ]
        whole = {"setting": path.strip(), "nights": many.nights, "points": rows, "assumed": many.assumed}
        yield printable(whole)
        return
    yield f"{path.strip():20}{''.join(f'{FIGURES[name]:38}' for name in SWEPT)}".rstrip()
    for value, point in zip(values, points, strict=True):
        yield f"{value!s:20}{''.join(f'{point[name]!s:38}' for name in SWEPT)}".rstrip()
    yield from _assumed(many.assumed)


def _assumed(lines: Sequence[str]) -> Iterator[str]:
    yield from (f"assumed: {line}" for line in lines)


def held_against(script: Recording, path: Path, as_json: bool) -> Iterator[str]:
    """Returns a scripted night with its own book and another one; a saved night's script begins with everything that
    was in progress.
    """
    from cuejar.core.nights.assumed import of_kept
    from cuejar.core.nights.compare import Nights

    other = _book(path)
    nights = Nights([None, other], "", script)
    yield from _of_two([nights.result(0, 0)], [nights.result(1, 0)], as_json, of_kept(other, 0) if script.begin else [])
