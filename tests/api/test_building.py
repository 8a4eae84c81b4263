"""Building: a private try does nothing outside, snags are found with their fixes, jars show their odds and import
files.
"""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from cuejar.core.book.files import book_from
from cuejar.core.facts.happenings import Catalogue, MediaFacts
from cuejar.core.measures.catalogue import Catalogues
from cuejar.core.measures.jarfiles import Entry, read_jar, write_jar
from cuejar.core.parts.base import BookError
from cuejar.core.snags.snags import snags
from cuejar.demo.make import FILES
from tests.running import Running

BEATS: dict[str, list[dict[str, Any]]] = {
    "lost_file": [{"id": "p", "kind": "picture", "media": {"file": "nowhere"}}],
    "empty_jar": [{"id": "p", "kind": "picture", "media": {"jar": "empty"}, "length": {"s": 2}}],
    "nothing_happens": [],
    "too_short": [{"id": "p", "kind": "caption", "text": "hi", "length": {"s": 0.1}}],
    "sound_outlasts_picture": [
        {"id": "p", "kind": "caption", "text": "hi", "length": {"s": 1}},
        {"id": "s", "kind": "sound", "media": {"file": "bell"}},
    ],
    "same_sound_twice": [{"id": "s", "kind": "sound", "media": {"file": "bell"}}],
    "text_not_asked": [{"id": "p", "kind": "caption", "text": "{{text}}", "length": {"s": 2}}],
    "lost_name": [
        {"id": "p", "kind": "scene", "scene": "Yardcam", "length": {"s": 2}},
    ],
    "nothing_seen": [
        {"id": "p", "kind": "source", "scene": "yard cam", "source": "Lamp", "length": {"s": 2}},
    ],
    "flashes": [{"id": "p", "kind": "picture", "media": {"file": "strobe"}, "length": {"s": 2}}],
    "no_call": [{"id": "p", "kind": "caption", "text": "hi", "length": {"s": 2}}],
    "": [
        {"id": "p", "kind": "caption", "text": "{{viewer}}", "length": "to_end"},
        {"id": "s", "kind": "sound", "media": {"file": "bell"}, "overlays": ["stream"]},
    ],
}


@pytest.mark.parametrize("check", BEATS)
def test_each_snag_is_found_where_it_is_and_nowhere_else(check: str) -> None:
    calls = [] if check == "no_call" else [{"kind": "follow"}]
    cue = {"id": "a", "name": "A", "calls": calls, "beats": BEATS[check]}
    book = book_from(
        {
            "cues": [cue],
            "jars": [{"id": "empty", "entries": [{"value": "bell", "on": False}]}],
            "media": [{"id": "bell", "name": "Bell"}, {"id": "strobe", "name": "Strobe"}],
            "overlays": [{"id": "stream", "name": "Stream"}, {"id": "second", "name": "Second"}],
        }
    )
    pages = {"stream": 1, "second": 1 if check == "same_sound_twice" else 0}
    library = {"bell": MediaFacts("sound", 2.2, 1), "strobe": MediaFacts("picture", 0.2, 0, flashes=True)}
    catalogues = Catalogues()
    catalogues.take(Catalogue("broadcaster", {"Yard cam": ("Lamp", "Snow"), "Tea table": ()}))
    rest: dict[str, Any] = {"broadcast/scene": "Tea table", "broadcast/source/Yard cam/Lamp/visible": True}
    found = snags(book, library, pages, catalogues, rest)
    assert [snag.check for snag in found] == [check] * bool(check)
    assert all(snag.what and snag.mend for snag in found)
    if check == "lost_name":
        assert (found[0].key, found[0].near) == ("scene", ("Yard cam",))


def test_a_try_here_reaches_nobody(running: Running) -> None:
    media = running.add_file("dusk.gif", (FILES / "poster-dusk.gif").read_bytes())
    outcomes = [{"id": "alike", "when": "all_equal"}, {"id": "other"}]
    after = {"after": "dice", "edge": "end"}
    beats = [
        {"id": "dice", "kind": "chance", "dice": {"count": 3}, "outcomes": outcomes, "spin_s": 1},
        {
            "id": "pic",
            "kind": "picture",
            "media": {"file": media},
            "length": {"loops": 2},
            "start": after,
            "only_if": [{"rolled": "alike"}],
        },
        {"id": "cam", "kind": "scene", "scene": "Yard cam", "length": {"s": 2}},
        {"id": "lost", "kind": "sound", "media": {"file": "nowhere"}},
    ]
    before = running.api.get("/api/book").json()["version"]
    body = {"value": {"id": "draft", "name": "Draft", "beats": beats}, "rolled": {"dice": "alike"}, "speed": 4}
    seen = running.api.post("/api/building/try", json=body).json()
    shows = {m["beat"]: (m["at"], m["until"]) for m in seen["messages"] if m["t"] == "show"}
    assert shows == {"dice": (0, 250), "pic": (250, 250 + 700)}
    faces = next(m["value"]["faces"] for m in seen["messages"] if m["beat"] == "dice")
    assert len(set(faces)) == 1
    assert seen["failed"] == ["lost: the file “nowhere” is missing"]
    assert [(r["path"], r["value"], r["at"], r["back_at"]) for r in seen["returns"]] == [
        ("broadcast/scene", "Yard cam", 0, 500)
    ]
    assert running.api.get("/api/book").json()["version"] == before
    assert running.api.get("/api/holds").json() == []
    assert running.api.get("/api/ledger").json()["total"] == 0
    wrong = running.api.post(
        "/api/building/try", json={"value": {"id": "draft", "name": "Draft", "beats": [{"id": "x"}]}}
    )
    assert wrong.status_code == 422


