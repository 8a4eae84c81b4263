"""A book, or some cues of it, as one file: a zip of ``manifest.json``, ``book.json`` and ``media/HASH.ext``.

Written in pieces, so that nothing waits and memory stays constant. Read with suspicion: a zip's claims about
itself aren't trusted before it was unpacked and counted.
"""

from __future__ import annotations

import hashlib
import json
import mimetypes
import re
import stat
import zipfile
from collections.abc import Iterator, Mapping, Sequence
from datetime import UTC, datetime
from pathlib import Path
from typing import IO, Literal, NamedTuple

from cuejar import __version__
from cuejar.core.book.book import Book
from cuejar.core.book.files import book_from, book_json
from cuejar.core.carry.secrets import without_secrets
from cuejar.core.facts.gate import sound_json
from cuejar.core.parts.base import BookError, JsonObject
from cuejar.store.moving import MEMBERS
from cuejar.store.zips import BROKEN, CHUNK, zipped

FORMAT, VERSION = "cue-jar-bundle", 1
MANIFEST, BOOK = "manifest.json", "book.json"
MOST_ENTRIES, MOST_BOOK, MOST_PARTS, MOST_DEPTH = 5_000, 50_000_000, 3_000_000, 40
_MEDIA = re.compile(r"media/([0-9a-f]{64})(\.[a-z0-9]{1,5})?")
_NO_ZIP = "This file wasn’t exported by Cue Jar."
Scope = Literal["book", "cues", "all"]
"""``all``: the book with the data beside it."""


class NotABundle(Exception):
    """A file that can't be imported; the text says why, in the user's words."""


class MediaFile(NamedTuple):
    """A file of the library to export: its hash, its path, its ending with the dot."""

    hash: str
    path: Path
    ending: str


_ENDINGS = {"audio/mpeg": ".mp3", "audio/x-wav": ".wav", "audio/wav": ".wav", "video/x-matroska": ".mkv"}


def ending(mime: str, form: str) -> str:
    """Returns the ending of a file of this kind, with the dot."""
    found = _ENDINGS.get(mime) or mimetypes.guess_extension(mime) or f".{re.sub('[^a-z0-9]', '', form.lower())[:5]}"
    return found if re.fullmatch(r"\.[a-z0-9]{1,5}", found) else ""


def left_out(book: Book) -> list[str]:
    """Returns what isn't exported of a book, in words: keys in headers and addresses."""
    return without_secrets(book_json(book))[1]


def written(
    book: Book,
    scope: Scope,
    media: Mapping[str, MediaFile],
    cues: Sequence[str] = (),
    beside: Mapping[str, Iterator[bytes]] | None = None,
    home: str = "",
) -> Iterator[bytes]:
    """Yields a bundle in pieces.

    Args:
        media: the available files, by hash; missing ones are left out.
        cues: which cues were asked for, if it isn't the whole book.
        beside: the data beside the book, by its name in the zip (`store.moving`).
        home: the mark of this installation, if data are included.
    """
    data, without = without_secrets(book_json(book))
    told = json.dumps(data, ensure_ascii=False, indent=1).encode()
    files = [{"path": BOOK, "sha256": hashlib.sha256(told).hexdigest(), "bytes": len(told)}]
    wanted: dict[str, MediaFile] = {}
    for entry in book.media:
        there = media.get(entry.file or "")
        if there is not None:
            row = {
                "path": f"media/{there.hash}{there.ending}",
                "sha256": there.hash,
                "bytes": there.path.stat().st_size,
                "name": entry.name,
                "licence": entry.licence,
                "credit": entry.credit,
            }
            files.append({key: value for key, value in row.items() if value != ""})
            wanted[there.hash] = there
    manifest = {
        "format": FORMAT,
        "version": VERSION,
        "what": scope,
        "cues": list(cues),
        **({"home": home} if home else {}),
        "made": datetime.now(UTC).isoformat(timespec="seconds"),
        "by": f"Cue Jar {__version__}",
        "left_out": without,
        "files": files,
    }
    texts: list[tuple[str, str | bytes]] = [
        (MANIFEST, json.dumps(manifest, ensure_ascii=False, indent=1)),
        (BOOK, told),
    ]
    yield from zipped(texts, [(f"media/{one.hash}{one.ending}", one.path) for one in wanted.values()], beside)


