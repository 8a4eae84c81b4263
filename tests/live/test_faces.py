"""Viewers' pictures: fetched from their channel alone, made safe, shown where the house says so, and forgotten."""

from __future__ import annotations

import base64
import io
import json
from typing import Any

from PIL import Image
from websockets.sync.client import connect

from tests.running import PATIENCE_S, Running, until

GREETS = {
    "id": "hello", "name": "Hello", "entry": "overlap", "calls": [{"kind": "chat", "match": "is", "text": "!hello"}],
    "beats": [{"id": "face", "kind": "picture", "media": {"face": "viewer"}, "length": {"s": 60}}],
}  # fmt: skip


def _picture(side: int = 900, colour: str = "#2a9d8f", form: str = "PNG", **more: Any) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (side, side // 2), colour).save(out, form, **more)
    return out.getvalue()


def _data(content: bytes) -> str:
    return f"data:image/png;base64,{base64.b64encode(content).decode()}"


def _says(running: Running, number: str, viewer: str, picture: object) -> None:
    who = {"id": viewer, "name": viewer.replace("-", " "), "picture": picture}
    event = {"specversion": "1.0", "id": number, "source": "/channel", "type": "cuejar.channel.chat"}
    text = json.dumps({**event, "data": {"viewer": who, "text": "!hello"}})
    running.channel.post("/raw", json={"text": text}).raise_for_status()


def _face(running: Running, viewer: str) -> tuple[str, bytes]:
    answer = running.api.get(f"/faces/{viewer}")
    answer.raise_for_status()
    assert answer.headers["cache-control"] == "private, no-cache"
    return answer.headers["content-type"], answer.content


def _has(running: Running, viewer: str) -> bool:
    return _face(running, viewer)[0] == "image/webp"


def _lines(running: Running) -> int:
    return len(running.api.get("/api/ledger").json()["lines"])


def test_a_picture_is_fetched_shown_and_forgotten(running: Running) -> None:
    running.book(cues=[GREETS], house={"faces": True})
    running.channel.post("/chat", json={"viewer": "owlpost", "text": "!hello"}).raise_for_status()
    until(lambda: _has(running, "v-owl"))
    image = Image.open(io.BytesIO(_face(running, "v-owl")[1]))
    assert (image.format, image.size, getattr(image, "n_frames", 1)) == ("WEBP", (256, 256), 1)
    with connect(running.overlay_feed(), proxy=None) as feed:
        whole = json.loads(feed.recv(timeout=PATIENCE_S))
    assert [(row["value"], row["media"][0]["url"]) for row in whole["up"]] == [("face/v-owl", "/faces/v-owl")]
    kept = list((running.data / "faces").glob("*.webp"))
    assert len(kept) == 1 and "owl" not in kept[0].name

    running.kill_server()
    running.start_server()
    assert _has(running, "v-owl"), "a start doesn't lose it"
    running.api.post("/api/viewers/forget", json={"viewer": "v-owl"}).raise_for_status()
    assert not _has(running, "v-owl") and not list((running.data / "faces").glob("*.webp"))

    running.channel.post("/chat", json={"viewer": "puddlejump", "text": "!hello"}).raise_for_status()
    until(lambda: _has(running, "v-puddle"))
    running.book(cues=[GREETS], house={"faces": False})
    kind, letters = _face(running, "v-puddle")
    assert kind == "image/svg+xml" and b">P<" in letters
    assert not list((running.data / "faces").iterdir()), "off, none is kept"


def test_odd_pictures_cost_nothing_but_themselves(running: Running) -> None:
    running.book(cues=[GREETS], house={"faces": True})
    spinning = io.BytesIO()
    first, *others = [Image.new("RGB", (40, 40), colour) for colour in ("#ff0000", "#00ff00", "#0000ff")]
    first.save(spinning, "GIF", save_all=True, append_images=others, duration=20, loop=0)
    odd: list[object] = [
        f"http://127.0.0.1:{running.port}/api/token",
        "//127.0.0.1:1/x.png",
        "http://[::1",
        "file:///etc/hostname",
        "../../channel/stream",
        "data:image/png;base64,????",
        _data(b"<svg xmlns='http://www.w3.org/2000/svg'/>"),
        _data(_picture()[:200]),
        "data:text/html," + "x" * 500_000,
        {"not": "text"},
        None,
        "\ud800",
        "x" * 5_000,
    ]
    for number, picture in enumerate(odd):
        _says(running, f"odd-{number}", f"odd-{number}", picture)
    _says(running, "big", "big-one", _data(_picture()))
    _says(running, "moves", "moving-one", _data(spinning.getvalue()))
    until(lambda: _lines(running) == len(odd) + 2)
    until(lambda: _has(running, "big-one") and _has(running, "moving-one"))
    assert Image.open(io.BytesIO(_face(running, "big-one")[1])).size == (450, 450), "cut square"
    still = Image.open(io.BytesIO(_face(running, "moving-one")[1]))
    assert getattr(still, "n_frames", 1) == 1 and still.convert("RGB").getpixel((9, 9))[0] > 200  # type: ignore[index]
    for number in range(len(odd)):
        assert _face(running, f"odd-{number}")[0] == "image/svg+xml"
    assert running.api.get("/api/health").json()["ok"]
