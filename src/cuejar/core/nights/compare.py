"""Several nights of one audience, two books over the same nights, and one setting over a range of values."""

from __future__ import annotations

import json
import re
from collections.abc import Iterable, Mapping, Sequence
from statistics import median
from typing import Any, NamedTuple

from cuejar.core.book.book import LISTS, Book
from cuejar.core.book.files import book_from, book_json
from cuejar.core.engine.engine import Engine
from cuejar.core.engine.night import Timed
from cuejar.core.engine.view import View
from cuejar.core.facts.happenings import Happening, MediaFacts
from cuejar.core.facts.paths import SCENE
from cuejar.core.nights.generator import night_of
from cuejar.core.nights.playing import heard
from cuejar.core.nights.recorded import Recording, engine_of, happenings_of
from cuejar.core.nights.standouts import Standout, standouts
from cuejar.core.nights.tally import Result, Tally
from cuejar.core.nights.timeline import Drawing, Timeline
from cuejar.core.parts.base import BookError, Problem

FIGURES = {
    "redemptions": "redemptions",
    "let_in": "let in",
    "refunds": "refunds",
    "dropped": "dropped",
    "points_spent": "points spent",
    "points_refunded": "points refunded",
    "wait_median_s": "median wait (s)",
    "wait_p95_s": "95th percentile wait (s)",
    "wait_longest_s": "longest wait (s)",
    "seen": "time with visible effects",
    "heard": "time with sound",
    "felt": "time with haptics",
    "held": "time with something held",
    "most_at_once": "most at once",
    "longest_quiet_s": "longest quiet spell (s)",
    "minutes_paid": "minutes of watching spent",
}
"""The compared figures of a night, in words."""
SHARES = frozenset({"seen", "heard", "felt", "held"})
"""The figures that are shares of the night's length, from 0 to 1."""
MOST_VALUES = 100
ROWS_KEPT = 3


class Spread(NamedTuple):
    """A figure over several nights."""

    median: float
    low: float
    high: float

    def __str__(self) -> str:
        return f"{self.median:g} ({self.low:g} to {self.high:g})" if self.low != self.high else f"{self.median:g}"


class Shift(NamedTuple):
    """A figure with two books over the same nights; ``by`` is the difference, paired night by night."""

    before: Spread
    after: Spread
    by: Spread


def spread(values: Sequence[float]) -> Spread:
    return Spread(round(median(values), 4), round(min(values), 4), round(max(values), 4))


class Nights:
    """The nights of an audience, or a recorded one, with some books."""

    def __init__(
        self,
        books: Sequence[Book | None],
        audience: str = "",
        recording: Recording | None = None,
        media: Mapping[str, MediaFacts] | None = None,
        past: Mapping[str, float] | None = None,
    ) -> None:
        """Args:
        books: the first is the one that the audience knows. None stands for a recorded night's own.
        audience: its id in the first book; empty: the recorded night is played.
        """
        self._books, self._recording = books, recording
        self._media, self._past = dict(media) if media is not None else None, past
        self._rows: dict[int, list[tuple[int, Happening]]] = {}
        known = books[0]
        self._audience = next((one for one in known.audiences if one.id == audience), None) if known else None
        if self._audience is None and recording is None:
            raise BookError([Problem("audiences", f"there is no “{audience}” in the book")])

    def _set_out(self, book: int, seed: int) -> tuple[Book, Engine, Iterable[tuple[int, Happening]], int]:
        """Returns the book, an engine before the night, what happens, and when the night begins."""
        against, recording, known = self._books[book], self._recording, self._books[0]
        if recording is not None and self._audience is None:
            own = against if against is not None else recording.book
            return own, engine_of(recording, against), happenings_of(recording, against), recording.begin
        assert self._audience is not None and known is not None
        played = against or known
        if seed not in self._rows:
            # All values of a setting are played over the same few nights.
            while len(self._rows) >= ROWS_KEPT:
                self._rows.pop(next(iter(self._rows)))
            self._rows[seed] = night_of(self._audience, known, seed, self._past)
        rows = self._rows[seed]
        return played, Engine(played, seed, self._media), rows, 0

    def result(self, book: int, seed: int) -> Result:
        """Returns the totals of a night."""
        return self._played(book, seed)[0].result()

    def drawn(self, book: int, seed: int) -> tuple[Result, list[Standout], Timeline, list[Timed]]:
        """Returns the totals of a night, what stands out, its timeline, and the messages for an overlay's page."""
        figures: dict[str, set[str]] = {}
        tally, drawing, played = self._played(book, seed, figures)
        assert drawing is not None
        result = tally.result()
        return result, list(standouts(result, played)), drawing.timeline(figures), drawing.shows

    def _played(
        self, book: int, seed: int, figures: dict[str, set[str]] | None = None
    ) -> tuple[Tally, Drawing | None, Book]:
        """Plays a night. ``figures``: it is also drawn, and the figures of each run are added there."""
        played, engine, rows, begin = self._set_out(book, seed)
        view = View(engine)
        scene = view.showing(SCENE) if SCENE in view.rest_values() else None
        tally = Tally(played, begin, view.media, scene, figures)
        drawing = Drawing(played, begin) if figures is not None else None
        until = self._recording.until if self._audience is None and self._recording is not None else None
        heard(engine, rows, tally, *([drawing] if drawing is not None else []), until=until)
        tally.at_rest = view.at_rest
        return tally, drawing, played


