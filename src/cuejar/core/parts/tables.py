"""Tables exported as CSV (RFC 4180): one writer, whose cells no spreadsheet takes for a formula."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence

from cuejar.core.parts.base import BookError, Problem

FORMULA = "=+-@\t\r\n＝＋－＠﹢﹣﹦﹫−"
"""Characters that start a formula in a spreadsheet, even after spaces."""
SPACES = (
    " \u0085\u00a0\u00ad\u1680\u180e\u2000\u2001\u2002\u2003\u2004\u2005\u2006\u2007\u2008\u2009\u200a\u200b\u200c\u200d\u200e"
    "\u200f\u2028\u2029\u202a\u202b\u202c\u202d\u202e\u202f\u205f\u2060\u2066\u2067\u2068\u2069\u3000\ufeff\v\f"
)
"""Every kind of space and invisible character."""


def guarded(text: str) -> str:
    """Returns a cell that no spreadsheet takes for a formula."""
    return f"'{text}" if text.lstrip(SPACES).startswith(tuple(FORMULA)) else text


def unguarded(text: str) -> str:
    """Returns the content of a guarded cell."""
    return text[1:] if text.startswith("'") and guarded(text[1:]) != text[1:] else text


def lines_within(text: str, most: int) -> None:
    """Raises BookError: a text has too many lines. To be called before any of them is read."""
    if text.count("\n") > most:
        raise BookError([Problem("", f"it has more than {most:,} lines")])


def table(heading: Sequence[str], rows: Iterable[Sequence[str | float]], end: str = "\r\n") -> str:
    """Returns rows as CSV; texts are guarded, numbers unchanged."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator=end)
    writer.writerow(heading)
    writer.writerows([guarded(cell) if isinstance(cell, str) else cell for cell in row] for row in rows)
    return out.getvalue()
