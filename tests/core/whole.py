"""Random books and nights in which everything can happen: all kinds of beat, all happenings, all kinds of gear."""

from __future__ import annotations

from typing import Any

from hypothesis import strategies as st

from cuejar.core.book.book import Book
from cuejar.core.book.files import book_from, book_json
from cuejar.core.facts import happenings as h
from tests.core.books import VIEWERS

SCENES: dict[str, tuple[str, ...]] = {
    "Workbench": ("Bench cam", "Mug"),
    "Night mail": ("Mail 1", "Mail 2", "Other"),
    "Yard cam": (),
}
KINDS_OF_SETTING = {"amount": h.Setting("number", 0, 1), "on": h.Setting("bool"), "colour": h.Setting("colour")}
REST: dict[str, h.PropertyValue] = {
    "broadcast/scene": "Workbench",
    "broadcast/source/Workbench/Bench cam/visible": True,
    "broadcast/source/Workbench/Mug/visible": False,
    "broadcast/source/Night mail/Mail 1/visible": False,
    "broadcast/source/Night mail/Mail 2/visible": False,
    "broadcast/filter/Bench cam/Fog/amount": 0.0,
    "broadcast/filter/Bench cam/Fog/on": False,
    "light/signal/colour": "#ffd9a0",
    "light/signal/level": 1.0,
    "light/flood/colour": "#ffd9a0",
    "light/flood/level": 0.5,
    "avatar/outfit": "Porter",
    "avatar/pose": "Standing",
    "voice/preset": "Plain",
    "voice/pitch": 0.0,
    "things/yard/vane/angle": 225.0,
    "things/yard/tower/valve": False,
}
CATALOGUES = (
    h.Catalogue("broadcaster", SCENES, {"Bench cam": {"Fog": KINDS_OF_SETTING}}),
    h.Catalogue(
        "avatar", names={"outfit": ("Porter", "Top hat"), "pose": ("Standing",), "expression": ("Cheer", "Sleepy")}
    ),
    h.Catalogue("voice", names={"preset": ("Plain", "Tannoy")}),
    h.Catalogue(
        "things/yard",
        things={
            "vane": h.Thing(
                "Weathervane",
                {"angle": h.Setting("number", 0, 359, title="Points to", unit="°", step=1)},
                {"spin": h.Deed("Spin round", {"turns": h.Setting("number", 1, 9)})},
            ),
            "tower": h.Thing("Water tower", {"valve": h.Setting("bool")}),
        },
    ),
)
MEDIA = {
    "poster": h.MediaFacts("picture", 1.4, 0),
    "bell": h.MediaFacts("sound", 2.2, 1),
    "shunter": h.MediaFacts("clip", 1.0, 1),
    "still": h.MediaFacts("picture", 0, 0, flashes=True),
}

one = st.sampled_from
TIMED = one([{"s": 0.5}, {"s": 1}, {"s": 3}, "to_end", "open"])
HELD = TIMED | st.just("keep")
NATURAL = TIMED | one(["natural", {"loops": 2}])
TEXT = one(["mind the gap", "{{viewer}} says {{text}}", "{{drawn.b0}}{{rolled}}{{count.calls}}", {"jar": "lines"}])
PICTURES = one(
    [{"file": "poster"}, {"file": "still"}, {"jar": "posters", "count": 2}, {"jar": "found"}, {"file": "lost"}]
)
FADES = {"fade_in_s": one([0, 0.3]), "fade_out_s": one([0, 0.5])}

