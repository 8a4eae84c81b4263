"""Rewards as a table (CSV), exported and imported.

One row per reward; a reward is matched by its title, regardless of case and surrounding space. Any spreadsheet's form
can be read: ``;``, ``,`` or tabs between cells, a byte order mark, quotes; columns by their headings in any order, and
only those present. Limits are those of the door of the one cue that the reward calls; a new reward comes with a cue of
its own. An empty cell of a limit, a colour, a picture, a tag or a set removes it; any other empty cell keeps its value. ``prompt``
is empty for an automatic one. ``picture`` is the name of a file of the library, ``crop`` its middle and how much is
cut off: ``0.5 0.4 x2``.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Mapping, Sequence
from typing import Any, Literal, NamedTuple

from cuejar.core.book.book import Book, Door, Reward, RewardPicture
from cuejar.core.book.files import book_from, book_json
from cuejar.core.measures.colour import RANDOM, read_colour
from cuejar.core.measures.jarfiles import delimiter
from cuejar.core.parts.base import BookError, JsonObject, Problem, parsed
from cuejar.core.parts.folding import folded
from cuejar.core.parts.slugs import slug
from cuejar.core.parts.tables import table, unguarded
from cuejar.core.rules.tickets import cues_of

COLUMNS = (
    "title", "cost", "text", "prompt", "on", "review", "colour", "picture", "crop", "tag", "max_per_stream", "max_per_viewer", "cooldown_s", "set",
)  # fmt: skip
MOST_ROWS = 2_000
_YES = {"yes", "true", "1", "on", "x", "y", "wahr"}
_NO = {"no", "false", "0", "off", "n", "falsch"}
LIMITS = {"max_per_stream": "cap_stream", "max_per_viewer": "cap_viewer", "cooldown_s": "cooldown_s"}
"""Where each limit is set at the door."""


class Row(NamedTuple):
    """An imported row: its result, and why. ``changes`` are in words."""

    line: int
    title: str
    what: Literal["new", "changed", "same", "refused"]
    changes: list[str]
    problem: str = ""


class Reading(NamedTuple):
    """A table before its import: every row, and the book with all that isn't refused."""

    rows: list[Row]
    data: JsonObject


def written(book: Book) -> str:
    """Returns all rewards as CSV (RFC 4180), in order; cells that a spreadsheet would take for a formula are guarded."""
    cues, files = cues_of(book), {entry.id: entry.name for entry in book.media}

    def row(reward: Reward) -> list[str]:
        door = cues[reward.id][0].door if len(cues.get(reward.id, [])) == 1 else None
        sets = [named.name for named in book.sets if reward.id in named.rewards]
        return list(_cells(reward, door, sets, files).values())

    return table(COLUMNS, map(row, book.rewards))


def _cells(reward: Reward, door: Door | None, sets: Sequence[str], files: Mapping[str, str]) -> dict[str, str]:
    """Returns a reward as the cells of its row; ``files`` are the names of the library's."""
    picture = reward.picture

    def number(value: float | None) -> str:
        return "" if value is None else f"{value:.12g}"

    return {
        "title": reward.title,
        "cost": str(reward.cost),
        "text": _said(reward.text),
        "prompt": reward.prompt or "",
        "on": _said(reward.on),
        "review": _said(reward.review),
        "colour": reward.colour or "",
        "picture": files.get(picture.media, picture.media) if picture is not None else "",
        "crop": f"{number(picture.x)} {number(picture.y)} x{number(picture.zoom)}" if picture is not None else "",
        "tag": ", ".join(reward.tags),
        **{column: number(getattr(door, at) if door is not None else None) for column, at in LIMITS.items()},
        "set": ", ".join(sets),
    }


def _said(yes: bool) -> str:
    return "yes" if yes else "no"


class _Wrong(ValueError):
    """A cell is invalid; the text says why."""


def _flag(cell: str) -> bool:
    if folded(cell) in _YES:
        return True
    if folded(cell) in _NO:
        return False
    raise _Wrong(f"“{cell}” is neither yes nor no")


def _count(cell: str) -> int:
    # A spreadsheet may write 1 000, 1.000,0 or 250.0.
    bare = cell.replace("\u00a0", "").replace("\u202f", "").replace(" ", "").removesuffix(".0").removesuffix(",0")
    if not bare.isdecimal() or len(bare) > 12:
        raise _Wrong(f"“{cell}” isn’t a whole number")
    return int(bare)


def _seconds(cell: str) -> float:
    try:
        number = float(cell.replace(",", "."))
    except ValueError:
        raise _Wrong(f"“{cell}” isn’t a number of seconds") from None
    if not 0 <= number <= 86_400:
        raise _Wrong(f"{cell} s isn’t between 0 and one day")
    return number


