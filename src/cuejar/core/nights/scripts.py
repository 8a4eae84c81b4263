"""Scripts: nights in a file. A script holds a book, rest values, what is in the media and the scenes, and the
happenings of a night with their times; read, it is a recording like that of a past night.
"""

from __future__ import annotations

from collections.abc import Iterator

from cuejar.core.book.book import Book
from cuejar.core.book.files import book_from
from cuejar.core.engine.engine import Engine
from cuejar.core.engine.night import Timed
from cuejar.core.engine.rehearsal import TO_REST, Step, play
from cuejar.core.engine.state import engine_from, snapshot_of
from cuejar.core.facts import orders as o
from cuejar.core.facts.happenings import Happening, Rest, happening_from
from cuejar.core.facts.script import ScriptForm
from cuejar.core.nights.compare import Nights
from cuejar.core.nights.recorded import Recording, engine_of, happenings_of
from cuejar.core.nights.tally import Result
from cuejar.core.parts.base import BookError, JsonObject, Problem, ms, parsed


def script_from(data: object) -> Recording:
    """Returns a checked script from parsed JSON.

    Raises:
        BookError: every problem, with its path.
    """
    form: ScriptForm = parsed(ScriptForm, data)
    problems: list[Problem] = []
    timed: list[tuple[int, Happening]] = []
    book: Book | None = None
    try:
        book = book_from(form.book)
    except BookError as error:
        problems += [Problem(f"book.{p.path}".rstrip("."), p.what) for p in error.problems]
    for i, row in enumerate(form.happenings):
        where = f"happenings[{i}]"
        at = row.get("at")
        if isinstance(at, bool) or not isinstance(at, (int, float)) or not 0 <= at <= 10_000_000:
            problems.append(Problem(f"{where}.at", "must be the time in seconds, 0 or more"))
            continue
        try:
            happening = happening_from({key: value for key, value in row.items() if key != "at"}, where)
        except BookError as error:
            problems += error.problems
            continue
        try:
            if happening.kind == "book":
                book_from(happening.book)
            timed.append((ms(at), happening))
        except BookError as error:
            problems += [Problem(f"{where}.book.{p.path}".rstrip("."), p.what) for p in error.problems]
    if form.state is not None:
        try:
            engine_from(form.state)
        except (BookError, KeyError, ValueError, TypeError, AttributeError, IndexError) as error:
            problems.append(Problem("state", f"isn’t a complete show state ({error or type(error).__name__})"))
    if problems or book is None:
        raise BookError(problems)
    begin = form.begins if form.state is not None else 0
    rows = sorted(((at + begin, happening) for at, happening in timed), key=lambda pair: pair[0])
    until = begin + ms(form.until) if form.until is not None else TO_REST
    return Recording(form.state or _at_rest(book, form), rows, begins=begin, until=until)


def _at_rest(book: Book, form: ScriptForm) -> JsonObject:
    """Returns the state before a night that begins at rest."""
    engine = Engine(book, form.seed, form.media)
    if form.rest:
        engine.handle(Rest(form.rest), 0)
    engine.resolver.sources |= {scene: tuple(names) for scene, names in form.sources.items()}
    return snapshot_of(engine)


def rehearse(script: Recording) -> Iterator[Timed]:
    """Plays the night. Yields every order with its instant in ms, counted from its beginning."""
    begin = script.begin
    for step in play(engine_of(script), happenings_of(script), script.until):
        if isinstance(step, Step):
            yield from ((at - begin, _from(order, begin)) for at, order in step.timed) if begin else step.timed


def _from(order: o.Order, begin: int) -> o.Order:
    """Returns the order with its instants counted from the beginning of the night."""
    if not isinstance(order, (o.Show, o.Roll, o.Prolong, o.Start)):
        return order
    until = order.until - begin if order.until is not None else None
    return (
        order._replace(until=until, at=order.at - begin) if isinstance(order, o.Show) else order._replace(until=until)
    )


def report(script: Recording) -> Result:
    """Plays the script and adds it up."""
    return Nights([None], "", script).result(0, 0)
