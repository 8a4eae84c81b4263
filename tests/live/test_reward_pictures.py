"""Pictures of rewards at the channel: given once, again whenever they change, in the sizes it wants."""

from __future__ import annotations

import io
from typing import Any

from PIL import Image

from tests.running import Running, until

TEAL = (0x2A, 0x9D, 0x8F)


def _half(left: str, right: str, side: int = 200) -> bytes:
    image = Image.new("RGB", (2 * side, side), left)
    image.paste(Image.new("RGB", (side, side), right), (side, 0))
    out = io.BytesIO()
    image.save(out, "PNG")
    return out.getvalue()


def _there(running: Running) -> dict[str, Any]:
    rows: list[dict[str, Any]] = running.channel.get("/rewards").json()
    return next((row for row in rows if row["title"] == "Tea"), {})


def _pixel(running: Running, side: str, at: tuple[float, float] = (0.5, 0.5)) -> tuple[int, ...]:
    """Returns a pixel of what viewers see."""
    answer = running.channel.get(_there(running)["pictures"][side].removeprefix("/channel"))
    image = Image.open(io.BytesIO(answer.content))
    assert image.size == (int(side), int(side))
    found = image.convert("RGB").getpixel((round(at[0] * (image.width - 1)), round(at[1] * (image.height - 1))))
    assert isinstance(found, tuple)
    return found


def test_a_picture_reaches_the_channel_and_follows(running: Running) -> None:
    media = running.add_file("halves.png", _half("#ff0000", "#0000ff"))
    tea: dict[str, Any] = {"id": "tea", "title": "Tea", "cost": 10, "colour": "#2a9d8f"}
    calls = [{"kind": "reward", "reward": "tea"}]
    running.book(rewards=[tea], cues=[{"id": "tea", "name": "Tea", "calls": calls, "beats": []}])
    until(lambda: _there(running)["colour"] == "#2a9d8f")
    assert "pictures" not in _there(running)

    right = {"media": media, "x": 1, "y": 0.5, "zoom": 2}
    running.book(rewards=[{**tea, "picture": right}])
    until(lambda: set(_there(running).get("pictures", {})) == {"48", "96", "192"})
    assert _pixel(running, "96") == (0, 0, 255)
    first = _there(running)["pictures"]
    ours = running.api.get("/api/rewards/tickets").json()["tickets"][0]["picture"]
    assert Image.open(io.BytesIO(running.api.get(ours).content)).size == (112, 112)
    assert running.api.get("/api/rewards/tea/picture?side=9").status_code == 422
    page = running.api.get("/api/playbill.html").text
    assert "data:image/png;base64," in page and "border-left-color: #2a9d8f" in page

    # Other changes don't send it again, nor does a start; a new square does.
    running.book(rewards=[{**tea, "cost": 20, "picture": right}])
    until(lambda: _there(running)["cost"] == 20)
    running.kill_server()
    running.start_server()
    running.in_step()
    assert _there(running)["pictures"] == first
    running.book(rewards=[{**tea, "picture": {"media": media, "x": 0}}])
    until(lambda: _there(running)["pictures"] != first)
    assert _pixel(running, "48") == (255, 0, 0)

    # Without one of its own: its cue's, in shades of its colour.
    beats = [{"id": "p", "kind": "picture", "media": {"file": media}}]
    before = _there(running)["pictures"]
    running.book(cues=[{"id": "tea", "name": "Tea", "calls": calls, "beats": beats}], rewards=[tea])
    until(lambda: _there(running)["pictures"] != before)
    shades = {_pixel(running, "192", (x, 0.5)) for x in (0.1, 0.9)}
    assert len(shades) == 2 and all(green >= red for red, green, _ in shades), shades
    running.book(cues=[{"id": "tea", "name": "Tea", "calls": calls, "beats": []}])
    until(lambda: "pictures" not in _there(running))

    # A colour that is changed by hand at the channel is the book's then.
    running.channel.patch(f"/hand/rewards/{_there(running)['id']}", json={"colour": "#aa1155"}).raise_for_status()
    until(lambda: running.now["rewards"][0].get("colour") == "#aa1155")


def test_a_refused_picture_is_not_sent_for_ever(running: Running) -> None:
    media = running.add_file("halves.png", _half("#ff0000", "#0000ff"))
    running.channel.post("/can", json={"pictures": [32]}).raise_for_status()
    running.book(rewards=[{"id": "tea", "title": "Tea", "cost": 10, "picture": {"media": media}}])
    until(lambda: _there(running))
    said = until(lambda: [log for log in running.api.get("/api/wires").json().values() if "it was refused" in str(log)])
    assert "Pictures come in the sides 32" in str(said)
    assert running.api.get("/api/health").json()["channel"] == "in_step"
