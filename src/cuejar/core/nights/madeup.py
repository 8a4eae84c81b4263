"""Made-up names in place of viewers' names: in a night's pages, its script, and texts that name them.

A night is played as it was, and only its output is renamed: anybody let in or blocked by name still is. Texts are
searched as the word lists search them: through case, accents, width, look-alikes, signs for letters, doubled letters,
marks around and within a name, single letters spread out, and a plural's *s*. A name of six letters or more is also
found within a word.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable, Iterator, Mapping
from functools import cached_property, lru_cache
from itertools import accumulate
from typing import Any

import ahocorasick

from cuejar.core.book.book import Book
from cuejar.core.book.files import book_from, book_json
from cuejar.core.nights.generator import NAMES_OF_VIEWERS
from cuejar.core.nights.standouts import Standout
from cuejar.core.nights.tally import Result
from cuejar.core.nights.timeline import Timeline
from cuejar.core.parts.base import BookError, JsonObject
from cuejar.core.rules.words import letters_of

SHORTEST, WITHIN, ANYWHERE = 3, 6, 8
"""The minimum length of a name that is searched in texts, within words, and across several words; in letters."""
SAID = frozenset({"viewer", "viewers", "text", "message", "payload", "words", "why"})
"""Where a happening contains words and viewers."""
STRUCTURE = frozenset({"kind", "format", "version", "font", "colour", "sha256"})
"""Keys whose values are never words."""
_HASH = re.compile("[0-9a-f]{64}")


class _Letters:
    """A text as the eye sees it: its letters, and where each stands.

    ``at`` are the positions of the letters in the text, ``ends`` where each ends; ``joined`` is whether one follows the
    letter before it directly. A letter repeated after a gap counts once in ``bare``: ``runs`` are the first letters of
    its letters.
    """

    def __init__(self, text: str) -> None:
        self.at: list[int] = []
        self.ends: list[int] = []
        self.joined: list[bool] = []
        letters: list[str] = []
        gap = True
        for place, c in enumerate(text):
            looks = letters_of(c)
            if not looks:
                # Marks and invisible characters belong to the letter before them.
                if unicodedata.category(c)[0] == "M" or unicodedata.category(c) == "Cf":
                    if self.ends and not gap:
                        self.ends[-1] = place + 1
                else:
                    gap = True
                continue
            for look in looks:
                if letters and letters[-1] == look and not gap:
                    self.ends[-1] = place + 1
                    continue
                letters.append(look)
                self.at.append(place)
                self.ends.append(place + 1)
                self.joined.append(not gap)
                gap = False
        self.letters = "".join(letters)
        self.runs = [i for i, c in enumerate(letters) if i == 0 or letters[i - 1] != c]
        self.bare = "".join([letters[i] for i in self.runs])

    @cached_property
    def gaps(self) -> list[int]:
        """Returns how many gaps there are up to each letter."""
        return list(accumulate(not joined for joined in self.joined))


@lru_cache(maxsize=100_000)
def _bare(name: str) -> str:
    """Returns a name's letters, without one doubled across its marks."""
    return _Letters(name).bare


class _Finder:
    """Finds names in letters, all in one pass (an automaton of Aho and Corasick, 1975)."""

    def __init__(self, bares: Iterable[str]) -> None:
        self._automaton = ahocorasick.Automaton()
        for bare in bares:
            if bare:
                self._automaton.add_word(bare, len(bare))
        self._is_empty = not len(self._automaton)
        if not self._is_empty:
            self._automaton.make_automaton()

    def lengths(self, letters: str) -> dict[int, list[int]]:
        """Returns the lengths of the names that begin at each letter, longest first."""
        found: dict[int, list[int]] = {}
        if not self._is_empty and letters:
            for last, length in self._automaton.iter(letters):
                found.setdefault(last - length + 1, []).append(length)
        for lengths in found.values():
            lengths.sort(reverse=True)
        return found

    def has(self, letters: str) -> bool:
        return not self._is_empty and bool(letters) and next(self._automaton.iter(letters), None) is not None