BEATS: dict[str, st.SearchStrategy[dict[str, Any]]] = {
    "picture": st.fixed_dictionaries({"media": PICTURES, "length": NATURAL}),
    "clip": st.fixed_dictionaries({"media": st.just({"file": "shunter"}), "length": NATURAL, "duck": one([1, 0.3])}),
    "sound": st.fixed_dictionaries({"media": st.just({"file": "bell"}), "length": NATURAL, "duck": one([1, 0.3])}),
    "speech": st.fixed_dictionaries({"text": TEXT, "length": NATURAL, "part": one([None, "clerk"])}),
    "caption": st.fixed_dictionaries({"text": TEXT, "length": TIMED}),
    "bar": st.fixed_dictionaries({"count": one(["calls", "tea"]), "goal": one([None, 4]), "length": TIMED}),
    "burst": st.fixed_dictionaries({"media": one([None, {"file": "poster"}]), "length": TIMED}),
    "throw": st.fixed_dictionaries({"count": st.integers(1, 4), "length": NATURAL, "every_s": one([0, 0.4])}),
    "haptics": st.fixed_dictionaries({"pattern": one(["Express", "express", "Expres"]), "length": NATURAL}),
    "scene": st.fixed_dictionaries({"scene": one(["Night mail", "yard CAM", "Yrd cam"]), "length": HELD}),
    "source": st.one_of(
        st.fixed_dictionaries({"scene": st.just("Workbench"), "source": one(["Mug", "Bench cam"]), "visible": st.booleans(), "length": HELD}),
        st.fixed_dictionaries({"scene": st.just("Night mail"), "any_source": st.just(True), "beginning": one(["", "Mail"]),
                               "hide_others": st.booleans(), "length": TIMED}),
    ),
    "filter": st.fixed_dictionaries({"sources": st.just(["Bench cam"]), "filter": st.just("Fog"), "setting": one(["amount", "on"]),
                                     "value": one([True, 0.4, "{{number}}"]), "length": HELD, **FADES}),
    "light": st.fixed_dictionaries({"fixtures": one(["all", ["flood"]]), "colour": one(["#c0392b", "random", "{{colour}}", {"jar": "paint"}]),
                                    "level": one([None, 0.3]), "look": one([None, "breathe"]), "length": HELD, **FADES}),
    "avatar": st.fixed_dictionaries({"outfit": one(["Top hat", "top HAT", "Tip hat"]), "expressions": one([[], ["Cheer", "Sleepy"]]), "length": HELD}),
    "voice": st.fixed_dictionaries({"preset": one(["Tannoy", None]), "pitch": one([3.0, -2.0]), "length": HELD}),
    "keys": st.fixed_dictionaries({"combo": one(["F8", "f8", "ControlLeft+KeyM"]), "length": TIMED}),
    "reward": st.fixed_dictionaries({"rewards": one([["r0"], ["r0", "r1"], []]), "sets": st.just(["yard"]), "on": one([False, None]),
                                     "cost": st.just(7), "length": HELD}),
    "set": st.one_of(
        st.fixed_dictionaries({"gear": st.just("yard"), "thing": one(["vane", "weatherVANE", "vain"]), "setting": one(["angle", "Points to"]),
                               "value": one([90, 400, "{{number}}", "north"]), "length": HELD, **FADES}),
        st.fixed_dictionaries({"gear": st.just("yard"), "thing": st.just("tower"), "setting": st.just("valve"), "value": one([True, "on"]), "length": HELD}),
    ),
    "do": st.fixed_dictionaries({"gear": st.just("yard"), "thing": one(["vane", "tower"]), "deed": one(["spin", "Spin round"]),
                                 "values": one([{}, {"turns": 3}, {"turns": "{{number}}", "haste": 1}])}),
    "tap": st.fixed_dictionaries({"combo": st.just("F9")}),
    "hook": st.fixed_dictionaries({"hook": st.just("box"), "payload": st.just('{"text": "{{text}}"}'), "then_s": one([None, 2])}),
    "count": st.fixed_dictionaries({"name": st.just("calls"), "add": st.integers(-2, 3)}),
    "reply": st.fixed_dictionaries({"text": TEXT}),
    "fire": st.fixed_dictionaries({"cue": one(["last", {"jar": "others"}])}),
    "chance": st.fixed_dictionaries({"dice": one([None, {"count": 2}]), "outcomes": st.just([{"id": "pair", "when": "pair"}, {"id": "other"}])}),
    "draw": st.fixed_dictionaries({"jar": one([None, "crowd", "regulars"]), "title": one(["", "Tonight: {{text}}"])}),
    "points": st.fixed_dictionaries({"give": one([1, 50])}),
    "win": st.fixed_dictionaries({"what": one(["A lamp", "{{viewer}} and {{drawn.name}}"])}),
}  # fmt: skip
CONDITIONS = one(
    [{"rolled": "nobody"}, {"role": "member"}, {"text_has": "gap"}, {"count": "all", "is": "<=", "number": 2}, {"count": "calls", "number": 1}, {"rolled": "pair"},
     {"drawn": "b0", "value": "poster"}, {"text_from": 3, "text_to": 90, "not": True}, {"live": True}, {"scene": "workbench"}, {"gear": "yard"}]
)  # fmt: skip
CALLS: list[dict[str, Any]] = [
    {"kind": "chat", "match": "has_word", "text": "tea"}, {"kind": "chat", "match": "has_word", "text": "gap", "cost": 25}, {"kind": "tip", "from": 5}, {"kind": "follow"}, {"kind": "membership"},
    {"kind": "raid"}, {"kind": "hook", "name": "Parcel office"}, {"kind": "scene", "scene": "Night mail"},
    {"kind": "stream", "state": "live"}, {"kind": "clock", "every_min": 0.05}, {"kind": "count", "count": "tea", "every": 2},
]  # fmt: skip


