"""The JSON Schemas of the formats others rely on, generated from the models. `make types` writes them."""

from __future__ import annotations

import json
from typing import Any

from pydantic import TypeAdapter

from cuejar.core.book.book import Book
from cuejar.core.facts.happenings import BY_KIND
from cuejar.core.facts.script import ScriptForm
from cuejar.core.parts.base import JsonObject


def schemas() -> dict[str, JsonObject]:
    """Returns each format's schema by its file name."""
    book = Book.model_json_schema(by_alias=True)
    script = ScriptForm.model_json_schema(by_alias=True)
    happenings, definitions = [], JsonObject()
    for _, kind in sorted(BY_KIND.items()):
        one = TypeAdapter(kind).json_schema()
        definitions |= one.pop("$defs", {})
        happenings.append(one)
    return {
        "book.schema.json": {"$schema": "https://json-schema.org/draft/2020-12/schema", **_plain(book)},
        "script.schema.json": {"$schema": "https://json-schema.org/draft/2020-12/schema", **_plain(script)},
        "happenings.schema.json": {
            "$schema": "https://json-schema.org/draft/2020-12/schema",
            "oneOf": happenings,
            "$defs": dict(sorted(definitions.items())),
        },
    }


def _plain(schema: Any) -> Any:
    """Returns a schema without ``discriminator``, which belongs to OpenAPI: JSON Schema doesn't have it."""
    if isinstance(schema, dict):
        return {key: _plain(value) for key, value in schema.items() if key != "discriminator" or isinstance(value, str)}
    return [_plain(one) for one in schema] if isinstance(schema, list) else schema


def text(schema: JsonObject) -> str:
    return json.dumps(schema, ensure_ascii=False, indent=1) + "\n"
