"""The gate: anything from outside is made valid once, before anything else sees it.

text      no lone surrogates, no NUL, in NFC, then cut to its limit
numbers   finite, and of a size that everything else can hold
JSON      not too deep, not too long, all of its texts and numbers as above

What can't be made valid is refused with words. Applying the gate twice is the same as once.
"""

from __future__ import annotations

import math
import re
import unicodedata
from collections.abc import Mapping
from typing import Annotated, Any

from pydantic import AfterValidator, BeforeValidator, Field, StrictBool

MOST_TEXT, MOST_NAME, MOST_ID, MOST_VALUE = 10_000, 200, 200, 1_000
MOST_NUMBER = 1e9
MOST_WHOLE = 2**53
"""The largest whole number that JSON carries everywhere (RFC 8259, 6)."""
MOST_DEPTH, MOST_PARTS = 16, 5_000
_UNSOUND = re.compile("[\x00\ud800-\udfff]")


def sound_text(text: str, most: int = MOST_TEXT) -> str:
    """Returns the text in NFC, without characters that can't be written, cut to a maximum length."""
    if len(text) <= most and text.isascii() and "\x00" not in text:
        return text
    kept = _UNSOUND.sub("", text[: 4 * most])
    return unicodedata.normalize("NFC", kept)[:most].rstrip("\u200d")


def sound_number(value: float) -> float:
    """Returns the number. Raises ValueError: it isn't finite, or too large."""
    if isinstance(value, int):
        if abs(value) > MOST_WHOLE:
            raise ValueError(f"must be from -{MOST_WHOLE} to {MOST_WHOLE}")
    elif not math.isfinite(value) or abs(value) > MOST_WHOLE:
        raise ValueError("must be a finite number")
    return value


def sound_json(
    data: object,
    most_parts: int = MOST_PARTS,
    most_depth: int = MOST_DEPTH,
    longer: Mapping[str, int] | None = None,
) -> object:
    """Returns JSON data made valid, part by part.

    Args:
        longer: fields whose texts may be longer than others, and how long.

    Raises:
        ValueError: it is too deep, too long, or holds a number that isn't finite.
    """
    left = most_parts

    def part(value: object, depth: int) -> object:
        nonlocal left
        left -= 1
        if left < 0:
            raise ValueError(f"has more than {most_parts:,} parts")
        if depth > most_depth:
            raise ValueError(f"is more than {most_depth} deep")
        if isinstance(value, str):
            return sound_text(value)
        if isinstance(value, bool) or value is None:
            return value
        if isinstance(value, (int, float)):
            return sound_number(value)
        if isinstance(value, dict):
            return {
                sound_text(str(key), MOST_NAME): sound_text(one, longer[key])
                if longer is not None and key in longer and isinstance(one, str)
                else part(one, depth + 1)
                for key, one in value.items()
            }
        if isinstance(value, (list, tuple)):
            return [part(one, depth + 1) for one in value]
        raise ValueError(f"“{type(value).__name__}” isn’t JSON")

    return part(data, 0)


def sound_value(value: object) -> bool | int | float | str | None:
    """Returns the value of a property: true or false, a number, a text of at most `MOST_VALUE`, or nothing. Raises
    ValueError.
    """
    if isinstance(value, str):
        return sound_text(value, MOST_VALUE)
    if value is None or isinstance(value, bool):
        return value
    if isinstance(value, (int, float)):
        if not math.isfinite(value) or abs(value) > MOST_NUMBER:
            raise ValueError(f"must be a number from -{MOST_NUMBER:g} to {MOST_NUMBER:g}")
        return value
    raise ValueError("must be true or false, a number, or text")


def is_sound(value: object) -> bool:
    try:
        sound_value(value)
    except ValueError:
        return False
    return True


def _text_of(most: int) -> BeforeValidator:
    return BeforeValidator(lambda value: sound_text(value, most) if isinstance(value, str) else value)


Key = Annotated[str, _text_of(MOST_ID + 1), Field(min_length=1, max_length=MOST_ID)]
"""An id or a path: refused if it is too long, as a cut one would be another."""
ShortText = Annotated[str, _text_of(MOST_NAME)]
Text = Annotated[str, _text_of(MOST_TEXT)]
Count = Annotated[int, Field(ge=0, le=10**9)]
Amount = Annotated[float, Field(ge=0, le=MOST_NUMBER, allow_inf_nan=False)]
Value = Annotated[StrictBool | int | float | str, BeforeValidator(sound_value)]
"""The value of a property."""
Tier = Annotated[int, Field(ge=0, le=100)]
Json = Annotated[Any, AfterValidator(lambda data: sound_json(data))]
"""JSON from outside."""
Version = Annotated[int, Field(ge=0, le=MOST_WHOLE)]
