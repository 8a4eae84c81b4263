"""Chance: dice are thrown or a drum spins, and other beats depend on the outcome."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from cuejar.core.kinds.base import SEEN, VISIBLE, Kind, Named, Resolving, StartingBeat, look_of
from cuejar.core.parts.base import Id, JsonObject, Length_s, Model, ms
from cuejar.core.parts.steps import Beat, Visible


class Outcome(Model):
    """One outcome of a chance beat. They are tested in order; the first match counts."""

    id: Id
    name: str = ""
    when: Literal["sum", "pair", "all_equal", "faces", "any"] = "any"
    is_: Literal["=", ">=", "<=", "in"] = Field("=", alias="is")
    number: int | None = None
    numbers: list[int] = []
    weight: Annotated[float, Field(ge=0, le=1_000_000)] = Field(1, description="for a drum: its share of the turn")

    @model_validator(mode="after")
    def _numbers_given(self) -> Outcome:
        if self.when == "sum" and self.is_ != "in" and self.number is None:
            raise ValueError("a sum is compared with a number: give number")
        if (self.when == "faces" or (self.when == "sum" and self.is_ == "in")) and not self.numbers:
            raise ValueError("give numbers")
        return self


class Dice(Model):
    count: Annotated[int, Field(ge=1, le=8)] = 2
    sides: Annotated[int, Field(ge=2, le=100)] = 6


class ChanceBeat(Beat, Visible):
    kind: Literal["chance"]
    dice: Dice | None = Field(None, description="without dice: a drum that spins to one outcome by weight")
    outcomes: Annotated[list[Outcome], Field(min_length=1)]
    spin_s: Length_s = 2

    @model_validator(mode="after")
    def _tellable(self) -> ChanceBeat:
        if len({o.id for o in self.outcomes}) != len(self.outcomes):
            raise ValueError("two outcomes have the same id")
        if self.dice is None and not any(o.weight > 0 for o in self.outcomes):
            raise ValueError("at least one outcome needs a weight")
        return self


def _resolve(r: Resolving, beat: StartingBeat, b: ChanceBeat) -> None:
    faces, outcome = r.roll(beat, b)
    beat.value = {"faces": faces, "outcome": outcome}


def _own_ms(b: ChanceBeat) -> int:
    return ms(b.spin_s)


def _look(b: ChanceBeat) -> JsonObject:
    return {
        **look_of(b),
        "dice": b.dice.model_dump() if b.dice else None,
        "outcomes": [{"id": o.id, "name": o.name or o.id, "weight": o.weight} for o in b.outcomes],
    }


def _tells(b: ChanceBeat, named: Named) -> str:
    return "rolls dice" if b.dice is not None else "spins the drum"


def _outcomes(b: ChanceBeat) -> list[Outcome]:
    return b.outcomes


KIND = Kind(
    ChanceBeat,
    "strike",
    "chance",
    _resolve,
    own_ms=_own_ms,
    look=_look,
    tells=_tells,
    noticed=SEEN,
    act="rolls",
    outcomes=_outcomes,
    harmless=f"{VISIBLE} dice outcomes spin_s",
    asked="",
)
