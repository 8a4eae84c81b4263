"""Phrases as phones: read, spelled from IPA, compared."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cuejar.core.measures.phones import PHONES, difference, from_ipa, problems, read_phones, spelling, words_of

WORDS = {"mind": ["M", "AY", "N", "D"], "the": ["DH", "AH"], "gap": ["G", "AE", "P"], "map": ["M", "AE", "P"]}
ANY = st.lists(st.sampled_from(sorted(PHONES)), max_size=12)


def test_a_phrase_is_spelled_by_its_words() -> None:
    assert words_of("Mind the GAP, don’t you?") == ["mind", "the", "gap", "don't", "you"]
    assert spelling("Mind, the gap!", WORDS) == (["M", "AY", "N", "D", "DH", "AH", "G", "AE", "P"], [])
    assert spelling("mind kettlewright kettlewright", WORDS) == (["M", "AY", "N", "D"], ["kettlewright"])


@pytest.mark.parametrize(
    ("ipa", "phones"),
    [
        ("tˈɪnwɪsəl", "T IH N W IH S AH L"),
        ("stˈeɪʃənmˌæstɚ", "S T EY SH AH N M AE S T ER"),
        ("dʒˈɔɪn ðə tʃˈɜːtʃ", "JH OY N DH AH CH ER CH"),
        ("", ""),
        ("ˈːˌ ?", ""),
    ],
)
def test_ipa_becomes_phones(ipa: str, phones: str) -> None:
    assert " ".join(from_ipa(ipa)) == phones


@given(st.text())
def test_any_ipa_becomes_known_phones(ipa: str) -> None:
    assert set(from_ipa(ipa)) <= PHONES


@given(ANY, ANY)
def test_a_difference_is_a_distance(one: list[str], other: list[str]) -> None:
    assert 0 <= difference(one, other) == difference(other, one) <= 1
    assert (difference(one, other) == 0) == (one == other)


def test_written_sounds_are_read_or_refused() -> None:
    assert read_phones("m ay1 n d") == ["M", "AY", "N", "D"]
    with pytest.raises(ValueError, match="“QU” is no sound"):
        read_phones("M QU")


def test_short_and_alike_phrases_are_told() -> None:
    phones = {
        name: spelling(name, WORDS).phones for name in ("mind the gap", "mind the map", "gap", "the map mind gap")
    }
    told = problems(phones)
    assert told["gap"].startswith("It is too short")
    assert told["mind the gap"] == "It sounds like “mind the map”. Change one of them."
    assert set(told) == {"gap", "mind the gap", "mind the map"}
