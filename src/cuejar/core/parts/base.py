"""What every model of the book shares: strictness, short ids, seconds, and errors that say where.

People and other programs write the book. Unknown keys, invalid numbers and names of missing things are refused with
their path: ``cues[2].door.cooldown_s: …``.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from typing import Annotated, Any, Literal, Self, TypeVar

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, ValidationError


class Model(BaseModel):
    """A part of the book: immutable, no unknown keys, no NaN or infinity."""

    model_config = ConfigDict(
        extra="forbid",
        frozen=True,
        allow_inf_nan=False,
        populate_by_name=True,
        json_schema_serialization_defaults_required=True,
    )

    def __deepcopy__(self, memo: dict[int, Any] | None = None) -> Self:
        """Returns itself, as nothing in it ever changes. (Pydantic copies a default for every entry that leaves it
        out.)
        """
        return self

    def __eq__(self, other: object) -> bool:
        return self is other or super().__eq__(other)


def _thousandths(value: float) -> float:
    return round(value, 3)


JsonObject = dict[str, Any]
"""A JSON object that one piece of code writes and reads: a snapshot, the book as JSON, a look. Its shape is defined
there.
"""

JsonRow = list[Any]
"""A JSON array whose positions have different meanings."""

DAY_S = 86_400
Role = Literal["everyone", "follower", "member", "vip", "moderator", "streamer"]
Id = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9_-]{0,63}$")]
"""A short slug: lower-case letters, digits, hyphens."""
Name = Annotated[str, Field(min_length=1, max_length=200)]
Seconds = Annotated[float, Field(ge=0, le=DAY_S), AfterValidator(_thousandths)]
"""Decimal seconds, three places, 0 to a day."""
Length_s = Annotated[float, Field(ge=0.001, le=DAY_S), AfterValidator(_thousandths)]
"""A length: never zero."""
Offset = Annotated[float, Field(ge=-DAY_S, le=DAY_S), AfterValidator(_thousandths)]
Share = Annotated[float, Field(ge=0, le=1)]


def ms(seconds: float) -> int:
    """Returns decimal seconds as whole milliseconds."""
    return round(seconds * 1000)


@dataclass(frozen=True)
class Problem:
    """One problem in a piece of input: where it is, and what is wrong in the user's words."""

    path: str
    what: str

    def __str__(self) -> str:
        return f"{self.path}: {self.what}" if self.path else self.what


class BookError(ValueError):
    """An invalid book, script or part of one. ``problems`` has every reason with its path."""

    def __init__(self, problems: Sequence[Problem]) -> None:
        self.problems = tuple(problems)
        super().__init__("; ".join(str(problem) for problem in self.problems))

    def __reduce__(self) -> tuple[type[BookError], tuple[tuple[Problem, ...]]]:
        return BookError, (self.problems,)


def path_of(location: Iterable[int | str]) -> str:
    """Returns ``("cues", 2, "door")`` as ``cues[2].door``."""
    path = ""
    for step in location:
        path += f"[{step}]" if isinstance(step, int) else (f".{step}" if path else str(step))
    return path


_PLAIN = {
    "extra_forbidden": "there is no such key",
    "missing": "is needed",
    "string_type": "must be text",
    "bool_type": "must be true or false",
    "bool_parsing": "must be true or false",
    "int_type": "must be a whole number",
    "int_parsing": "must be a whole number",
    "int_from_float": "must be a whole number",
    "float_type": "must be a number",
    "float_parsing": "must be a number",
    "finite_number": "must be a finite number",
    "list_type": "must be a list",
    "model_type": "must be an object",
    "dict_type": "must be an object",
    "model_attributes_type": "must be an object",
    "dataclass_type": "must be an object",
    "json_invalid": "is not JSON",
}


UNION_LISTS, UNION_FIELDS = frozenset({"beats", "calls"}), frozenset({"length", "media", "text", "colour", "cue"})
"""Places with one of several models: in these lists, and at these keys. Pydantic follows them with the model's tag."""


def _without_tags(location: tuple[int | str, ...], tags: frozenset[str]) -> list[int | str]:
    """Returns a path without the names of union branches; a key of the same name stays."""
    kept: list[int | str] = []
    was_tag = False
    for i, step in enumerate(location):
        before = location[i - 1] if i else ""
        in_list = isinstance(before, int) and i > 1 and location[i - 2] in UNION_LISTS
        was_tag = step in tags and not was_tag and (in_list or before in UNION_FIELDS)
        if not was_tag:
            kept.append(step)
    return kept


def plain_problems(error: ValidationError, tags: frozenset[str] = frozenset()) -> list[Problem]:
    """Returns pydantic's errors in plain words. Names of union branches (``tags``) are left out of the path."""
    problems = []
    for item in error.errors(include_url=False):
        kind, context = item["type"], item.get("ctx", {})
        location = _without_tags(item["loc"], tags)
        if kind in _PLAIN:
            what = _PLAIN[kind]
        elif kind == "string_pattern_mismatch":
            what = f"“{item['input']}” must be a short id: lower-case letters, digits and hyphens"
        elif kind == "literal_error":
            what = f"“{item['input']}” must be one of {context['expected']}"
        elif kind in ("greater_than_equal", "less_than_equal"):
            bound = context.get("ge", context.get("le"))
            what = f"{item['input']} must be {'at least' if 'ge' in context else 'at most'} {bound}"
        elif kind == "too_long":
            what = f"holds more than {context['max_length']:,} entries"
        elif kind in ("union_tag_invalid", "union_tag_not_found"):
            what = f"must be one of {context['expected_tags']}" if "expected_tags" in context else "has no kind"
        elif kind == "value_error":
            what = str(context["error"])
        else:
            what = item["msg"]
        problems.append(Problem(path_of(location), what))
    return problems


M = TypeVar("M", bound=BaseModel)


def parsed(model: type[M], data: object, tags: frozenset[str] = frozenset()) -> M:
    """Returns ``model.model_validate(data)``, with a `BookError` in plain words instead of pydantic's."""
    try:
        return model.model_validate(data)
    except ValidationError as error:
        raise BookError(plain_problems(error, tags)) from error


Random = Callable[[], float]
"""A stream of random numbers, uniform in [0, 1)."""
