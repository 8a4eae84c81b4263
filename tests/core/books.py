"""Random books and nights for the engine's tests: small alphabets, so that everything interacts."""

from __future__ import annotations

from typing import Any

from hypothesis import strategies as st

from cuejar.core.book.book import Book
from cuejar.core.book.files import book_from
from cuejar.core.facts import happenings as h

VIEWERS = [
    h.Viewer("v1", "bramble_jo", ("follower", "member"), 1),
    h.Viewer("v2", "kettlewright", ("follower",)),
    h.Viewer("v3", "owlpost", ("follower", "moderator")),
    h.Viewer("v4", "hopper_kit", ()),
]
MEDIA = {
    "poster": h.MediaFacts("picture", 1.4, 0),
    "bell": h.MediaFacts("sound", 2.2, 1),
    "still": h.MediaFacts("picture", 0, 0),
}
REST: dict[str, h.PropertyValue] = {
    "broadcast/scene": "Workbench",
    "light/signal/colour": "#ffd9a0",
    "keys/KeyM": "off",
}
SCENES = ("Yard cam", "Night mail", "Tea table")
REWARDS = ("r0", "r1", "r2", "r3", "r4")

seconds = st.sampled_from([0.0, 0.25, 0.5, 1.0, 2.0, 3.0])
lengths = st.one_of(
    st.sampled_from([{"s": 0.5}, {"s": 1}, {"s": 2}, {"s": 4}]), st.sampled_from(["natural", "to_end", "open"])
)


@st.composite
def beats(draw: st.DrawFn) -> list[dict[str, Any]]:
    made: list[dict[str, Any]] = []
    for i in range(draw(st.integers(0, 4))):
        kind = draw(
            st.sampled_from(["picture", "sound", "scene", "light", "keys", "count", "reward", "chance", "fire"])
        )
        beat: dict[str, Any] = {"id": f"b{i}", "kind": kind}
        length = draw(lengths)
        if kind in ("picture", "sound"):
            ref = draw(st.sampled_from([{"file": "poster"}, {"file": "bell"}, {"jar": "posters"}, {"file": "lost"}]))
            beat |= {"media": ref, "length": length}
            if kind == "sound":
                beat["duck"] = draw(st.sampled_from([1, 0.3]))
        elif kind == "scene":
            beat |= {"scene": draw(st.sampled_from(SCENES)), "length": "to_end" if length == "natural" else length}
        elif kind == "light":
            colour = draw(st.sampled_from(["#c0392b", "random", "{{colour}}"]))
            beat |= {"fixtures": ["signal"], "colour": colour, "length": {"s": 3} if length == "natural" else length}
        elif kind == "keys":
            beat |= {"combo": "KeyM", "length": {"s": 2} if length == "natural" else length}
        elif kind == "reward":
            beat |= {"rewards": ["r0"], "on": False, "length": {"s": 2}}
        elif kind == "count":
            beat |= {"name": "calls"}
        elif kind == "chance":
            beat |= {"dice": {"count": 2}, "outcomes": [{"id": "double", "when": "pair"}, {"id": "other"}]}
        else:
            beat |= {"cue": "c4"}
        anchors = [b for b in made if b.get("length") != "to_end"]
        if len(anchors) > 0 and draw(st.booleans()):
            after = draw(st.sampled_from(anchors))["id"]
            edge = draw(st.sampled_from(["start", "end"]))
            beat["start"] = {"after": after, "edge": edge, "at_s": draw(seconds)}
        else:
            beat["start"] = {"at_s": draw(seconds)}
        made.append(beat)
    return made