class MadeUp:
    """A made-up id and name for each viewer, the same wherever they are named."""

    def __init__(self, viewers: Iterable[tuple[str, str]]) -> None:
        """Args:
        viewers: ids and names of everybody known; one viewer may have several names.
        """
        told = list(dict.fromkeys((viewer, name) for viewer, name in viewers if viewer or name))
        real = {bare for pair in told for bare in map(_bare, pair) if len(bare) >= SHORTEST}
        within = _Finder(bare for bare in real if len(bare) >= WITHIN)
        self._names: dict[str, str] = {}
        self._ids: dict[str, str] = {}
        self._by_letters: dict[str, str] = {}
        number = 0
        for viewer, name in sorted(told, key=lambda pair: not pair[0]):
            whose = viewer or name
            if not viewer and _bare(name) in self._by_letters:
                continue  # A name without an id means a known viewer.
            if whose not in self._names:
                number += 1
                if viewer:
                    self._ids[viewer] = f"viewer-{number}"
                self._names[whose] = next(made for made in _made(number) if not _names_any(made, real, within))
            for one in (name, viewer):
                if len(bare := _bare(one)) >= SHORTEST:
                    self._by_letters.setdefault(bare, self._names[whose])
        self._finder = _Finder(self._by_letters)
        self._known: dict[str, str] = {}

    def name(self, viewer: str, name: str = "") -> str:
        """Returns the made-up name; a plain one for an unknown viewer; nobody stays nobody."""
        if not viewer and not name:
            return ""
        return self._names.get(viewer) or self._by_letters.get(_bare(name)) or self._names.get(name) or "somebody"

    def id(self, viewer: str) -> str:
        return self._ids.get(viewer, "viewer") if viewer else ""

    def text(self, text: str) -> str:
        """Returns the text with made-up names of viewers."""
        if not text or not self._by_letters:
            return text
        known = self._known.get(text)
        if known is None:
            known = self._renamed(text)
            if len(self._known) < 50_000:
                self._known[text] = known
        return known

    def _renamed(self, text: str) -> str:
        letters = _Letters(text)
        runs, count = letters.runs, len(letters.letters)
        found = self._finder.lengths(letters.bare)
        pieces: list[str] = []
        done = free = 0
        for run in sorted(found):
            # A letter repeated after a gap may begin the name at each of its positions.
            for place in range(runs[run], runs[run + 1] if run + 1 < len(runs) else count):
                if place < free:
                    continue
                ends = ((length, runs[run + length - 1] + 1) for length in found[run])
                fits = next(((n, end) for n, end in ends if _is_apart(letters, place, end, n)), None)
                if fits is not None:
                    bare = letters.bare[run : run + fits[0]]
                    pieces += [text[done : letters.at[place]], self._by_letters[bare]]
                    done, free = letters.ends[fits[1] - 1], fits[1]
                    break
        return "".join([*pieces, text[done:]]) if pieces else text

    def deep(self, value: Any, key: str = "") -> Any:
        """Returns JSON with made-up names in every text, including keys, and made-up ids of viewers."""
        if isinstance(value, str):
            return value if key in STRUCTURE or _HASH.fullmatch(value) else self._ids.get(value) or self.text(value)
        if isinstance(value, Mapping):
            if key in ("viewer", "viewers"):
                return self._viewer(value)
            return {self._ids.get(one) or self.text(one): self.deep(inside, one) for one, inside in value.items()}
        if isinstance(value, (list, tuple)):
            return [self.deep(one, key) for one in value]
        return value

    def _viewer(self, one: Mapping[str, Any]) -> JsonObject:
        who = str(one.get("id", ""))
        return {**one, "id": self.id(who), "name": self.name(who, str(one.get("name", "")))}

    def happening(self, told: JsonObject) -> JsonObject:
        """Returns a happening as JSON, for a book in which only texts could be renamed: its ids stay."""
        return {key: self.deep(value, key) if key in SAID else value for key, value in told.items()}

    # Output of a night

    def book(self, book: Book) -> tuple[Book, bool]:
        """Returns a book that names nobody, and whether its ids are renamed too. If that would be invalid, only texts
        are renamed, and lists of viewers are empty.
        """
        data = book_json(book)
        try:
            return book_from(
                {**self.deep(data), **{name: data[name] for name in ("format", "version") if name in data}}
            ), True
        except BookError:
            house = {k: v for k, v in data.get("house", {}).items() if k not in ("shut_out", "spared")}
            reading = {k: v for k, v in data.get("reading", {}).items() if k != "viewers"}
            return book_from({**self._texts(data), "house": self._texts(house), "reading": self._texts(reading)}), False

    def _texts(self, value: Any, key: str = "") -> Any:
        if isinstance(value, str):
            return self.text(value) if " " in value or key in ("name", "title", "text", "prompt") else value
        if isinstance(value, Mapping):
            return {one: self._texts(inside, one) for one, inside in value.items()}
        return [self._texts(one, key) for one in value] if isinstance(value, list) else value

    def result(self, result: Result) -> Result:
        for figure in ("luckiest", "unluckiest"):
            setattr(result, figure, self.name("", getattr(result, figure)))
        result.air_by_viewer = {self.name("", who): air for who, air in result.air_by_viewer.items()}
        return result

    def standout(self, one: Standout) -> Standout:
        return one._replace(what=self.text(one.what), mend=self.text(one.mend))

    def timeline(self, drawn: Timeline) -> Timeline:
        rows = drawn.model_dump(mode="json")
        for row in (*rows["runs"], *rows["turned"], *rows["extended"]):
            row["viewer"] = self.name("", row["viewer"])
            for key in ("text", "name", "call", "detail"):
                if key in row:
                    row[key] = self.text(row[key])
        for mark in rows["marks"]:
            mark["words"] = self.text(mark["words"])
        for lane in rows["lanes"]:
            lane["name"] = self.text(lane["name"])
        return Timeline.model_validate(rows)