@st.composite
def whole_books(draw: st.DrawFn) -> Book:
    cues = []
    for name in ("first", "second", "last"):
        made: list[dict[str, Any]] = []
        kinds = draw(st.lists(one([kind for kind in BEATS if kind != "fire" or name != "last"]), max_size=5))
        for i, kind in enumerate(kinds):
            beat = {"id": f"b{i}", "kind": kind, **draw(BEATS[kind])}
            if draw(st.booleans()):
                beat["start"] = {"at_s": draw(one([0, 0.5, 2]))}
            elif made and made[-1].get("length") != "to_end":
                beat["start"] = {"after": made[-1]["id"], "edge": draw(one(["start", "end"]))}
                if made[-1]["kind"] == "throw":
                    beat["start"] = {"after": made[-1]["id"], "edge": "hit", "hit": 2}
            conditions = draw(st.lists(CONDITIONS, max_size=1))
            made_by = {"pair": "chance", "nobody": "draw"}
            kinds_there = {b["kind"] for b in [*made, beat]}
            there = [
                c
                for c in conditions
                if ("rolled" not in c or made_by[c["rolled"]] in kinds_there) and ("drawn" not in c or made)
            ]
            made.append({**beat, "only_if": there, "whose": draw(one(["caller", "caller", "drawn"]))})
        cues.append({
            "id": name, "name": name.title(), "beats": made, "lane": draw(one(["main", "side"])),
            "entry": draw(one(["queue", "overlap", "solo", "replace", "extend", "refuse"])),
            "calls": [{"kind": "reward", "reward": draw(one(["r0", "r1"]))}, draw(one(CALLS))],
            "door": {"text": draw(one([None, {"kind": "number"}, {"kind": "colour"}])), "cooldown_s": draw(one([None, 0, 3])),
                     "cap_stream": draw(one([None, 2])), "scenes": draw(one([[], ["Workbench"]]))},
        })  # fmt: skip
    lanes = [
        {"id": name, "name": name, "wait_s": draw(one([2, 30])), "order": draw(one(["arrival", "fair"]))}
        for name in ("main", "side")
    ]
    fixtures = [{"id": "signal"}, {"id": "flood"}]
    return book_from({
        "house": {"open_cap_s": 8, "extend_cap_s": 9, "shared_cooldown_s": draw(one([None, 1]))},
        "sets": [{"id": "yard", "name": "Yard", "rewards": ["r1"], "on": draw(st.booleans()), "scenes": draw(one([[], ["Workbench"]]))},
                 {"id": "all", "name": "All", "rewards": ["r0", "r1"], "categories": draw(one([[], ["Model railways"]]))}],
        "counts": [{"id": "tea", "name": "Tea", "goal": 5, "per": draw(one(["stream", "good"])),
                    "feeds": [{"by": draw(one(["redemptions", "points", "tipped", "follows"]))}, {"by": "redemptions", "reward": "r1"}]},
                   {"id": "calls", "name": "Calls"}],
        "points": {"on": draw(st.booleans()), "per_min": 3.5, "member_factor": 2, "tip": 4, "raid": 0.25, "balance_word": "tea"},
        "lanes": lanes, "cues": cues, "reading": {"review": draw(one(["none", "new", "all"]))},
        "rewards": [{"id": "r0", "title": "R0", "cost": 10, "review": draw(st.booleans())},
                    {"id": "r1", "title": "R1", "cost": 10, "price": {"kind": "rising", "factor": 1.5, "half_life_s": 4}}],
        "jars": [{"id": "posters", "rule": draw(one(["any", "no_repeat", "bag"])), "entries": [{"value": "poster"}, {"value": "still"}]},
                 {"id": "found", "folder": "/halt/pictures"},
                 {"id": "lines", "kind": "text", "entries": [{"value": "mind the gap, {{viewer}}"}]},
                 {"id": "paint", "kind": "colour", "entries": [{"value": "#123456"}, {"value": "#78281f"}]},
                 {"id": "others", "kind": "cue", "entries": [{"value": "last"}]},
                 {"id": "crowd", "kind": "viewers", "rule": draw(one(["any", "no_repeat", "bag"])),
                  "draws": {"who": draw(one(["present", "redeemed", "members"])), "caller": draw(st.booleans()), "weights": {"member": 2}}},
                 {"id": "regulars", "kind": "viewers", "draws": {"who": "list"}, "entries": [{"value": "ann"}, {"value": "nobody known"}]}],
        "cast": [{"id": "clerk", "name": "Clerk"}], "patterns": [{"id": "express", "name": "Express", "length_s": 1.5}],
        "gear": [{"id": "lamps", "kind": "lights", "fixtures": fixtures}, {"id": "box", "kind": "hook", "address": "http://127.0.0.1/x"},
                 {"id": "cast", "kind": "broadcaster"}, {"id": "avatar", "kind": "avatar"}, {"id": "keys", "kind": "keys"},
                 {"id": "voice", "kind": "voice"}, {"id": "coat", "kind": "haptics"}, {"id": "yard", "kind": "things"}],
    })  # fmt: skip


