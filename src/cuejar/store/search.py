"""Searches lines of the ledger by words: an index of SQLite's FTS5 over the ledger itself, maintained by triggers."""

from __future__ import annotations

import re

from sqlalchemy import Connection, text

TABLE = "ledger_words"
FIELDS = ("viewer_name", "text", "reward", "cue", "reason", "detail")
NOTHING = '""'
"""A query without results."""
MOST_WORDS = 12
PREFIXES = "1 2 3 4 5 6 7 8 9 10"
"""Prefixes of these lengths are indexed by line, so that a page of a frequent word is as quick as one of a rare word.
"""
_WORD = re.compile(r"[^\W_]+", re.UNICODE)

_NEW = ", ".join(f"new.{field}" for field in FIELDS)
_OLD = ", ".join(f"old.{field}" for field in FIELDS)
_NAMES = ", ".join(FIELDS)
_OUT = f"insert into {TABLE} ({TABLE}, rowid, {_NAMES}) values ('delete', old.id, {_OLD})"
_IN = f"insert into {TABLE} (rowid, {_NAMES}) values (new.id, {_NEW})"
MADE = (
    f"create virtual table {TABLE} using fts5({_NAMES}, content='ledger', content_rowid='id', detail=column, "
    f"tokenize=\"unicode61 remove_diacritics 2\", prefix='{PREFIXES}')",
    f"create trigger {TABLE}_in after insert on ledger begin {_IN}; end",
    f"create trigger {TABLE}_out after delete on ledger begin {_OUT}; end",
    f"create trigger {TABLE}_anew after update of {_NAMES} on ledger begin {_OUT}; {_IN}; end",
)
"""The statements that make the index."""
FILLED = f"insert into {TABLE} ({TABLE}) values ('rebuild')"
"""Fills it with existing lines."""


def words_of(told: str, field: str = "") -> str:
    """Returns a search in the index's form: every word, also as the beginning of a longer one.

    Args:
        field: search only this one.

    Returns:
        Empty without any words.
    """
    words = [f'"{word}"*' for word in _WORD.findall(told)[:MOST_WORDS]]
    if not words:
        return ""
    return f"{field} : ({' AND '.join(words)})" if field else " AND ".join(words)


def asked_for(words: str, viewer: str) -> str:
    """Returns the index query for words anywhere in a line, and others in its viewer's name. Empty: no query."""
    parts = [words_of(told, field) or NOTHING for told, field in ((words, ""), (viewer, "viewer_name")) if told.strip()]
    return " AND ".join(f"({part})" for part in parts)


def wiped(connection: Connection) -> None:
    """Removes every trace of deleted text from the index."""
    connection.execute(text(f"insert into {TABLE} ({TABLE}) values ('optimize')"))
