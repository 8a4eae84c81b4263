"""Any HTTP request: no 500, an answer as documented, and words for every refusal."""

from __future__ import annotations

from typing import Any

import pytest
import schemathesis
from hypothesis import HealthCheck, given, settings
from hypothesis import seed as seeded
from schemathesis import Case, GenerationMode
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import content_type_conformance, response_schema_conformance

from cuejar.api.app import create_app
from cuejar.core.book.book import LISTS
from cuejar.standins.app import standins
from tests.fuzz.conftest import EXAMPLES, SEED
from tests.running import PATIENCE_S, Running

CHECKS = [not_a_server_error, content_type_conformance, response_schema_conformance]
KNOWN: dict[str, list[str]] = {
    "kind": [*LISTS, "counters"],
    "thing": ["steam-whistle", "posters", "lamps", "whistle", "parcel-office", "yard", "express", "clerk", "house-rules", "bench-night"],
    "cue_id": ["steam-whistle", "dice"],
    "cue": ["steam-whistle", "level-crossing", "ask"],
    "jar_id": ["posters"],
    "gear_id": ["broadcast", "lamps", "avatar", "coat", "keys"],
    "look_id": ["bench-night"],
    "inlet_id": ["parcel-office"],
    "pattern_id": ["express"],
    "list_id": ["house-rules"],
    "overlay_id": ["stream"],
    "reward_id": ["whistle"],
    "what": ["scene", "source"],
}  # fmt: skip
ADDRESSES = [
    "",
    "ws://127.0.0.1:1",
    "osc://127.0.0.1:1",
    "sacn://127.0.0.1:1",
    "http://127.0.0.1:1/x",
    "nonsense",
    "ws://[",
    "keyboard:",
]


API = schemathesis.openapi.from_dict(create_app(None, 0).openapi())
STANDINS = schemathesis.openapi.from_dict(standins(0, None).openapi())


def here_only(case: Case) -> None:
    """Uses existing ids about half of the time; and looks for gear on this machine alone."""
    for name, value in (case.path_parameters or {}).items():
        known = KNOWN.get(name)
        if known and len(str(value)) % 2 == 0:
            case.path_parameters[name] = known[len(str(value)) // 2 % len(known)]
    value = case.body.get("value") if isinstance(case.body, dict) else None
    if isinstance(value, dict) and isinstance(value.get("address"), str):
        value["address"] = ADDRESSES[len(value["address"]) % len(ADDRESSES)]


def operations(schema: Any) -> list[Any]:
    """Returns every operation of a schema, as a test's parameter."""
    found = [result.ok() for result in schema.get_all_operations()]
    return [pytest.param(one, id=f"{one.method.upper()} {one.path}") for one in found]


def asked(operation: Any, base_url: str) -> None:
    @seeded(SEED)
    @settings(max_examples=EXAMPLES, deadline=None, suppress_health_check=list(HealthCheck), database=None)
    @given(operation.as_strategy() | operation.as_strategy(generation_mode=GenerationMode.NEGATIVE))
    def ask(case: Case) -> None:
        here_only(case)
        answer = case.call(base_url=base_url, timeout=PATIENCE_S)
        case.validate_response(answer, checks=CHECKS)
        if answer.status_code >= 400:
            assert answer.json()["what"], "a refusal says what is wrong"

    ask()


@pytest.mark.parametrize("operation", operations(API))
def test_the_api(operation: Any, target: Running) -> None:
    asked(operation, f"http://127.0.0.1:{target.port}")


@pytest.mark.parametrize("operation", operations(STANDINS))
def test_the_stand_ins(operation: Any, target: Running) -> None:
    asked(operation, f"http://127.0.0.1:{target.port + 10}")
