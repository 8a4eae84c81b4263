"""The JSON Schemas of the formats others rely on, generated from the models. `make types` writes them."""

from __future__ import annotations

import json

from pydantic import TypeAdapter

from cuejar.core.book.book import Book
from cuejar.core.facts.happenings import BY_KIND
from cuejar.core.facts.script import ScriptForm
from cuejar.core.parts.base import JsonObject


def schemas() -> dict[str, JsonObject]:
    """Each format's schema by its file name."""
    book = Book.model_json_schema(by_alias=True)
    script = ScriptForm.model_json_schema(by_alias=True)
    happenings = {kind: TypeAdapter(cls).json_schema() for kind, cls in sorted(BY_KIND.items())}
    return {
        "book.schema.json": {"$schema": "https://json-schema.org/draft/2020-12/schema", **book},
        "script.schema.json": {"$schema": "https://json-schema.org/draft/2020-12/schema", **script},
        "happenings.schema.json": {
            "$schema": "https://json-schema.org/draft/2020-12/schema",
            "oneOf": list(happenings.values()),
        },
    }


def text(schema: JsonObject) -> str:
    return json.dumps(schema, ensure_ascii=False, indent=1) + "\n"
