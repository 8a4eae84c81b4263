"""The docs say what the code does: reasons, entries, beat kinds, words, formats."""

from __future__ import annotations

import json
import re
from pathlib import Path
from typing import get_args

import jsonschema
import pytest

from cuejar.core.book.book import Entry
from cuejar.core.book.formats import schemas, text
from cuejar.core.kinds.table import KINDS
from cuejar.core.rules.door import CHECKS, REASONS

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


@pytest.mark.parametrize("name", sorted(schemas()))
def test_the_shipped_schema_is_the_models(name: str) -> None:
    assert (DOCS / "formats" / name).read_text("utf-8") == text(schemas()[name])


def test_the_examples_fit_the_schema() -> None:
    book, script = schemas()["book.schema.json"], schemas()["script.schema.json"]
    for path in (DOCS / "examples").glob("*.script.json"):
        data = json.loads(path.read_text("utf-8"))
        jsonschema.validate(data, script)
        jsonschema.validate(data["book"], book)
