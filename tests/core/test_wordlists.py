"""Word lists: they find what a plain search finds, however long the list."""

from __future__ import annotations

from hypothesis import given, settings
from hypothesis import strategies as st

from cuejar.core.book.book import WordList
from cuejar.core.rules import words as rules
from cuejar.core.rules.words import Found, blocked

TEXT = st.text("abgo0 .x!@", max_size=40)
ENTRIES = st.lists(
    st.builds(
        lambda text, anywhere: {"text": text, "anywhere": anywhere},
        st.text("abgox", min_size=1, max_size=6),
        st.booleans(),
    ),
    max_size=12,
)


def plainly(text: str, words: WordList) -> set[tuple[int, int]]:
    """Does the same, word by word and entry by entry."""
    found = set()
    for start, end in rules._units(text):
        looks = rules._looks(text[start:end])
        for entry in words.entries:
            bare = rules._skeleton(entry.text)
            if (entry.anywhere and bare and bare in looks[0]) or (not entry.anywhere and bare in looks):
                found.add((start, end))
    return found


@given(TEXT, ENTRIES)
@settings(max_examples=300)
def test_a_list_finds_what_a_plain_search_finds(text: str, entries: list[dict[str, object]]) -> None:
    words = WordList.model_validate({"id": "yard", "name": "Yard", "entries": entries})
    assert {(one.start, one.end) for one in blocked(text, [words])} == plainly(text, words)


def test_an_index_is_made_once_for_each_state_of_a_list() -> None:
    many = [{"text": f"grot{number}x", "anywhere": number % 2 == 0} for number in range(20_000)]
    words = WordList.model_validate({"id": "many", "name": "Many", "entries": many})
    first = rules._index_of(words)
    assert blocked("mind the grot19998x and the grot19999x", [words]) == [
        Found(9, 19, "many", "grot19998x"), Found(28, 38, "many", "grot19999x")
    ]  # fmt: skip
    assert rules._index_of(words) is first and blocked("mind the gap " * 300, [words]) == []
    changed = words.model_copy(update={"entries": words.entries[:1]})
    again = WordList.model_validate(words.model_dump())
    assert rules._index_of(again) is first, "the same book read again"
    assert rules._index_of(changed) is not first and blocked("grot19999x", [changed]) == []
