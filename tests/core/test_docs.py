"""The docs say what the code does: reasons, entries, beat kinds, words, formats."""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from pathlib import Path
from typing import Any, get_args

import jsonschema
import pytest
from openapi_spec_validator import OpenAPIV31SpecValidator

from cuejar.api.app import create_app
from cuejar.core.book.book import Entry
from cuejar.core.book.formats import schemas, text
from cuejar.core.kinds.table import KINDS
from cuejar.core.rules.door import CHECKS, REASONS
from cuejar.wires.asked import openapi

DOCS = Path(__file__).parents[2] / "docs"


def test_every_reason_and_entry_is_documented() -> None:
    rules = (DOCS / "rules.md").read_text("utf-8")
    assert [reason for reason in REASONS if f"`{reason}`" not in rules] == []
    assert [entry for entry in get_args(Entry) if f"| {entry} |" not in rules] == []
    table = rules[rules.index("| check | reason when it fails |") :].split("\n\n")[0]
    assert re.findall(r"`(\w+)`", table) == [reason for check in CHECKS.values() for reason in check.reasons]
    spared = {name for name, check in CHECKS.items() if check.spares}
    assert spared == {"cap_stream", "cap_viewer", "cap_window", "cooldown_viewer", "cooldown"}, "as docs/rules.md says"
    assert {name for name, check in CHECKS.items() if check.pads} == {"house", "cue", "lane"}, "as docs/rules.md says"


def test_every_kind_of_beat_is_documented() -> None:
    beats = (DOCS / "beats.md").read_text("utf-8")
    assert [kind for kind in KINDS if f"| `{kind}` |" not in beats] == []
    assert [f"{k} {row.way}" for k, row in KINDS.items() if f"| `{k}` | {row.way} |" not in beats] == []


@pytest.mark.parametrize("told", [create_app(None, 8700).openapi, openapi], ids=["ours", "the channel's"])
def test_an_independent_validator_takes_what_is_told_of_http(told: Callable[[], dict[str, Any]]) -> None:
    whole = json.loads(json.dumps(told()))
    assert [error.message for error in OpenAPIV31SpecValidator(whole).iter_errors()] == []
    operations = [one for path in whole["paths"].values() for one in path.values()]
    names = [one["operationId"] for one in operations]
    assert len(set(names)) == len(names) and not [name for name in whole["components"]["schemas"] if "__" in name]
    assert whole["servers"] and all("security" in one or "security" in whole for one in operations)
    schemes = whole["components"]["securitySchemes"]
    assert {name for one in operations for way in one.get("security", []) for name in way} == set(schemes)


@pytest.mark.parametrize("name", sorted(schemas()))
def test_the_shipped_schema_is_the_models(name: str) -> None:
    assert (DOCS / "formats" / name).read_text("utf-8") == text(schemas()[name])


def test_the_examples_fit_the_schema() -> None:
    book, script = schemas()["book.schema.json"], schemas()["script.schema.json"]
    for path in (DOCS / "examples").glob("*.script.json"):
        data = json.loads(path.read_text("utf-8"))
        jsonschema.validate(data, script)
        jsonschema.validate(data["book"], book)
