"""What this machine lacks, or has wrong, for Cue Jar to run well: each with its fix."""

from __future__ import annotations

import shutil
import socket
import sqlite3
import sys
from collections.abc import Callable, Iterator
from contextlib import closing
from typing import Literal, NamedTuple

from cuejar.compiling import is_compiled
from cuejar.platform import has_desktop
from cuejar.settings import WEB, CannotStart, Settings, prepare_data_folder

ROOM, SCARCE = 200_000_000, 2_000_000_000
"""Bytes that must be free on the disk, and that should be."""
CODECS = {
    "r": ("h264", "vp8", "vp9", "aac", "mp3", "opus", "vorbis", "flac", "pcm_s16le", "png", "gif", "mjpeg", "webp"),
    "w": ("libvpx-vp9", "libopus"),
}
"""Formats that must be read (``r``) and written (``w``)."""


class Finding(NamedTuple):
    """``fine``; ``look``: something doesn't work, but the rest does; ``wrong``: it won't run. ``mend`` is the fix."""

    grade: Literal["fine", "look", "wrong"]
    of: str
    what: str
    mend: str = ""


def findings(settings: Settings) -> Iterator[Finding]:
    """Returns all findings, in order; a check that fails itself is a finding, too."""
    for of, look in LOOKS.items():
        try:
            yield from (Finding(grade, of, what, mend) for grade, what, mend in look(settings))
        except Exception as error:
            yield Finding("wrong", of, f"Check failed: {error or type(error).__name__}.", "Install Cue Jar again.")


Seen = Iterator[tuple[Literal["fine", "look", "wrong"], str, str]]


def _python(_: Settings) -> Seen:
    have = ".".join(map(str, sys.version_info[:3]))
    if sys.version_info < (3, 11):  # noqa: UP036 - who copies the files to an old one is told here
        yield "wrong", f"Python {have} is too old.", "Install Python 3.11 or later."
    else:
        yield "fine", f"Python {have}", ""


def _engine(_: Settings) -> Seen:
    if is_compiled():
        yield "fine", "The engine is compiled.", ""
    else:
        yield "fine", "The engine isn’t compiled: it works the same, at half the speed.", ""


def _pages(_: Settings) -> Seen:
    missing = [name for name in ("index.html", "overlay.html", "pads.html", "gear.html") if not (WEB / name).is_file()]
    if missing:
        yield (
            "wrong",
            f"The pages are missing ({', '.join(missing)}).",
            "In a checkout run make setup; else install it again.",
        )
    else:
        yield "fine", "The pages are there.", ""


def _folder(settings: Settings) -> Seen:
    folder = settings.data.expanduser()
    try:
        prepare_data_folder(folder)
    except CannotStart as error:
        yield "wrong", str(error), ""
        return
    yield "fine", f"{folder} is writable.", ""


def _disk(settings: Settings) -> Seen:
    folder = settings.data.expanduser()
    while not folder.exists():
        folder = folder.parent
    free = shutil.disk_usage(folder).free
    told = f"{free / 1e9:,.1f} GB are free at {folder}."
    grade: Literal["fine", "look", "wrong"] = "wrong" if free < ROOM else "look" if free < SCARCE else "fine"
    yield grade, told, "" if grade == "fine" else "Make room on it, or choose another --data."


def _database(settings: Settings) -> Seen:
    from cuejar.store.copies import copies
    from cuejar.store.database import FILE

    file = settings.data.expanduser() / FILE
    if not file.exists():
        yield "fine", "There is no book yet.", ""
        return
    try:
        with closing(sqlite3.connect(f"file:{file}?mode=ro", uri=True, timeout=2)) as connection:
            rows = [str(row[0]) for row in connection.execute("PRAGMA quick_check(3)")]
    except sqlite3.Error as error:
        rows = [str(error)]
    there = copies(file.parent)
    last = f"the last copy is of {there[0].day}" if there else "there is no copy yet"
    if rows != ["ok"]:
        mend = "Start Cue Jar: it offers the copies." if there else "Start Cue Jar: it keeps everything readable."
        yield "wrong", f"The database is damaged ({'; '.join(rows)}); {last}.", mend
    else:
        yield "fine", f"The database can be read; {last}.", ""


def _ports(settings: Settings) -> Seen:
    runs = False
    for port, whose, needed in (
        (settings.port, "the pages", True),
        (settings.pads_port, "the pads", False),
        (settings.standins_port, "the stand-ins", False),
    ):
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind(("127.0.0.1", port))
            except OSError:
                own = _is_ours(port) or (port == settings.pads_port and runs)
                runs = runs or own
                what = f"Port {port} ({whose}) is in use{' by a running Cue Jar' if own else ''}."
                yield (
                    ("fine", what, "") if own else ("wrong" if needed else "look", what, "Choose another with --port.")
                )
                continue
        yield "fine", f"Port {port} is free for {whose}.", ""


def _is_ours(port: int) -> bool:
    import httpx

    for path in ("/api/health", "/openapi.json", "/pads"):
        try:
            answer = httpx.get(f"http://127.0.0.1:{port}{path}", timeout=2, trust_env=False)
        except httpx.HTTPError:
            return False
        if "Cue Jar" in answer.text or '"book"' in answer.text:
            return True
    return False


def _codecs(_: Settings) -> Seen:
    import av

    missing = []
    for mode, names in CODECS.items():
        for name in names:
            try:
                av.codec.Codec(name, "w" if mode == "w" else "r")
            except av.codec.codec.UnknownCodecError:
                missing.append(f"{name} ({'writing' if mode == 'w' else 'reading'})")
    if missing:
        yield (
            "look",
            f"These kinds of media can’t be used: {', '.join(missing)}.",
            "Install the package av from a wheel.",
        )
    else:
        yield "fine", "All kinds of media can be read and converted.", ""


def _voices(_: Settings) -> Seen:
    from cuejar.speech.espeak import CannotSpeak, Espeak

    try:
        count = len(Espeak.here().voices())
    except (CannotSpeak, OSError) as error:
        yield "look", f"Speech doesn’t work: {error}.", "Install the package espeakng-loader."
        return
    yield (
        ("fine", f"{count} voices can read aloud.", "")
        if count
        else ("look", "There are no voices.", "Install espeakng-loader.")
    )


def _keys(_: Settings) -> Seen:
    from cuejar.store.secrets import Secrets

    if Secrets.has_key_store():
        yield "fine", "Passwords are kept in the system’s key store.", ""
    else:
        yield "fine", "This system has no key store; passwords are kept in a file that only you can read.", ""


def _display(_: Settings) -> Seen:
    shown = has_desktop()
    try:
        import pynput  # noqa: F401
    except ImportError as error:
        known = isinstance(error, ModuleNotFoundError)
        mend = "pip install cuejar[keys]" if known else "Start it in a desktop session, or use a bridge for keys."
        yield "look", "Keys can’t be pressed on this computer.", mend
        return
    except Exception:
        shown = False
    if shown:
        yield "fine", "Keys can be pressed on this computer.", ""
    else:
        yield (
            "look",
            "There is no display, so keys can’t be pressed on this computer.",
            "All else works; use a bridge for keys.",
        )


LOOKS: dict[str, Callable[[Settings], Seen]] = {
    "python": _python,
    "engine": _engine,
    "pages": _pages,
    "folder": _folder,
    "disk": _disk,
    "database": _database,
    "ports": _ports,
    "codecs": _codecs,
    "voices": _voices,
    "key store": _keys,
    "display": _display,
}
"""All checks, by their subject."""