class Bundle:
    """A bundle that was read and is valid. ``media`` has the hashes of the files in it; ``home`` is the mark of the
    installation that wrote all of its data; ``has_data``: it has data beside the book.
    """

    def __init__(
        self,
        path: Path,
        book: Book,
        scope: Scope,
        media: Mapping[str, str],
        without: Sequence[str],
        home: str = "",
        has_data: bool = False,
    ) -> None:
        self.path, self.book, self.scope, self.media, self.left_out = path, book, scope, media, list(without)
        self.home, self.has_data = home, has_data


def copied(path: Path, name: str, file_hash: str, to: Path) -> None:
    """Copies a file out of a bundle, by its name there.

    Raises:
        NotABundle: it has changed meanwhile.
    """
    with zipfile.ZipFile(path) as bundle, bundle.open(name) as source, to.open("wb") as out:
        digest = hashlib.sha256()
        while chunk := source.read(CHUNK):
            digest.update(chunk)
            out.write(chunk)
    if digest.hexdigest() != file_hash:
        raise NotABundle("The file changed while it was being read.")


def read(path: Path, most_bytes: int) -> Bundle:
    """Reads a bundle, or a book alone as JSON, and checks all of it. Nothing is unpacked to disk.

    Raises:
        NotABundle: it is damaged, hostile, or from a newer Cue Jar; in words.
        BookError: its book is invalid.
    """
    try:
        with path.open("rb") as file:
            begin = file.read(4)
        if begin[:2] == b"PK":
            return _from_zip(path, most_bytes)
        if begin.lstrip(b"\xef\xbb\xbf \t\r\n")[:1] == b"{" and path.stat().st_size <= MOST_BOOK:
            return Bundle(path, _book(path.read_bytes()), "book", {}, [])
    except BROKEN as error:
        if isinstance(error, BookError):
            raise
        raise damaged(error) from error
    except OSError as error:
        raise NotABundle(f"The file can’t be read: {error.strerror or error}.") from error
    raise NotABundle(f"{_NO_ZIP} It is neither a zip nor a book in JSON.")


def _from_zip(path: Path, most_bytes: int) -> Bundle:
    with zipfile.ZipFile(path) as bundle:
        entries = bundle.infolist()
        media = _checked(entries, most_bytes)
        if BOOK not in bundle.namelist():
            raise NotABundle(f"{_NO_ZIP} It contains no book.")
        left = most_bytes
        manifest = _manifest(_unpacked(bundle, MANIFEST, left)) if MANIFEST in bundle.namelist() else {}
        told = _unpacked(bundle, BOOK, left)
        sums = {row.get("path"): row for row in manifest.get("files", []) if isinstance(row, dict)}
        _same(BOOK, hashlib.sha256(told).hexdigest(), sums)
        for file_hash, name in media.items():
            digest = hashlib.sha256()
            with bundle.open(name) as source:
                while chunk := source.read(CHUNK):
                    left -= len(chunk)
                    _fits(left, most_bytes)
                    digest.update(chunk)
            if digest.hexdigest() != file_hash:
                raise NotABundle(f"{name} was altered: its content doesn’t match its name.")
            _same(name, digest.hexdigest(), sums)
        names = bundle.namelist()
        gone = [row for row in sums if row is not None and row not in names]
        if gone:
            raise NotABundle(f"{gone[0]} is missing from the file.")
        what = manifest.get("what")
        scope: Scope = "cues" if what == "cues" else "all" if what == "all" else "book"
        without = [str(one)[:200] for one in manifest.get("left_out", [])][:100]
        has_data = scope == "all" and any(name in MEMBERS for name in names)
        return Bundle(
            path,
            _book(told),
            scope,
            media,
            without,
            re.sub("[^0-9a-f]", "", str(manifest.get("home", "")))[:64],
            has_data,
        )


