"""The demo as one process tree: no message may break it, and its output is read at the end."""

from __future__ import annotations

import os
from collections.abc import Iterator

import pytest

from cuejar.demo import outside
from cuejar.standins.halt import PASSWORD
from tests import copies
from tests.running import Running, until

EXAMPLES = int(os.environ.get("FUZZ", "20"))
"""How many requests for each operation, and messages for each socket."""
SEED = int(os.environ.get("FUZZ_SEED", "1"))


@pytest.fixture(scope="session")
def target(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Running]:
    made = Running(tmp_path_factory.mktemp("fuzz") / "data")
    log = made.data.parent / "demo.log"
    made.server = copies.start(["demo", "--port", str(made.port), "--data", str(made.data)], log)
    try:
        made.in_step()
        yield made
        unbroken(made)
        assert "Traceback" not in (said := log.read_text("utf-8")), said[said.index("Traceback") :][:6000]
    finally:
        made.stop()


def heal(made: Running) -> None:
    """Ends the stand-ins' misbehaviour, and anything that prevents being in step: a wrong password, lost packets."""
    made.api.put("/api/gear/broadcast/secret", json={"secret": PASSWORD}).raise_for_status()
    made.channel.post("/trouble", json={}).raise_for_status()
    made.standin("/keys/silent", {"silent": False})
    made.standin("/things/silent", {"silent": False})
    for panel in ("avatar", "voice", "haptics"):
        made.standin(f"/{panel}/loss", {"share": 0})
    made.book(gear=[row for row in outside.GEAR if row["id"] == "halt"])
    for reward in made.channel.get("/rewards").json():
        made.channel.delete(f"/rewards/{reward['id']}")


def unbroken(made: Running) -> None:
    """Checks that every task runs and never failed, the book can be read, and a redemption is fulfilled."""
    heal(made)
    health = made.api.get("/api/health").json()
    assert [(task["name"], task["problem"]) for task in health["tasks"] if task["falls"]] == []
    until(lambda: any(r["id"] == "halt" and r["state"] == "in_step" for r in made.api.get("/api/gear").json()))
    made.api.get("/api/book").raise_for_status()
    house = {
        "id": "after",
        "name": "After all that",
        "entry": "overlap",
        "calls": [{"kind": "reward", "reward": "after"}],
    }
    made.api.put("/api/book/house", json={"value": {}}).raise_for_status()
    made.book(rewards=[{"id": "after", "title": "After all that", "cost": 1}])
    made.book(cues=[house | {"beats": [{"id": "c", "kind": "caption", "text": "mind the gap", "length": {"s": 0.1}}]}])
    until(lambda: any(r["title"] == "After all that" and r["on"] for r in made.channel.get("/rewards").json()))
    redemption = made.redeem("owlpost", "After all that")
    until(lambda: made.state_of(redemption) == "fulfilled")