@st.composite
def books(draw: st.DrawFn) -> Book:
    lanes = [
        {
            "id": f"lane{i}",
            "name": f"Lane {i}",
            "width": draw(st.integers(1, 2)),
            "line": draw(st.integers(0, 3)),
            "wait_s": draw(st.sampled_from([0, 2, 6, 30])),
            "gap_s": draw(st.sampled_from([0, 0, 1])),
            "order": draw(st.sampled_from(["arrival", "fair"])),
        }
        for i in range(2)
    ]
    cues = []
    for i in range(5):
        door: dict[str, Any] = {}
        if draw(st.booleans()):
            door["cooldown_s"] = draw(st.sampled_from([0, 1, 5]))
        if draw(st.booleans()):
            door["viewer_cooldown_s"] = draw(st.sampled_from([0, 2, 8]))
            door["cooldown_from"] = draw(st.sampled_from(["admitted", "finished"]))
        if draw(st.booleans()):
            door["cap_viewer"] = draw(st.integers(1, 3))
        if draw(st.booleans()):
            door["cap_window"] = {"count": draw(st.integers(1, 3)), "per_s": draw(st.sampled_from([2, 5]))}
        cue = {
            "id": f"c{i}",
            "name": f"Cue {i}",
            "calls": [{"kind": "reward", "reward": f"r{i}"}, {"kind": "chat", "match": "is", "text": f"!{i % 3}"}],
            "door": door,
            "lane": draw(st.sampled_from(["lane0", "lane1"])),
            "entry": draw(st.sampled_from(["queue", "overlap", "solo", "replace", "extend", "refuse"])),
            "beats": [b for b in draw(beats()) if i < 4 or b["kind"] != "fire"],
        }
        kept = {b["id"] for b in cue["beats"]}
        for beat in cue["beats"]:
            if beat["start"].get("after") not in kept:
                beat["start"] = {"at_s": beat["start"]["at_s"]}
        cues.append(cue)
    prices = [{"kind": "fixed"}, {"kind": "first", "then": 50}, {"kind": "rising", "factor": 1.5, "half_life_s": 4}]
    return book_from(
        {
            "house": {"open_cap_s": 12, "extend_cap_s": 9, "cooldown_s": draw(st.sampled_from([0, 1]))},
            "lanes": lanes,
            "rewards": [{"id": r, "title": r, "cost": 100, "price": draw(st.sampled_from(prices))} for r in REWARDS],
            "jars": [
                {
                    "id": "posters",
                    "rule": draw(st.sampled_from(["any", "no_repeat", "bag"])),
                    "entries": [{"value": "poster"}, {"value": "still", "weight": 2}, {"value": "lost"}],
                }
            ],
            "cues": cues,
            "gear": [{"id": "lamps", "kind": "lights", "fixtures": [{"id": "signal"}]}],
        }
    )


@st.composite
def nights(draw: st.DrawFn) -> list[tuple[int, h.Happening]]:
    """Draws happenings with their times in ms, in order; redemption ids are unique except for occasional repeats."""
    now = 0
    night: list[tuple[int, h.Happening]] = [(0, h.Stream("live"))]
    for number in range(1, draw(st.integers(1, 30)) + 1):
        now += draw(st.sampled_from([0, 1, 250, 500, 1000, 1500, 3000]))
        viewer = draw(st.sampled_from(VIEWERS))
        what = draw(st.integers(0, 19))
        happening: h.Happening
        if what < 10:
            happening = h.Redemption(
                f"x{number}", draw(st.sampled_from(REWARDS)), viewer, draw(st.sampled_from(["", "teal"]))
            )
        elif what < 12:
            happening = h.Chat(viewer, f"!{draw(st.integers(0, 3))}", f"m{number}")
        elif what == 12:
            happening = h.Pad(f"c{draw(st.integers(0, 4))}")
        elif what == 13:
            happening = h.Hand("broadcast/scene", draw(st.sampled_from(SCENES)))
        elif what == 14:
            happening = h.GearState("lamps", draw(st.sampled_from(["lost", "back"])))
        elif what == 15:
            happening = h.Release(str(draw(st.integers(1, 8))), draw(st.sampled_from([None, "b0", "b1"])))
        elif what == 16:
            happening = h.DropCall(redemption=f"x{draw(st.integers(1, number))}")
        elif what == 17:
            happening = h.Move(str(draw(st.integers(1, 9))), draw(st.sampled_from([None, "2", "3"])))
        elif what == 18:
            happening = draw(st.sampled_from([h.AllToRest(), h.Stream("ended"), h.Stream("live")]))
        else:
            happening = h.Try(f"c{draw(st.integers(0, 4))}", viewer, "teal", speed=draw(st.sampled_from([1, 4, 16])))
        night.append((now, happening))
    return [*night, (now, h.GearState("lamps", "back"))]
