"""The docs match the code: reasons, entries, beat kinds, words, formats."""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from pathlib import Path
from typing import Any, get_args

import jsonschema
import pytest
from openapi_spec_validator import OpenAPIV31SpecValidator
from pydantic import TypeAdapter

from cuejar.api.app import create_app
from cuejar.core.book.book import Entry
from cuejar.core.book.formats import schemas, text
from cuejar.core.kinds.table import KINDS, AnyBeat
from cuejar.core.rules.door import CHECKS, REASONS
from cuejar.core.rules.holds import Holds
from cuejar.core.rules.rig import reunited
from cuejar.live.drivers.things_wire import tables
from cuejar.wires.asked import openapi

HOME = Path(__file__).parents[1]
DOCS = HOME / "docs"


def test_every_reason_and_entry_is_documented() -> None:
    rules = (DOCS / "reference" / "rules.md").read_text("utf-8")
    assert [reason for reason in REASONS if f"`{reason}`" not in rules] == []
    assert [entry for entry in get_args(Entry) if f"| {entry} |" not in rules] == []
    table = rules[rules.index("| check | reason when it fails |") :].split("\n\n")[0]
    assert re.findall(r"`(\w+)`", table) == [reason for check in CHECKS.values() for reason in check.reasons]
    spared = {name for name, check in CHECKS.items() if check.spares}
    assert spared == {"cap_stream", "cap_viewer", "cap_window", "cooldown_viewer", "cooldown"}, (
        "as docs/reference/rules.md says"
    )
    assert {name for name, check in CHECKS.items() if check.pads} == {"house", "cue", "lane"}, (
        "as docs/reference/rules.md says"
    )


WORKED = re.findall(r"```json\n(.*?)```", (DOCS / "reference" / "wires" / "restarts.md").read_text("utf-8"), re.DOTALL)


@pytest.mark.parametrize("worked", WORKED)
def test_a_restart_ends_as_it_is_worked_out(worked: str) -> None:
    case = json.loads(worked)
    setting = {"id": "angle", "type": "number", **case["says"]}
    told = tables("yard", {"things": [{"id": "vane", "settings": [setting]}]}, lambda message, why: None)
    (path,) = told.found
    holds = Holds()
    knew = case["knew"]
    kept = holds.property(path)
    kept.rest, kept.heard = knew["rest"], (knew["boot"], knew["hand"])
    meant = reunited(told.found, case["boot"], holds)
    rest = {**{path: knew["rest"]}, **meant.rest, **meant.hands}
    assert rest == {path: case["rest"]}


def test_the_restarts_are_worked_out() -> None:
    assert len(WORKED) == 5


def test_every_kind_of_beat_is_documented() -> None:
    beats = (DOCS / "reference" / "beats.md").read_text("utf-8")
    assert [kind for kind in KINDS if f"| `{kind}` |" not in beats] == []
    assert [f"{k} {row.way}" for k, row in KINDS.items() if f"| `{k}` | {row.way} |" not in beats] == []


@pytest.mark.parametrize("told", [create_app(None, 8700).openapi, openapi], ids=["ours", "the channel's"])
def test_an_independent_validator_takes_what_is_told_of_http(told: Callable[[], dict[str, Any]]) -> None:
    whole = json.loads(json.dumps(told()))
    assert [error.message for error in OpenAPIV31SpecValidator(whole).iter_errors()] == []
    operations = [one for path in whole["paths"].values() for one in path.values()]
    names = [one["operationId"] for one in operations]
    assert len(set(names)) == len(names) and not [name for name in whole["components"]["schemas"] if "__" in name]
    assert [one["operationId"] for one in operations if not (one.get("summary") and one.get("description"))] == []
    parameters = [parameter for one in operations for parameter in one.get("parameters", [])]
    assert [
        one["name"] for one in parameters if not one.get("description") and "description" not in one["schema"]
    ] == []
    assert whole["servers"] and all("security" in one or "security" in whole for one in operations)
    schemes = whole["components"]["securitySchemes"]
    assert {name for one in operations for way in one.get("security", []) for name in way} == set(schemes)


@pytest.mark.parametrize("name", sorted(schemas()))
def test_the_shipped_schema_is_the_models(name: str) -> None:
    assert (DOCS / "reference" / "formats" / name).read_text("utf-8") == text(schemas()[name])


def test_the_examples_fit_the_schema() -> None:
    book, script = (jsonschema.Draft202012Validator(schemas()[f"{name}.schema.json"]) for name in ("book", "script"))
    for path in (DOCS / "reference" / "examples").glob("*.script.json"):
        data = json.loads(path.read_text("utf-8"))
        script.validate(data)
        book.validate(data["book"])


PAGES = [HOME / "README.md", HOME / "CONTRIBUTING.md", HOME / "CHANGELOG.md", *sorted(DOCS.rglob("*.md"))]
GUIDE = (
    "first-night",
    "cues",
    "rewards",
    "reading-aloud",
    "gear",
    "pads",
    "safety",
    "rehearsing",
    "moving-house",
    "trouble",
)


def anchors(page: Path) -> set[str]:
    headings = re.findall(r"^#+ (.+)$", page.read_text("utf-8"), re.MULTILINE)
    return {re.sub(r"[^\w -]", "", heading.lower()).replace(" ", "-") for heading in headings}


@pytest.mark.parametrize("page", PAGES, ids=lambda page: str(page.relative_to(HOME)))
def test_every_link_of_a_page_leads_somewhere(page: Path) -> None:
    links = re.findall(r"\]\(([^)\s]+)\)", page.read_text("utf-8"))
    for path, _, anchor in (link.partition("#") for link in links if "://" not in link):
        target = (page.parent / path).resolve() if path else page
        assert target.exists(), path
        assert not anchor or target.suffix != ".md" or anchor in anchors(target), f"{path}#{anchor}"


def test_the_guide_has_its_ten_pages_each_with_its_purpose_first() -> None:
    assert {page.stem for page in (DOCS / "guide").glob("*.md")} == set(GUIDE)
    for name in GUIDE:
        title, _, purpose = (DOCS / "guide" / f"{name}.md").read_text("utf-8").split("\n")[:3]
        assert title.startswith("# ") and purpose and purpose[0] not in "#|!`", name


JSON = [
    (page, block)
    for page in sorted(DOCS.rglob("*.md"))
    for block in re.findall(r"^```json\n(.*?)^```", page.read_text("utf-8"), re.MULTILINE | re.DOTALL)
]


@pytest.mark.parametrize(("page", "block"), JSON, ids=lambda one: one.stem if isinstance(one, Path) else "")
def test_the_json_of_the_docs_is_read(page: Path, block: str) -> None:
    """Beats as cues have them, and the JSON of the wires."""
    data = json.loads(block)
    if page.name == "beats.md":
        assert TypeAdapter(AnyBeat).validate_python(data).kind == data["kind"]
