"""A report of a problem: what this computer is, what is in the log, and the book in numbers; nobody's name, no secret.

Names of viewers are replaced in the log, as in exported nights; so are keys, addresses and the user's folder.
"""

from __future__ import annotations

import io
import json
import platform as system
import re
import zipfile
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

from sqlalchemy.orm import Session, sessionmaker

from cuejar import __version__
from cuejar.core.book.book import Book
from cuejar.core.nights.madeup import MadeUp, named_in
from cuejar.core.parts.base import JsonObject
from cuejar.doctor import findings
from cuejar.logs import FILE, FOLDER
from cuejar.settings import Settings
from cuejar.store.nights import everybody

MOST_BYTES = 300_000
"""How much of the end of the log is packed."""
_KEY = re.compile(r"[A-Za-z0-9_+/=-]{20,}")
_ADDRESS = re.compile(r"\b(?!127\.)(?:\d{1,3}\.){3}\d{1,3}\b|\b(?:[0-9a-fA-F]{1,4}:){3,}[0-9a-fA-F:]+")
_INSIDE = re.compile(r"(?<=://)[^\s/@]+@|(?<=[?&])[^\s=&]+=[^\s&]+")
"""Who is named within an address, and what it carries."""


class Cleaner:
    """Takes out of lines what is nobody's business."""

    def __init__(self, viewers: list[tuple[str, str]], secrets: list[str]) -> None:
        self._names = MadeUp(viewers)
        self._secrets = sorted((one for one in secrets if len(one) > 3), key=len, reverse=True)
        self._home = str(Path.home())

    def line(self, line: str) -> str:
        for secret in self._secrets:
            line = line.replace(secret, "…")
        if len(self._home) > 1:
            line = line.replace(self._home, "~")
        line = _ADDRESS.sub("…", _INSIDE.sub("…", line))
        line = _KEY.sub(lambda found: "…" if any(c.isdigit() for c in found[0]) else found[0], line)
        return self._names.text(line)


def _log(folder: Path) -> str:
    """Returns the end of the log, oldest line first."""
    text, left = "", MOST_BYTES
    for file in [folder / FOLDER / FILE, *(folder / FOLDER / f"{FILE}.{number}" for number in (1, 2, 3))]:
        if left <= 0 or not file.is_file():
            break
        content = file.read_bytes()[-left:]
        text, left = content.decode("utf-8", "replace") + text, left - len(content)
    return text


def _computer(settings: Settings) -> Iterator[str]:
    yield f"Cue Jar {__version__}"
    yield f"{system.system()} {system.release()} {system.machine()}, Python {system.python_version()}"
    for one in findings(settings):
        yield f"{one.grade:6}{one.of:11}{one.what}"


def _numbers(book: Book) -> JsonObject:
    """Returns how many there are of everything in a book, without any name."""
    told = book.model_dump(mode="json")
    return {
        "entries": {name: len(value) for name, value in told.items() if isinstance(value, list)},
        "beats": Counter(beat.kind for cue in book.cues for beat in cue.beats),
        "calls": Counter(call.kind for cue in book.cues for call in cue.calls),
        "gear": Counter(gear.kind for gear in book.gear),
    }


def packed(
    settings: Settings, book: Book, sessions: sessionmaker[Session], secrets: list[str], wrong: list[str]
) -> bytes:
    """Returns the report as a zip.

    Args:
        secrets: passwords, keys and links that may be named somewhere.
        wrong: what the desk says is wrong now.
    """
    clean = Cleaner([*everybody(sessions), *named_in(book)], secrets)
    parts = {
        "computer.txt": "\n".join(clean.line(line) for line in _computer(settings)),
        "wrong-now.txt": "\n".join(clean.line(line) for line in wrong),
        "book.json": json.dumps(_numbers(book), indent=1),
        "log.txt": "\n".join(clean.line(line) for line in _log(settings.data.expanduser()).splitlines()),
    }
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        for name, text in parts.items():
            made.writestr(name, text + "\n")
    return out.getvalue()
