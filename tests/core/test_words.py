"""Every text that is made of a book's parts reads without a gap: over drawn books, whatever is in them."""

from __future__ import annotations

import re
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from cuejar.core.book.book import LISTS, Book
from cuejar.core.carry.differences import differences
from cuejar.core.carry.telling import Telling
from cuejar.core.carry.words import Names, call_said, condition_said
from cuejar.core.parts.callkinds import ChatCall
from cuejar.core.playbill.bill import Noticed, does, effect
from cuejar.core.snags.snags import snags
from tests.core import whole

GAPS = re.compile(r"\bNone\b|\bundefined\b|\bnan\b| {2}| [.,;:]|“”|\(\)|^\s|\s$|[{}\[\]]|_")
"""What a text shows where a part of it is missing, or was not put into words."""
TEMPLATES = re.compile(r"\{\{[^{}]*\}\}|“[^”]*”|\b[bcfr]\d\b")


def reads_well(text: str) -> None:
    bare = TEMPLATES.sub("x", text)
    assert bare and not GAPS.search(bare), f"{text!r} has a gap at {GAPS.search(bare)}"


def told(book: Book) -> list[str]:
    telling, noticed, names = Telling(book), Noticed(book), Names(book)
    texts = [one for kind in LISTS for entry in getattr(book, kind) if (one := telling.told(kind, entry))]
    for cue in book.cues:
        texts += [does(cue, noticed), effect(cue, noticed)]
        texts += [call_said(call.model_dump(mode="json", by_alias=True), names) for call in cue.calls]
        asked = [*cue.door.only_if, *(one for beat in cue.beats for one in beat.only_if)]
        texts += [condition_said(one.model_dump(mode="json", by_alias=True), names) for one in asked]
    for snag in snags(book, None):
        texts += [snag.what, snag.mend]
    return texts


@given(whole.whole_books())
def test_what_a_book_says_of_itself(book: Book) -> None:
    for text in told(book):
        reads_well(text)


@given(whole.whole_books(), whole.whole_books())
def test_what_differs_between_two_books(one: Book, other: Book) -> None:
    for difference in differences(one, other):
        for text in (difference.name, *(str(field) for field in difference.fields)):
            assert not re.search(r"\bNone\b|->|>= >=|: none → is", text), text


@given(st.data())
def test_every_condition_reads(data: Any) -> None:
    condition = data.draw(whole.CONDITIONS)
    reads_well(condition_said({**condition, "not": data.draw(st.booleans())}, Names(Book())))


def test_a_gap_is_found() -> None:
    for wrong in ("The door does not ask for a .", "only if: None", "waits  in Yard", "when “” is said", "is_ on"):
        assert GAPS.search(wrong)
    assert ChatCall(kind="chat", text="x").match == "is"
