"""Phrases as phones (ARPAbet without stress, as the CMU dictionary writes them): read, compared, spelled from IPA."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Mapping, Sequence
from typing import NamedTuple

from rapidfuzz.distance import Levenshtein

FEWEST_PHONES = 6
"""Shorter phrases are heard in everything."""
ALIKE = 0.34
"""Two phrases sound alike if they differ in less than this share of their phones."""
PHONES = frozenset(
    [
        "AA",
        "AE",
        "AH",
        "AO",
        "AW",
        "AY",
        "B",
        "CH",
        "D",
        "DH",
        "EH",
        "ER",
        "EY",
        "F",
        "G",
        "HH",
        "IH",
        "IY",
        "JH",
        "K",
        "L",
        "M",
        "N",
        "NG",
        "OW",
        "OY",
        "P",
        "R",
        "S",
        "SH",
        "T",
        "TH",
        "UH",
        "UW",
        "V",
        "W",
        "Y",
        "Z",
        "ZH",
    ]
)
IPA = {
    "aɪ": "AY", "aʊ": "AW", "eɪ": "EY", "ɔɪ": "OY", "oʊ": "OW", "əʊ": "OW", "tʃ": "CH", "dʒ": "JH", "ɪə": "IH R", "eə": "EH R",
    "ʊə": "UH R", "ɑː": "AA", "ɔː": "AO", "iː": "IY", "uː": "UW", "ɜː": "ER", "ɚ": "ER", "ɝ": "ER", "ɐ": "AH", "a": "AE", "æ": "AE",
    "ɑ": "AA", "ɒ": "AA", "ʌ": "AH", "ə": "AH", "ᵻ": "IH", "ɔ": "AO", "e": "EH", "ɛ": "EH", "ɪ": "IH", "i": "IY", "ʊ": "UH", "u": "UW",
    "o": "OW", "b": "B", "d": "D", "ð": "DH", "f": "F", "ɡ": "G", "g": "G", "h": "HH", "j": "Y", "k": "K", "l": "L", "ɫ": "L", "m": "M",
    "n": "N", "ŋ": "NG", "p": "P", "r": "R", "ɹ": "R", "ɾ": "T", "s": "S", "ʃ": "SH", "t": "T", "ʔ": "T", "θ": "TH", "v": "V", "w": "W",
    "x": "K", "z": "Z", "ʒ": "ZH",
}  # fmt: skip
"""IPA, as eSpeak writes English, and the phone of each sign."""
_LONGEST = max(map(len, IPA))
_WORD = re.compile(r"[^\W\d_]+(?:['’][^\W\d_]+)*", re.UNICODE)


def words_of(phrase: str) -> list[str]:
    """Returns the words of a phrase in small letters, without punctuation."""
    return [word.replace("’", "'").lower() for word in _WORD.findall(unicodedata.normalize("NFC", phrase))]


def from_ipa(ipa: str) -> list[str]:
    """Returns the phones of an IPA spelling; signs for stress and length alone, and unknown ones, are left out."""
    phones: list[str] = []
    at = 0
    while at < len(ipa):
        for length in range(_LONGEST, 0, -1):
            if (sign := ipa[at : at + length]) in IPA and len(sign) == length:
                phones += IPA[sign].split()
                at += length
                break
        else:
            at += 1
    return phones


def read_phones(text: str) -> list[str]:
    """Returns the phones of a written spelling. Raises ValueError: which one is unknown."""
    phones = [re.sub(r"\d$", "", one) for one in text.upper().split()]
    for phone in phones:
        if phone not in PHONES:
            raise ValueError(f"“{phone}” is no sound; there are {', '.join(sorted(PHONES))}")
    return phones


class Spelling(NamedTuple):
    """A phrase's phones; ``missing`` are the words that the dictionary lacks, whose phones aren't among them."""

    phones: list[str]
    missing: list[str]


def spelling(phrase: str, dictionary: Mapping[str, Sequence[str]]) -> Spelling:
    """Returns the phones of a phrase by a dictionary of words."""
    words = words_of(phrase)
    return Spelling(
        [phone for word in words for phone in dictionary.get(word, ())],
        list(dict.fromkeys(word for word in words if word not in dictionary)),
    )


def difference(one: Sequence[str], other: Sequence[str]) -> float:
    """Returns in what share of their phones two phrases differ (Levenshtein, 1966), 0 to 1."""
    return Levenshtein.normalized_distance(one, other)


def problems(phrases: Mapping[str, Sequence[str]]) -> dict[str, str]:
    """Returns what is wrong with phrases, in words: too short, or too much like another one."""
    found: dict[str, str] = {}
    for phrase, phones in phrases.items():
        if len(phones) < FEWEST_PHONES:
            found[phrase] = "It is too short: it would be heard in ordinary talk. Add a word."
            continue
        for other, theirs in phrases.items():
            if other != phrase and len(theirs) >= FEWEST_PHONES and difference(phones, theirs) < ALIKE:
                found[phrase] = f"It sounds like “{other}”. Change one of them."
                break
    return found