def happenings(number: int) -> dict[str, st.SearchStrategy[h.Happening]]:
    """Draws each kind of happening, as the one of this number in its night."""
    viewer, run = one(VIEWERS), st.integers(1, 6).map(str)
    beat, text = one(["b0", "b1", "b2"]), one(["", "mind the gap", "3", "slate blue", "tea"])
    key = st.just(f"x{number}")
    earlier = st.integers(0, number).map(lambda n: f"x{n}")
    return {
        "stream": st.builds(h.Stream, one(["live", "ended"]), one([None, "Model railways"])),
        "redemption": st.builds(h.Redemption, key, one(["r0", "r1"]), viewer, text),
        "chat": st.builds(h.Chat, viewer, one(["tea", "mind the gap"]), key),
        "tip": st.builds(h.Tip, one([1.0, 9.5]), viewer, text, key),
        "follow": st.builds(h.Follow, viewer, key),
        "membership": st.builds(h.Membership, viewer, id=key),
        "raid": st.builds(h.Raid, st.integers(1, 50), viewer, key),
        "present": st.builds(lambda *all: h.Present(all[:2], (all[2].id,)), viewer, viewer, viewer),
        "quiet": st.builds(h.Quiet, one([0.5, 1.0]), one([1.0, 30.0])),
        "clock": st.builds(h.Clock, one(["first", "second"]), one([None, "clock-today"])),
        "set_count": st.builds(h.SetCount, st.just("tea"), st.integers(0, 6)),
        "give_points": st.builds(h.GivePoints, viewer.map(lambda v: v.id), one([0, 30, 500]), why=st.just("for the kettle")),
        "merge": st.builds(h.Merge, viewer.map(lambda v: v.id), viewer.map(lambda v: v.id)),
        "forget": st.builds(h.Forget, viewer.map(lambda v: v.id)),
        "hook": st.builds(h.Hook, st.just("Parcel office"), st.just({"parcels": 3}), viewer, text, key),
        "pad": st.builds(h.Pad, one(["first", "second"]), text),
        "try": st.builds(h.Try, one(["first", "second"]), viewer, text, speed=one([1, 4])),
        "hand": one([h.Hand("broadcast/scene", "Yard cam", ("boot", number)), h.Hand("light/signal/colour", "#00ff00"), h.Hand("keys/F8", "off")]),
        "rest": st.just(h.Rest({"avatar/outfit": "Top hat"}, {"avatar/outfit": ("boot", number)})),
        "all_to_rest": st.just(h.AllToRest()),
        "release": st.builds(h.Release, run, beat | st.none()),
        "drop": st.builds(h.DropCall, earlier, run | st.none()),
        "move": st.builds(h.Move, run, run | st.none()),
        "review": st.builds(h.Review, earlier, st.booleans()),
        "gear": st.builds(h.GearState, one(["lamps", "cast", "box", "keys", "yard"]), one(["lost", "back"])),
        "media": one([h.MediaKnown(MEDIA), h.MediaKnown({**MEDIA, "poster": h.MediaFacts(missing=True)})]),
        "folder": st.builds(h.Folder, st.just("found"), one([(), ("poster",), ("poster", "still")])),
        "catalogue": one(CATALOGUES),
        "renamed": one([h.Renamed("scene", "Night mail", "Late mail"), h.Renamed("source", "Mug", "Teapot"), h.Renamed("filter", "Fog", "Mist", "Bench cam")]),
        "keep": st.just(h.Keep({"voice/pitch": 1.0})),
        "speech": st.builds(h.SpeechReady, run, beat, one([0.5, 2.0]), st.booleans()),
        "strike_failed": st.builds(h.StrikeFailed, run, beat, st.just("it is away")),
    }  # fmt: skip


@st.composite
def whole_nights(draw: st.DrawFn, book: Book) -> list[tuple[int, h.Happening]]:
    """Draws the gear first; then anything, sometimes a new book in between; in the end the gear is back and the stream
    over.
    """
    now = 0
    night: list[tuple[int, h.Happening]] = [(0, catalogue) for catalogue in CATALOGUES if draw(st.booleans())]
    night.append((0, h.Stream("live", "Model railways")))
    kinds = [*happenings(0), "redemption", "redemption", "redemption", "chat", "book"]
    for number in range(1, draw(st.integers(2, 25)) + 1):
        now += draw(one([0, 1, 300, 1000, 2500]))
        kind = draw(one(kinds))
        if kind == "book":
            data = book_json(book)
            data["cues"] = [cue for cue in data["cues"] if draw(st.booleans()) or cue["id"] == "last"]
            night.append((now, h.NewBook(data)))
        else:
            night.append((now, draw(happenings(number)[kind])))
    back: list[h.Happening] = [h.GearState(gear, "back") for gear in ("lamps", "cast", "box", "keys", "yard")]
    return [*night, *((now, happening) for happening in [*back, h.Stream("ended")])]
