"""The outer form of a night's script file."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from cuejar.core.facts.happenings import MediaFacts, PropertyValue
from cuejar.core.parts.base import JsonObject, Model

FORMAT = "cue-jar-script"


class ScriptForm(Model):
    """The outer form of a script; book and happenings are checked by their own readers."""

    format: Literal["cue-jar-script"]
    version: Literal[1]
    seed: int = 0
    book: JsonObject
    rest: dict[str, PropertyValue] = {}
    media: dict[str, MediaFacts] | None = None
    sources: dict[str, list[str]] = {}
    happenings: list[JsonObject] = []
    until: Annotated[float, Field(ge=0, le=10_000_000)] | None = None
    state: JsonObject | None = Field(None, description="the whole state of the show before it, as saved with a night")
    begins: Annotated[int, Field(ge=0)] = Field(0, description="with a state: its instant by that show's clock (ms)")
