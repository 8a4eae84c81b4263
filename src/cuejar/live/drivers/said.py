"""Messages from the other side of a wire: read by a model or ignored. Unknown fields are ignored."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Any, TypeVar

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from cuejar.core.facts.gate import sound_json
from cuejar.core.parts.base import plain_problems

Version = Annotated[int, Field(ge=1, le=1_000)]
"""The version of a wire, as a side says it in its hello; one without any speaks 1."""


MOST_PICTURE = 300_000
"""Maximum characters of a picture within a message."""
LONGER = {"picture": MOST_PICTURE}


class Said(BaseModel):
    """A message, or a part of one. Its checks are built when it is first used, or in the background before."""

    model_config = ConfigDict(extra="ignore", allow_inf_nan=False, defer_build=True)


class Unreadable(Exception):
    """An unreadable message, and why."""

    def __init__(self, message: Any, why: str) -> None:
        self.message = message
        super().__init__(why)


T = TypeVar("T", bound=Said)


def read(model: type[T], data: Any, whole: Any = None, sound: bool = False) -> T:
    """Returns ``data`` as a model.

    Args:
        whole: the message that ``data`` is a part of.
        sound: ``data`` already went through the gate with that message.

    Raises:
        Unreadable: about the whole message.
    """
    try:
        return model.model_validate(data if sound else sound_json(data, longer=LONGER))
    except ValidationError as error:
        why = "; ".join(str(problem) for problem in plain_problems(error))
        raise Unreadable(data if whole is None else whole, why) from error
    except (ValueError, RecursionError) as error:
        raise Unreadable(data if whole is None else whole, f"it {error}") from error


def readable(model: type[T], listed: list[Any], odd: Callable[[Any, str], object]) -> list[T]:
    """Returns the readable rows of a list; each other one is passed to ``odd`` with the reason, and skipped."""
    kept: list[T] = []
    for row in listed:
        try:
            kept.append(read(model, row))
        except Unreadable as error:
            odd(error.message, str(error))
    return kept