def _colour(cell: str) -> str:
    reading = read_colour(cell)
    if reading is None or reading.hex == RANDOM:
        raise _Wrong(f"“{cell}” isn’t a colour")
    return reading.hex.lower()


def _names(cell: str) -> list[str]:
    return list(dict.fromkeys(name.strip() for name in cell.replace("|", ",").split(",") if name.strip()))


FIELDS: dict[str, tuple[str, Callable[[str], Any]]] = {
    "cost": ("cost", _count),
    "text": ("text", _flag),
    "prompt": ("prompt", str),
    "on": ("on", _flag),
    "review": ("review", _flag),
    "colour": ("colour", _colour),
    "tag": ("tags", _names),
}
"""The columns that are fields of the reward, and how each is read."""
CLEARS: dict[str, Any] = {"prompt": None, "colour": None, "tag": []}
"""The meaning of an empty cell, if it has one."""


def read(text: str, book: Book) -> Reading:
    """Returns what a table would change in the book; nothing is done.

    Raises:
        BookError: it isn't a table of rewards.
    """
    taking = _Taking(book)
    out: list[Row] = []
    seen: dict[str, int] = {}
    for line, cells in _table(text):
        title = unguarded(cells.get("title", "").strip())
        key = folded(title)
        if not title:
            out.append(Row(line, "", "refused", [], "It has no title."))
        elif key in seen:
            out.append(Row(line, title, "refused", [], f"The title is already in line {seen[key]}."))
        else:
            seen[key] = line
            try:
                what, changes = taking.take(title, cells)
                out.append(Row(line, title, what, changes))
            except _Wrong as wrong:
                out.append(Row(line, title, "refused", [], f"{str(wrong)[0].upper()}{str(wrong)[1:]}."))
            except BookError as error:
                problem = error.problems[0]
                out.append(Row(line, title, "refused", [], f"{problem.path or 'It'}: {problem.what}."))
    return Reading(out, taking.data())


def _table(text: str) -> list[tuple[int, dict[str, str]]]:
    text = text.removeprefix("\ufeff")
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter(text, COLUMNS))
    heading: list[str] = []
    rows: list[tuple[int, dict[str, str]]] = []
    try:
        for cells in reader:
            bare = [cell.strip() for cell in cells]
            if not any(bare):
                continue
            if not heading:
                heading = [folded(cell).replace(" ", "_") for cell in bare]
                if "title" not in heading:
                    raise BookError([Problem("line 1", "has no column “title”; the first line names the columns")])
                continue
            rows.append((reader.line_num, dict(zip(heading, bare, strict=False))))
            if len(rows) > MOST_ROWS:
                raise BookError([Problem("", f"has more than {MOST_ROWS:,} rewards")])
    except csv.Error as error:
        raise BookError([Problem(f"line {reader.line_num}", str(error))]) from error
    if not heading:
        raise BookError([Problem("", "is empty")])
    return rows


def _crop(cell: str) -> JsonObject:
    parts = cell.replace(",", ".").lower().replace("x", " ").split()
    try:
        x, y, zoom = (float(part) for part in parts)
        return RewardPicture(media="one", x=x, y=y, zoom=zoom).model_dump(exclude={"media"})
    except ValueError:
        raise _Wrong(f"“{cell}” isn’t a crop such as 0.5 0.4 x2") from None


def _fields(cells: dict[str, str]) -> JsonObject:
    fields: JsonObject = {}
    for column, (name, reading) in FIELDS.items():
        if column not in cells:
            continue
        cell = unguarded(cells[column])
        if cell:
            fields[name] = reading(cell)
        elif column in CLEARS:
            fields[name] = CLEARS[column]
    return fields


def _limit(name: str, cell: str) -> float | int | None:
    if not cell:
        return None
    return _seconds(cell) if name == "cooldown_s" else _count(cell) or None


