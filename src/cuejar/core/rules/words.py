"""Viewer text: made safe to handle, checked against the streamer's lists, and used in templates.

Text is normalised (NFKC); control and zero-width characters are removed; runs of combining marks are cut to two, runs
of one character to three; white space is collapsed (a line break stays one). A link becomes the word "link".

A blocked word matches as a whole word, or anywhere if its entry says so. Matching sees through case, accents,
look-alike letters of other scripts, digits and signs for letters, doubled letters, and single characters spread out by
spaces or dots: with *grot* blocked, ``GROT``, ``gr0t``, ``g r o t``, ``g.r.o.t`` and ``grrrot`` are found; ``grotto``
is not.

`templates` fills in templates. A viewer's text is inserted unchanged for captions and speech (they draw it as text,
never as markup), and escaped as a JSON string for hook payloads.
"""

from __future__ import annotations

import json
import re
import unicodedata
from collections import OrderedDict
from collections.abc import Mapping, Sequence
from functools import lru_cache
from typing import NamedTuple
from urllib.parse import quote

import ahocorasick

from cuejar.core.book.book import WordList
from cuejar.core.rules.templates import TemplateError, filled_in

MOST_CHARACTERS = 10_000
_BEGINS = re.compile(r"(?i)(?<!\w)(?:https?://|www\.)\S")
_ENDING = re.compile(r"(?i)\.(?:com|net|org|io|gg|tv|me|ly|co|dev|app)(?!\w)")
_OF_A_HOST = re.compile(r"(?i)[a-z0-9.-]")
_MANY = re.compile(r"(.)\1{3,}", re.S)
_DIGITS_OF_A_NUMBER = 15
_INVISIBLE = {"Cc", "Cf", "Co", "Cs", "Cn"}


def _few(run: re.Match[str]) -> str:
    """Returns three of a run of one character; digits of a number stay, for ten thousand isn't a thousand."""
    whole = run.group(0)
    return whole if whole.isdecimal() and len(whole) <= _DIGITS_OF_A_NUMBER else run.group(1) * 3


def normalised(text: str, runs: bool = True) -> str:
    """Returns the text as everything after the door sees it, at most `MOST_CHARACTERS` long.

    ``runs``: whether runs of one character are cut to three. Colours, numbers and choices would change their meaning.
    """
    text = text[:MOST_CHARACTERS]
    if text.isascii() and text.isprintable() and "  " not in text and not _MANY.search(text) and "." not in text:
        return text.strip()
    flat = unicodedata.normalize("NFKC", text)[:MOST_CHARACTERS]
    kept: list[str] = []
    marks = 0
    for c in flat:
        category = unicodedata.category(c)
        if c.isspace():
            kept.append("\n" if c in "\n\r\u2028\u2029" else " ")
            marks = 0
        elif category[0] == "M":
            marks += 1
            if marks <= 2:
                kept.append(c)
        elif category not in _INVISIBLE:
            kept.append(c)
            marks = 0
    lines = (" ".join(line.split()) for line in "".join(kept).split("\n"))
    folded = "\n".join(line for line in lines if line)
    if runs:
        folded = _MANY.sub(_few, folded)
    return _without_links(folded)


def _link_at(word: str) -> int | None:
    """Returns where in a word a link begins that goes to its end: an address, or a host with a known ending."""
    begins = _BEGINS.search(word)
    ending = _ENDING.search(word)
    if ending is None:
        return begins.start() if begins else None
    at = ending.start()
    while at > 0 and _OF_A_HOST.match(word[at - 1]):
        at -= 1
    while at < ending.start() and word[at] in ".-":
        at += 1
    if at == ending.start():
        return begins.start() if begins else None
    return min(at, begins.start()) if begins else at


def _without_links(text: str) -> str:
    """Returns the text with "link" for every link."""
    if "." not in text and "://" not in text:
        return text
    words = re.split(r"(\s+)", text)
    return "".join(word if (at := _link_at(word)) is None else word[:at] + "link" for word in words)


