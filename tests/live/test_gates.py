"""Gates on the real server: repeats of signed hooks, hooks back to Cue Jar itself, browsers that do not say who asks."""

from __future__ import annotations

import base64
import hashlib
import hmac
import json
import time
from typing import Any

import httpx
import pytest

from tests.running import Running, until


def _signed(key: str, content: bytes, message: str, at: int | None = None) -> dict[str, str]:
    stamp = str(at or int(time.time()))
    signed = f"{message}.{stamp}.".encode() + content
    mac = hmac.new(base64.b64decode(key.removeprefix("whsec_")), signed, hashlib.sha256).digest()
    signature = "v1," + base64.b64encode(mac).decode()
    return {"webhook-id": message, "webhook-timestamp": stamp, "webhook-signature": signature}


def test_a_signed_hook_counts_once_however_it_comes_again(running: Running) -> None:
    running.book(inlets=[{"id": "office", "name": "Office", "per_min": 6_000}])
    count = {"id": "n", "kind": "count", "name": "parcels"}
    running.book(
        cues=[{"id": "parcel", "name": "Parcel", "calls": [{"kind": "hook", "name": "Office"}], "beats": [count]}]
    )
    key = running.api.post("/api/inlets/office/key").json()["key"]

    def send(content: bytes, proof: dict[str, str], **more: str) -> dict[str, Any]:
        answer = running.api.post("/api/in/office", content=content, headers={**proof, **more})
        assert answer.status_code == 202, answer.text
        told: dict[str, Any] = answer.json()
        return told

    event = {"specversion": "1.0", "id": "e", "source": "/office", "type": "parcel", "data": {}}
    one = json.dumps([event, {**event, "id": "f"}]).encode()
    proof = _signed(key, one, "msg_1")
    assert send(one, proof) == {"taken": True, "count": 1}

    def again(number: int) -> dict[str, Any]:
        """The same bytes under the same signature, called something else each time."""
        binary = {"ce-specversion": "1.0", "ce-id": f"x{number}", "ce-source": "/far", "ce-type": "t"}
        batch = {"content-type": "application/cloudevents-batch+json"}
        return send(one, proof, **(binary if number % 2 else batch))

    assert not any(again(number)["taken"] for number in range(20))
    # Others come between.
    bearer = {"authorization": f"Bearer {key}"}
    for number in range(50):
        send(b"{}", {**bearer, "webhook-id": f"other-{number}"})
    assert not again(21)["taken"]
    running.kill_server()
    running.start_server()
    assert not any(again(number)["taken"] for number in range(4)), "also by another process"
    lines = [line for line in running.api.get("/api/ledger?limit=200").json()["lines"] if line["cue"] == "parcel"]
    assert len([line for line in lines if "other" not in line["call"]]) == 1
    old = _signed(key, one, "msg_2", int(time.time()) - 900)
    assert running.api.post("/api/in/office", content=one, headers=old).status_code == 401


def test_a_hook_never_reaches_cue_jar_itself(running: Running) -> None:
    names = ["127.0.0.1", "localhost", "127.1.2.3", "[::1]", "[::ffff:127.0.0.1]", "0.0.0.0"]
    places = [{"host": name.strip("[]"), "private": True} for name in names]
    running.book(house={"hook_places": places})
    targets = {
        f"h{number}-{shift}": f"http://{name}:{running.port + shift}{path}"
        for number, name in enumerate(names)
        for shift, path in ((0, "/api/all-to-rest"), (5, "/"), (10, "/channel/chat"))
    }
    running.book(gear=[{"id": gear, "kind": "hook", "name": gear, "address": url} for gear, url in targets.items()])
    for gear in targets:
        answer = until(lambda gear=gear: running.api.post(f"/api/gear/{gear}/test", timeout=30))
        said = answer.json()
        assert not answer.is_success, (gear, said)
        assert "Cue Jar itself" in said["what"] or "not answer" in said["what"] or "not known" in said["what"], said
    refused = [running.api.post(f"/api/gear/{gear}/test").json()["what"] for gear in ("h0-0", "h1-0", "h2-0", "h0-10")]
    assert all("Cue Jar itself" in what for what in refused), refused


BROWSER = "Mozilla/5.0 (X11; Linux x86_64) Gecko/20100101 Firefox/68.0"


@pytest.mark.parametrize(
    ("headers", "status"),
    [
        ({}, 200),  # a program
        ({"origin": "own"}, 200),
        ({"sec-fetch-site": "same-origin"}, 200),
        ({"user-agent": BROWSER, "sec-fetch-site": "same-origin"}, 200),
        ({"user-agent": BROWSER}, 403),  # an old browser's form, from anywhere
        ({"sec-fetch-site": "cross-site", "sec-fetch-mode": "navigate"}, 403),
        ({"sec-fetch-site": "same-site", "sec-fetch-mode": "navigate"}, 403),
        ({"origin": "null"}, 403),
        ({"origin": "http://far.example"}, 403),
        ({"origin": "own", "sec-fetch-site": "cross-site"}, 403),
    ],
)
def test_a_change_comes_from_a_page_of_our_own_or_from_a_program(
    shared: Running, headers: dict[str, str], status: int
) -> None:
    own = {name: f"http://127.0.0.1:{shared.port}" if value == "own" else value for name, value in headers.items()}
    answer = httpx.post(f"http://127.0.0.1:{shared.port}/api/all-to-rest", headers=own, trust_env=False)
    assert answer.status_code == status, answer.text


@pytest.fixture(scope="module")
def shared(tmp_path_factory: pytest.TempPathFactory) -> Any:
    made = Running(tmp_path_factory.mktemp("gates") / "data")
    try:
        yield made.start()
    finally:
        made.stop()