class _Taking:
    """The book with the rows imported so far."""

    def __init__(self, book: Book) -> None:
        self._whole = book_json(book)
        self._rewards: dict[str, JsonObject] = {row["id"]: row for row in self._whole.get("rewards", [])}
        self._cues: dict[str, JsonObject] = {row["id"]: row for row in self._whole.get("cues", [])}
        self._sets: list[JsonObject] = [{"rewards": [], **row} for row in self._whole.get("sets", [])]
        self._called = {reward: [cue.id for cue in cues] for reward, cues in cues_of(book).items()}
        self._names = {entry.id: entry.name for entry in book.media}
        self._files = {folded(entry.name): entry.id for entry in reversed(book.media)}
        self._known = {folded(reward.title): reward for reward in book.rewards}

    def data(self) -> JsonObject:
        """Returns the current book. Raises BookError."""
        lists = {"rewards": list(self._rewards.values()), "cues": list(self._cues.values()), "sets": self._sets}
        return book_json(book_from({**self._whole, **{name: rows for name, rows in lists.items() if rows}}))

    def take(self, title: str, cells: dict[str, str]) -> tuple[Literal["new", "changed", "same"], list[str]]:
        """Imports a whole row or nothing of it. Returns the result for the reward, and what changed in it.

        Raises:
            _Wrong, BookError: it is invalid.
        """
        fields = _fields(cells)
        limits = {at: _limit(name, cells[name]) for name, at in LIMITS.items() if name in cells}
        sets = _names(unguarded(cells["set"])) if "set" in cells else None
        known = self._known.get(folded(title))
        if known is None:
            self._add(title, fields, cells, limits, sets or [])
            return "new", []
        if known.elsewhere:
            raise _Wrong("it was made elsewhere and can’t be changed here")
        before_picture = self._rewards[known.id].get("picture") or {}
        row = _whole({**self._rewards[known.id], **fields, **self._picture(cells, before_picture)})
        reward = parsed(Reward, row)
        called = self._called.get(known.id, [])
        before, door, at_door = None, None, JsonObject()
        if len(called) == 1:
            before = parsed(Door, self._cues[called[0]].get("door", {}))
            at_door = _whole({**self._cues[called[0]].get("door", {}), **limits})
            door = parsed(Door, at_door)
        elif any(limit is not None for limit in limits.values()):
            raise _Wrong(
                f"its limits belong to its cue’s door, and it calls {'no cue' if not called else 'more than one cue'}"
            )
        was = _cells(known, before, self._in(known.id), self._names)
        self._rewards[known.id] = row
        if before != door:
            self._cues[called[0]] = {**self._cues[called[0]], "door": at_door}
        if sets is not None:
            self._put_in_sets(known.id, sets)
        now = _cells(reward, door, self._in(known.id), self._names)
        changes = [
            f"{name.replace('_', ' ')}: {now[name] or 'none'} (was {was[name] or 'none'})"
            for name in now
            if was[name] != now[name]
        ]
        return ("changed" if changes else "same"), changes

    def _add(self, title: str, fields: JsonObject, cells: dict[str, str], limits: JsonObject, sets: list[str]) -> None:
        if "cost" not in fields:
            raise _Wrong("a new reward needs a cost")
        reward = _whole(
            {"id": slug(title, self._rewards, "reward"), "title": title, **fields, **self._picture(cells, {})}
        )
        cue: JsonObject = {
            "id": slug(title, self._cues, "cue"),
            "name": title,
            "calls": [{"kind": "reward", "reward": reward["id"]}],
            "door": _whole(limits),
        }
        parsed(Reward, reward)
        parsed(Door, cue["door"])
        self._rewards[reward["id"]], self._cues[cue["id"]] = reward, cue
        self._put_in_sets(reward["id"], sets)

    def _picture(self, cells: dict[str, str], before: JsonObject) -> JsonObject:
        """Returns the field of a reward's picture, if the row has one. Raises _Wrong."""
        if "picture" not in cells and "crop" not in cells:
            return {}
        name = unguarded(cells["picture"]) if "picture" in cells else before.get("media", "")
        if not name:
            return {"picture": None}
        media = self._files.get(folded(name)) or (name if name in self._files.values() else None)
        if media is None:
            raise _Wrong(f"there is no file “{name}”")
        crop = _crop(cell) if (cell := cells.get("crop", "").strip()) else {}
        same = {key: before[key] for key in ("x", "y", "zoom") if before.get("media") == media and key in before}
        return {"picture": {"media": media, **same, **crop}}

    def _in(self, reward: str) -> list[str]:
        return [row["name"] for row in self._sets if reward in row["rewards"]]

    def _put_in_sets(self, reward: str, names: list[str]) -> None:
        """Puts the reward into the sets of these names and no others; missing ones are made."""
        wanted = {folded(name): name for name in names}
        for key, name in wanted.items():
            if not any(folded(row["name"]) == key for row in self._sets):
                ids = {row["id"] for row in self._sets}
                self._sets.append({"id": slug(name, ids, "set"), "name": name, "rewards": []})
        for row in self._sets:
            if folded(row["name"]) not in wanted:
                row["rewards"] = [one for one in row["rewards"] if one != reward]
            elif reward not in row["rewards"]:
                row["rewards"] = [*row["rewards"], reward]


def _whole(row: JsonObject) -> JsonObject:
    return {key: value for key, value in row.items() if value is not None}