def test_jars_over_the_api(running: Running, tmp_path: Path) -> None:
    for name in ("poster-dusk.gif", "poster-tea.gif"):
        running.add_file(name, (FILES / name).read_bytes())
    owl = tmp_path / "an owl.png"
    owl.write_bytes((FILES / "poster-owl.png").read_bytes())
    running.book(jars=[{"id": "wall", "rule": "no_repeat"}, {"id": "paint", "kind": "colour"}])
    text = f'#EXTM3U\n#EXTINF:1,x\n"{owl}"\nposter-dusk\npaths/poster-tea.gif\n/nowhere/lost.gif\n'
    taken = running.api.post("/api/jars/wall/file", json={"form": "m3u8", "text": text}).json()
    assert (taken["taken"], taken["missing"]) == (3, ["/nowhere/lost.gif"])
    odds = running.api.get("/api/jars/wall/odds").json()
    assert [round(e["long_run"], 6) for e in odds["entries"]] == [round(1 / 3, 6)] * 3
    assert odds["mean_until_all"] == pytest.approx(4)
    drawn = running.api.post("/api/jars/wall/draw", json={"count": 3000}).json()
    assert sum(d["times"] for d in drawn) == 3000
    assert all(abs(d["times"] - 1000) < 150 for d in drawn)
    palette = "GIMP Palette\nName: Halt\n#\n240 162  60 marmalade\n 18 29 27\tground\n"
    assert running.api.post("/api/jars/paint/file", json={"form": "gpl", "text": palette}).json()["taken"] == 2
    assert (
        running.api.get("/api/jars/paint/file?form=csv").text
        == "value,weight,name\n#f0a23c,1,marmalade\n#121d1b,1,ground\n"
    )
    named = {"form": "gpl", "text": "GIMP Palette\n240 162 60\tLamp amber\n18 29 27\tTunnel\n"}
    assert running.api.post("/api/jars/paint/file", json=named).json()["taken"] == 2
    assert "18  29  27\tTunnel" in running.api.get("/api/jars/paint/file?form=gpl").text
    unread = running.api.post("/api/jars/paint/file", json={"form": "csv", "text": "value\nslate blue\nnot-a-colour"})
    assert (unread.status_code, unread.json()["what"]) == (422, "Entry 2: “not-a-colour” isn’t a colour.")
    none = running.api.get("/api/jars/wall/file?form=gpl")
    assert (none.status_code, "has no palette" in none.json()["what"]) == (404, True)
    bad = running.api.post("/api/jars/paint/file", json={"form": "gpl", "text": "GIMP Palette\n300 0 0"})
    assert (bad.status_code, "line 2" in bad.json()["what"]) == (422, True)
    assert (
        running.api.post("/api/jars/wall/file", json={"form": "list", "text": "nothing that is there"}).status_code
        == 422
    )
    assert len(running.api.get("/api/book").json()["book"]["jars"][0]["entries"]) == 3


def test_jar_files_are_read_back_as_written() -> None:
    entries = [Entry("#f0a23c", 2.0), Entry("#121d1b", 0.5)]
    assert read_jar("csv", write_jar("csv", "x", entries)) == entries
    for form in ("m3u8", "list", "gpl"):
        back = read_jar(form, write_jar(form, "x", entries))
        assert [entry.value for entry in back] == ([] if form == "m3u8" else ["#f0a23c", "#121d1b"])
    with pytest.raises(BookError, match="line 2: “heavy” isn’t a weight"):
        read_jar("csv", "value,weight\ntea,heavy\n")


def test_a_cue_is_in_words_also_in_a_book_without_lanes(running: Running) -> None:
    cue = {"id": "gap", "name": "Gap", "beats": [], "calls": [{"kind": "follow"}]}
    running.book(cues=[cue], lanes=[], house={"shared_cooldown_s": 9, "viewer_cooldown_s": 30})
    (line,) = running.api.get("/api/cues/told").raise_for_status().json()
    assert line == {"id": "gap", "does": "Does nothing yet", "brief": "someone follows"}
    told = running.api.post("/api/building/measure", json={"value": cue}).raise_for_status().json()["told"]
    said = "".join(part["words"] for part in told["said"])
    assert said.startswith(
        "When someone follows, anyone can call it without text, once every 9 s for all cues together"
    )
    assert told["calls"] == ["someone follows"]
    counts = {"cooldown_s": 9, "viewer_cooldown_s": 30, "default_cooldown_s": 9, "default_viewer_cooldown_s": 30}
    assert counts.items() <= told["effective"].items() and told["effective"]["shared"] is True
    own = {**cue, "door": {"cooldown_s": 0, "viewer_cooldown_s": 1}}
    told = running.api.post("/api/building/measure", json={"value": own}).json()["told"]
    assert (told["effective"]["cooldown_s"], told["effective"]["default_cooldown_s"]) == (0, 9)
    assert told["brief"] == "someone follows · with no cooldown · each viewer once a second"