def linked(text: str) -> bool:
    """Returns whether a text that isn't normalised yet has a link."""
    flat = unicodedata.normalize("NFKC", text[:MOST_CHARACTERS])[:MOST_CHARACTERS]
    return any(_link_at(word) is not None for word in flat.split())


_SIGNS = str.maketrans(
    {"0": "o", "1": "i", "3": "e", "4": "a", "5": "s", "7": "t", "@": "a", "$": "s", "!": "i", "l": "i"}
)
_ALIKE = str.maketrans(
    dict(
        zip(
            "абвгеікмнорстухѕјԁһԛԝьαβεηικνορτυχγωϲ",
            "abbreikmhopctyxsjdhqwbabenikvoptuxywc",
            strict=True,
        )
    )
)
_SPREAD = re.compile(r"[\s.\-_*]+")


@lru_cache(maxsize=16_384)
def _skeleton(text: str) -> str:
    """Returns letters as the eye sees them: without accents, look-alikes and signs as letters, i and l alike, no
    doubled letters.
    """
    return _bare(text)


def _bare(text: str) -> str:
    apart = unicodedata.normalize("NFKD", text.casefold())
    bare = "".join(c for c in apart if unicodedata.category(c)[0] != "M")
    letters = bare.translate(_ALIKE).translate(_SIGNS)
    return re.sub(r"(.)\1+", r"\1", letters)


@lru_cache(maxsize=16_384)
def letters_of(character: str) -> str:
    """Returns the letters and digits that a character looks like; nothing if there are none."""
    apart = unicodedata.normalize("NFKD", character.casefold())
    bare = "".join(c for c in apart if unicodedata.category(c)[0] != "M")
    return "".join(c for c in bare.translate(_ALIKE).translate(_SIGNS) if c.isalnum())


class Found(NamedTuple):
    """A blocked word in a text: where it is (as a slice), its list, and the entry it matched."""

    start: int
    end: int
    list_id: str
    entry: str


def _units(text: str) -> list[tuple[int, int]]:
    """Returns the words of the text as slices; single characters spread out by spaces or dots count as one word."""
    words = [(m.start(), m.end()) for m in re.finditer(r"[\w@$!\u0300-\u036f]+", text)]
    units: list[tuple[int, int]] = []
    i = 0
    while i < len(words):
        j = i
        while j < len(words) and words[j][1] - words[j][0] == 1:
            j += 1
        if j - i >= 3:
            units.append((words[i][0], words[j - 1][1]))
            i = j
        else:
            units.append(words[i])
            i += 1
    return units


class _Index:
    """A word list prepared for lookups: whole words by their skeleton, and one automaton for those that match anywhere."""

    def __init__(self, words: WordList) -> None:
        self.whole = {_bare(entry.text): entry.text for entry in words.entries if not entry.anywhere}
        parts = {_bare(entry.text): entry.text for entry in words.entries if entry.anywhere}
        self.anywhere = ahocorasick.Automaton()
        for number, (part, entry) in enumerate(parts.items()):
            if part:
                self.anywhere.add_word(part, (number, entry))
        self.has_parts = len(self.anywhere) > 0
        if self.has_parts:
            self.anywhere.make_automaton()

    def hit(self, looks: Sequence[str]) -> str | None:
        """Returns the entry that equals one of these skeletons, or is contained in the first."""
        found = next((self.whole[look] for look in looks if look in self.whole), None)
        if found is None and self.has_parts:
            found = min((told for _, told in self.anywhere.iter(looks[0])), default=(0, None))[1]
        return found


_INDEXES: OrderedDict[int, tuple[WordList, _Index]] = OrderedDict()
MOST_INDEXES = 50


_BY_CONTENT: OrderedDict[tuple[tuple[str, bool], ...], _Index] = OrderedDict()


