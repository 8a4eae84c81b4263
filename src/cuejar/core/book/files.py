"""The book as JSON, and back."""

from __future__ import annotations

from cuejar.core.book.book import FORMAT, LISTS, VERSION, Book
from cuejar.core.book.earlier import brought_on
from cuejar.core.book.validation import problems_of
from cuejar.core.kinds.table import UNION_TAGS
from cuejar.core.parts.base import BookError, JsonObject, Model, Problem, parsed


def book_from(data: object) -> Book:
    """Returns a checked book from parsed JSON.

    Raises:
        BookError: every unknown key, wrong value, dangling reference and circle, each with its path.
    """
    if isinstance(data, dict) and "version" in data and data["version"] != VERSION:
        raise BookError([Problem("version", f"this is version {data['version']}; only {VERSION} is known here")])
    book: Book = parsed(Book, brought_on(data), UNION_TAGS)
    problems = problems_of(book)
    if problems:
        raise BookError(problems)
    return book


def rebuilt(data: JsonObject, *known: tuple[Book, JsonObject]) -> Book:
    """Returns a book, as `book_from`, for JSON in the current form; entries identical to those of a known book (with
    its JSON) aren't read again.

    Raises:
        BookError: as `book_from`.
    """
    mixed: JsonObject = dict(data)
    for kind in LISTS:
        if kind in data:
            whole = {
                row["id"]: (row, entry)
                for book, told in known
                for row, entry in zip(told.get(kind, []), getattr(book, kind), strict=True)
            }
            mixed[kind] = [_known(row, whole.get(row["id"])) for row in data[kind]]
    book: Book = parsed(Book, mixed, UNION_TAGS)
    problems = problems_of(book)
    if problems:
        raise BookError(problems)
    return book


def _known(row: JsonObject, there: tuple[JsonObject, Model] | None) -> JsonObject | Model:
    return there[1] if there is not None and there[0] == row else row


def book_json(book: Book) -> JsonObject:
    """Returns the book as JSON, with only what differs from the defaults."""
    kept = book.model_dump(mode="json", by_alias=True, exclude_defaults=True)
    return {"format": FORMAT, "version": VERSION, **kept}