def _made(number: int) -> Iterator[str]:
    """Yields names that nobody has."""
    for more in range(10_000):
        yield f"{NAMES_OF_VIEWERS[(number - 1 + more) % len(NAMES_OF_VIEWERS)]}_{number + more * 1_000}"


def _names_any(text: str, real: set[str], within: _Finder) -> bool:
    """Returns whether a name could be taken for somebody's."""
    bare = _bare(text)
    parts = {_bare(part) for part in text.split("_")}
    return bool(({bare} | parts) & real) or within.has(bare)


def _is_apart(letters: _Letters, place: int, end: int, length: int) -> bool:
    """Returns whether a match is a name, not a part of other words."""
    gaps = letters.gaps[end - 1] - letters.gaps[place]
    begins = not letters.joined[place]
    ends = end == len(letters.letters) or not letters.joined[end]
    plural = (
        not ends and letters.letters[end] == "s" and (end + 1 == len(letters.letters) or not letters.joined[end + 1])
    )
    if not gaps:
        return length >= WITHIN or (begins and (ends or plural))
    # A match over several words: it begins and ends with a word, or its letters are spread out.
    spread = gaps >= (end - place) // 2
    return (begins and (ends or plural)) or (spread and length >= WITHIN) or length >= ANYWHERE


def viewers_of(recording_state: JsonObject, entries: Iterable[tuple[int, int, Any]]) -> Iterator[tuple[str, str]]:
    """Returns the ids and names of everybody named in a night."""
    reception = recording_state.get("reception", recording_state)
    for account, row in reception.get("purse", {}).get("accounts", {}).items():
        yield str(account), str(row[0])
    for run in recording_state.get("runs", ()):
        for row in (run.get("viewer"), run.get("caller")):
            if row:
                yield str(row[0]), str(row[1])
    for _, _, told in entries:
        if not isinstance(told, Mapping):
            continue
        for one in (told.get("viewer"), *(told.get("viewers") or ())):
            if isinstance(one, Mapping) and one.get("id"):
                yield str(one["id"]), str(one.get("name", ""))


def named_in(book: Book) -> Iterator[tuple[str, str]]:
    """Returns the viewers that a book names: blocked, exempt, or with their own part. They may be ids or names."""
    named = [*book.house.shut_out, *book.house.spared, *book.reading.viewers]
    named += [one for cue in book.cues for one in cue.door.shut_out]
    yield from (("", one) for one in dict.fromkeys(named))