def spreads(results: Sequence[Result]) -> dict[str, Spread]:
    """Returns every figure over several nights."""
    return {figure: spread([float(getattr(result, figure)) for result in results]) for figure in FIGURES}


def shifts(before: Sequence[Result], after: Sequence[Result]) -> dict[str, Shift]:
    """Returns every figure with two books, night by night."""
    told = {}
    for figure in FIGURES:
        old, new = ([float(getattr(one, figure)) for one in some] for some in (before, after))
        told[figure] = Shift(spread(old), spread(new), spread([b - a for a, b in zip(old, new, strict=True)]))
    return told


_STEP = re.compile(r"[A-Za-z0-9_-]+")


def with_setting(book: Book, path: str, value: object) -> Book:
    """Returns the book with one setting changed: ``lanes.yard.width``, ``cues.tea.door.cooldown_s``,
    ``house.cooldown_s``.

    Raises:
        BookError: there is no such setting, or it can't have this value.
    """
    steps = path.split(".")
    if not all(_STEP.fullmatch(step) for step in steps) or len(steps) < 2:
        raise BookError([Problem(path, "is no setting; write it like lanes.yard.width or house.cooldown_s")])
    data = json.loads(json.dumps(book_json(book)))
    kind, *inside = steps
    row: Any = data
    if kind in LISTS:
        thing, *inside = inside
        row = next((entry for entry in data.get(kind, []) if entry["id"] == thing), None)
        if row is None or not inside:
            raise BookError(
                [Problem(path, f"there is no “{thing}” among the {kind}" if row is None else "names no setting")]
            )
    else:
        row = data.setdefault(kind, {})
    for step in inside[:-1]:
        row = _inside(row, step, path)
    last = inside[-1]
    if isinstance(row, list):
        found = next((i for i, one in enumerate(row) if isinstance(one, dict) and one.get("id") == last), None)
        raise BookError([Problem(path, "names no setting" if found is not None else f"there is no “{last}”")])
    row[last] = value
    return book_from(data)


def _inside(row: Any, step: str, path: str) -> Any:
    if isinstance(row, list):
        found = next((one for one in row if isinstance(one, dict) and one.get("id") == step), None)
        if found is None:
            raise BookError([Problem(path, f"there is no “{step}”")])
        return found
    return row.setdefault(step, {})


def values_of(told: str) -> list[int | float | str | bool]:
    """Returns the values of a typed range: ``1..4``, ``10..60/10``, ``queue,solo``.

    Raises:
        BookError: it isn't a range.
    """
    span = re.fullmatch(r"(-?\d+(?:\.\d+)?)\.\.(-?\d+(?:\.\d+)?)(?:/(\d+(?:\.\d+)?))?", told.strip())
    if span is None:
        values = [_value(one.strip()) for one in told.split(",") if one.strip()]
    else:
        low, high, step = (float(part) if part is not None else 1.0 for part in span.groups())
        if step <= 0 or high < low or (high - low) / step > MOST_VALUES:
            raise BookError([Problem(told, f"isn’t a range of at most {MOST_VALUES} values")])
        values = [_value(f"{round(low + i * step, 6):g}") for i in range(int((high - low) / step + 1e-9) + 1)]
    if not 1 <= len(values) <= MOST_VALUES:
        raise BookError([Problem(told, f"needs 1 to {MOST_VALUES} values, like 1..4, 10..60/10 or queue,solo")])
    return values


def _value(told: str) -> int | float | str | bool:
    if told in ("true", "false"):
        return told == "true"
    try:
        return int(told)
    except ValueError:
        pass
    try:
        return float(told)
    except ValueError:
        return told
