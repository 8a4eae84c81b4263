"""Nights of an audience on the command line: one, many, two books side by side, a setting over a range."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any

from cuejar.cli.base import fail, settings_of

if TYPE_CHECKING:
    from cuejar.core.book.audience import Audience
    from cuejar.core.book.book import Book
    from cuejar.core.engine.rehearsal import Script
    from cuejar.core.nights.tally import Result

SWEPT = ("refunds", "wait_p95_s", "dropped", "seen")
"""The figures of a sweep that are printed; JSON has all."""


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

    found = next((one for one in book.audiences if one.id == name or folded(one.name) == folded(name)), None)
    if found is None:
        there = ", ".join(one.name for one in book.audiences) or "none"
        fail(f"The book has no audience “{name}”. There are: {there}.", 2)
    return found


def told(
    name: str, path: Path | None, data: Path | None, against: Path | None, nights: int, sweep: str, as_json: bool
) -> Iterator[str]:
    """What nights of an audience come to, in lines."""
    from cuejar.core.parts.base import BookError
    from cuejar.studio import BOOK_COPY

    book = _book(path if path is not None else settings_of(None, data).data.expanduser() / BOOK_COPY)
    audience = _audience(book, name)
    try:
        if sweep:
            yield from _swept(book, audience, nights, sweep, as_json)
        else:
            yield from _nights(book, audience, nights, _book(against) if against is not None else None, as_json)
    except BookError as error:
        fail("\n".join(str(problem) for problem in error.problems), 2)


def _nights(book: Book, audience: Audience, nights: int, against: Book | None, as_json: bool) -> Iterator[str]:
    from cuejar.core.nights.standouts import standouts
    from cuejar.nights import Task, Work, results

    books: list[Book | None] = [book] if against is None else [book, against]
    work = [Work(number, seed) for seed in range(1, nights + 1) for number in range(len(books))]
    done = dict(results(Task(books, audience.id), work))
    each = [[done[one] for one in work if one.book == number] for number in range(len(books))]
    if against is None:
        yield from _of_one(each[0], [one._asdict() for one in standouts(each[0][0], book)], as_json)
    else:
        yield from _of_two(each[0], each[1], as_json)


def _of_one(results: list[Result], stand_out: list[dict[str, Any]], as_json: bool) -> Iterator[str]:
    from cuejar.core.nights.compare import FIGURES, spreads

    figures = spreads(results)
    if as_json:
        told = {name: one._asdict() for name, one in figures.items()}
        yield json.dumps(
            {"nights": [one.json() for one in results], "figures": told, "stands_out": stand_out}, ensure_ascii=False
        )
        return
    yield f"{len(results)} {'night' if len(results) == 1 else 'nights'}; figures: median (lowest to highest)"
    for figure, words in FIGURES.items():
        yield f"{words:42}{figures[figure]}"
    for reason, count in results[0].turned_away.items():
        yield f"turned away in the first night: {reason} {count}"
    for one in stand_out:
        yield f"! {one['what']} {one['mend']}"


def _of_two(before: list[Result], after: list[Result], as_json: bool) -> Iterator[str]:
    from cuejar.core.nights.compare import FIGURES, shifts

    found = shifts(before, after)
    if as_json:
        told = {figure: {key: one._asdict() for key, one in shift._asdict().items()} for figure, shift in found.items()}
        yield json.dumps({"figures": told}, ensure_ascii=False)
        return
    yield f"{len(before)} {'night' if len(before) == 1 else 'nights'} each; the difference is paired, night by night"
    for figure, words in FIGURES.items():
        shift = found[figure]
        yield f"{words:42}{shift.before!s:28}→ {shift.after!s:28}by {shift.by}"


def _swept(book: Book, audience: Audience, nights: int, sweep: str, as_json: bool) -> Iterator[str]:
    from cuejar.core.nights.compare import FIGURES, spreads, values_of, with_setting
    from cuejar.core.parts.base import BookError, Problem
    from cuejar.nights import Task, Work, results

    path, sign, told = sweep.partition("=")
    if not sign:
        raise BookError([Problem(sweep, "is no setting and range; write it like lanes.yard.width=1..4")])
    values = values_of(told)
    books: list[Book | None] = [book, *(with_setting(book, path.strip(), value) for value in values)]
    work = [Work(number, seed) for seed in range(1, nights + 1) for number in range(1, len(books))]
    done = dict(results(Task(books, audience.id), work))
    points = [spreads([done[one] for one in work if one.book == number]) for number in range(1, len(books))]
    if as_json:
        rows = [
            {"value": value, "figures": {name: one._asdict() for name, one in point.items()}}
            for value, point in zip(values, points, strict=True)
        ]
        yield json.dumps({"setting": path.strip(), "nights": nights, "points": rows}, ensure_ascii=False)
        return
    yield f"{path.strip():20}{''.join(f'{FIGURES[name]:38}' for name in SWEPT)}".rstrip()
    for value, point in zip(values, points, strict=True):
        yield f"{value!s:20}{''.join(f'{point[name]!s:38}' for name in SWEPT)}".rstrip()


def held_against(script: Script, path: Path, as_json: bool) -> Iterator[str]:
    """A scripted night under its own book and another one; a kept night's script begins with all that was under way."""
    from cuejar.core.nights.compare import Nights
    from cuejar.core.nights.recorded import Recording
    from cuejar.core.nights.tally import played

    other, rows = _book(path), list(script.happenings)
    if script.state is not None:
        moved = [(at + script.begins, happening) for at, happening in rows]
        nights = Nights([None, other], "", Recording(script.state, moved))
        before, after = nights.result(0, script.seed), nights.result(1, script.seed)
    else:
        before, after = (played(book, rows, script.seed, script.media) for book in (script.book, other))
    yield from _of_two([before], [after], as_json)