def _index_of(words: WordList) -> _Index:
    """Returns a list's index, made once per content: the book is never changed in place."""
    known = _INDEXES.get(id(words))
    if known is not None and known[0] is words:
        return known[1]
    content = tuple((entry.text, entry.anywhere) for entry in words.entries)
    index = _BY_CONTENT.get(content) or _Index(words)
    _INDEXES[id(words)], _BY_CONTENT[content] = (words, index), index
    for some in (_INDEXES, _BY_CONTENT):
        while len(some) > MOST_INDEXES:
            some.popitem(last=False)
    return index


def prepared(lists: Sequence[WordList]) -> None:
    """Prepares the indexes of lists, to be called where nothing waits for it."""
    for words in lists:
        if words.on:
            _index_of(words)


def _looks(unit: str) -> list[str]:
    """Returns the possible readings of a word; as written comes first."""
    looks = [_skeleton(_SPREAD.sub("", unit)), _skeleton(_SPREAD.sub("", unit.strip("!$@")))]
    letters = _SPREAD.split(unit)
    if len(letters) > 3:
        # A word of one letter may come before or after a spread-out word: "what a g r o t".
        looks += [_skeleton("".join(some)) for some in (letters[1:], letters[:-1], letters[1:-1])]
    return looks


def blocked(text: str, lists: Sequence[WordList]) -> list[Found]:
    """Returns every blocked word of the active lists, in order of position."""
    there = [(words.id, _index_of(words)) for words in lists if words.on and words.entries]
    if not there:
        return []
    units = [(start, end, _looks(text[start:end])) for start, end in _units(text)]
    return sorted(
        Found(start, end, list_id, hit)
        for list_id, index in there
        for start, end, looks in units
        if (hit := index.hit(looks)) is not None
    )


def censored(text: str, lists: Sequence[WordList]) -> tuple[str, list[Found]]:
    """Returns the text with replaced words, and the found words whose list refuses the text."""
    by_id = {words.id: words for words in lists}
    refused = []
    pieces, to = [], 0
    for hit in blocked(text, lists):
        instead = by_id[hit.list_id].replace
        if instead is None:
            refused.append(hit)
        elif hit.start >= to:
            pieces += [text[to : hit.start], instead]
            to = hit.end
    return "".join([*pieces, text[to:]]), refused


SPEECH_START_S, SPEECH_CHARACTER_S = 0.35, 0.062


def speech_length_s(text: str, rate: float = 1.0) -> float:
    """Returns roughly how long it takes to read the text aloud: 0.35 s and 0.062 s per character at rate 1, for each
    speech.
    """
    speeches = [speech for speech in re.split(r"\n| / ", text) if speech.strip()]
    return sum(SPEECH_START_S + SPEECH_CHARACTER_S * len(speech.strip()) for speech in speeches) / rate


def _as_it_is(text: str) -> str:
    return text


def _in_json(text: str) -> str:
    return json.dumps(text, ensure_ascii=False)[1:-1]


def _in_url(text: str) -> str:
    return quote(text, safe="")


def _in_header(text: str) -> str:
    """Returns one line that a header may hold; anything but ASCII is percent-encoded, as in a URL."""
    return quote("".join(c for c in text if c.isprintable()), safe=" !#$&'()*+,/:;=?@[]~")


_ESCAPES = {"url": _in_url, "header": _in_header, "text": _as_it_is, "json": _in_json}


def ordinal(number: int) -> str:
    """1st, 2nd, 3rd, 4th, 11th, 112th."""
    ending = "th" if number % 100 in (11, 12, 13) else {1: "st", 2: "nd", 3: "rd"}.get(number % 10, "th")
    return f"{number}{ending}"


def filled(template: str, values: Mapping[str, object], goes_to: str = "text") -> str:
    """Returns the template filled in with its values, escaped for where it goes: ``text``, ``json``, ``url`` or
    ``header``.

    Raises:
        ValueError: the template can't be read, or becomes too long.
    """
    if "{{" not in template:
        return template
    try:
        return filled_in(template, values, _ESCAPES[goes_to])
    except TemplateError as error:
        raise ValueError(f"the template “{template[:80]}” cannot be used: {error}") from error