def _checked(entries: Sequence[zipfile.ZipInfo], most_bytes: int) -> dict[str, str]:
    """Returns the names of its media by hash, once all claims of the zip about itself are found harmless."""
    if len(entries) > MOST_ENTRIES:
        raise NotABundle(f"There are {len(entries):,} entries in it; at most {MOST_ENTRIES:,} are taken.")
    media: dict[str, str] = {}
    seen: set[str] = set()
    for entry in entries:
        name = entry.filename
        if name.startswith(("/", "\\")) or ".." in re.split(r"[/\\]", name) or "\\" in name or ":" in name:
            raise NotABundle(f"“{name[:100]}” points outside the folder.")
        if stat.S_ISLNK(entry.external_attr >> 16):
            raise NotABundle(f"“{name[:100]}” is a link.")
        if name in seen:
            raise NotABundle(f"“{name[:100]}” is in it twice.")
        if entry.flag_bits & 0x1:
            raise NotABundle(f"“{name[:100]}” is protected by a password.")
        seen.add(name)
        found = _MEDIA.fullmatch(name)
        if found is not None:
            if found[1] in media:
                raise NotABundle(f"“{name[:100]}” is in it twice, with another extension.")
            media[found[1]] = name
        elif name not in (MANIFEST, BOOK, "media/", "data/", *MEMBERS):
            raise NotABundle(f"{_NO_ZIP} “{name[:100]}” doesn’t belong in it.")
    _fits(most_bytes - sum(entry.file_size for entry in entries), most_bytes)
    return media


def damaged(error: Exception) -> NotABundle:
    return NotABundle(f"The file is damaged or cut off ({str(error) or type(error).__name__}).")


def too_large(most_bytes: int) -> NotABundle:
    return NotABundle(f"It unpacks to more than {most_bytes // 1_000_000:,} MB. Raise CUEJAR_MAX_BUNDLE_MB.")


def _fits(left: int, most_bytes: int) -> None:
    if left < 0:
        raise too_large(most_bytes)


def _unpacked(bundle: zipfile.ZipFile, name: str, most_bytes: int) -> bytes:
    most = min(MOST_BOOK, most_bytes)
    with bundle.open(name) as source:
        return _whole(source, name, most)


def _whole(source: IO[bytes], name: str, most: int) -> bytes:
    data = source.read(most + 1)
    if len(data) > most:
        raise NotABundle(f"{name} unpacks to more than {most // 1_000_000:,} MB.")
    return data


def _same(name: str, digest: str, sums: Mapping[object, JsonObject]) -> None:
    told = sums.get(name, {}).get("sha256", digest)
    if told != digest:
        raise NotABundle(f"{name} was altered: it doesn’t match the manifest.")


def _json(data: bytes, what: str) -> JsonObject:
    try:
        sound = sound_json(json.loads(data.decode("utf-8-sig")), MOST_PARTS, MOST_DEPTH)
    except (ValueError, RecursionError) as error:
        raise NotABundle(f"{what} can’t be read: {error}.") from error
    if not isinstance(sound, dict):
        raise NotABundle(f"{what} isn’t a JSON object.")
    return sound


def _manifest(data: bytes) -> JsonObject:
    manifest = _json(data, MANIFEST)
    if manifest.get("format") != FORMAT:
        raise NotABundle(_NO_ZIP)
    _known(manifest.get("version"), VERSION)
    for key in ("files", "left_out"):
        if not isinstance(manifest.get(key, []), list):
            raise NotABundle(f"{MANIFEST}: {key} isn’t a list.")
    return manifest


def _known(version: object, known: int) -> None:
    if isinstance(version, int) and version > known:
        raise NotABundle(
            f"It was written by a newer Cue Jar (version {version}; {known} is known here). Install that version."
        )


def _book(data: bytes) -> Book:
    told = _json(data, BOOK)
    if told.get("format") != "cue-jar-book":
        raise NotABundle(f"{_NO_ZIP} It contains no book.")
    _known(told.get("version"), 1)
    return book_from(told)
