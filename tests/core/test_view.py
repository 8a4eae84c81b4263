"""The view of a show: what is up, held, running and waiting, as a desk shows it."""

from __future__ import annotations

from typing import Any

from cuejar.core.book.files import book_from
from cuejar.core.engine.engine import Engine
from cuejar.core.engine.night import Timed
from cuejar.core.engine.rehearsal import preview
from cuejar.core.engine.view import View
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o

SCENE = "broadcast/scene"
OWL, JO, NINE = (
    h.Viewer(f"v{n}", name, ("follower",)) for n, name in enumerate(("owlpost", "bramble_jo", "nine_gauge"))
)


def caption(name: str, seconds: float | None, **fields: Any) -> dict[str, Any]:
    return {
        "id": name,
        "kind": "caption",
        "text": "{{viewer}}",
        "length": {"s": seconds} if seconds else "open",
        **fields,
    }


def cue(name: str, *beats: dict[str, Any], **fields: Any) -> dict[str, Any]:
    calls = [{"kind": "chat", "match": "starts", "text": f"!{name}"}]
    return {"id": name, "name": name.title(), "lane": "yard", "calls": calls, "beats": list(beats), **fields}


BOOK = {
    "house": {"extend_cap_s": 600},
    "lanes": [{"id": "yard", "name": "Yard", "gap_s": 1}, {"id": "stage", "name": "Stage", "width": 2}],
    "cues": [
        cue("mail", caption("words", 10), {"id": "cam", "kind": "scene", "scene": "Night mail", "length": {"s": 8}}),
        cue("snow", {"id": "cam", "kind": "scene", "scene": "Yard cam", "length": {"s": 4}}, lane="stage"),
        cue("open", caption("words", None), lane="stage"),
        cue("bell", caption("words", 5)),
        cue("alone", caption("words", 2), entry="solo"),
        cue("dice", {
            "id": "dice", "kind": "chance", "dice": {"count": 2, "sides": 6}, "spin_s": 2,
            "outcomes": [{"id": "any", "name": "Any", "when": "any"}],
        }, lane="stage"),
    ],
}  # fmt: skip


def fresh() -> tuple[Engine, View]:
    engine = Engine(book_from(BOOK), 3, {})
    engine.handle(h.Rest({SCENE: "Workbench"}), 0)
    return engine, View(engine)


def say(engine: Engine, at: int, text: str, viewer: h.Viewer = OWL) -> list[Timed]:
    return engine.handle(h.Chat(viewer, text), at)


def test_at_rest_nothing_is_up() -> None:
    _engine, view = fresh()
    assert view.at_rest and not view.runs and view.held() == [] and view.up() == []
    assert view.lanes == ["yard", "stage"] and view.lane("yard").model_dump() == {
        "id": "yard", "name": "Yard", "width": 1, "runs": 0, "waits": 0, "running": [], "waiting": [],
    }  # fmt: skip
    assert view.showing(SCENE) == "Workbench" and view.rest_values() == {SCENE: "Workbench"}
    assert (view.on_air, view.on_air_from, view.run_number, view.now) == (False, None, 0, 0)


def test_what_is_held_says_whose_it_is_and_what_comes_after() -> None:
    engine, view = fresh()
    say(engine, 1000, "!mail")
    say(engine, 2000, "!snow", JO)
    (row,) = view.held()
    assert (row.path, row.output, row.value) == (SCENE, "broadcast", "Yard cam")
    assert (row.rest, row.returns_to, row.layers) == ("Workbench", "Night mail", 2)
    assert (row.cue, row.viewer, row.beat, row.since, row.until) == ("Snow", "bramble_jo", "cam", 2000, 6000)
    assert view.is_held(SCENE) and not view.is_held("light/signal/colour")
    engine.advance(6000)
    (row,) = view.held()
    assert (row.value, row.returns_to, row.cue, row.viewer, row.until) == (
        "Night mail",
        "Workbench",
        "Mail",
        "owlpost",
        9000,
    )
    engine.advance(9000)
    assert view.held() == [] and view.showing(SCENE) == "Workbench"


def test_a_lane_says_who_runs_what_of_it_is_up_and_who_waits_how_long() -> None:
    engine, view = fresh()
    say(engine, 1000, "!mail")
    say(engine, 2000, "!bell", JO)
    say(engine, 3000, "!alone", NINE)
    say(engine, 3500, "!bell", OWL)
    lane = view.lane("yard")
    assert (lane.runs, lane.waits) == (1, 3)
    (run,) = lane.running
    assert (run.cue, run.name, run.viewer, run.entry, run.started, run.until) == (
        "mail",
        "Mail",
        "owlpost",
        "queue",
        1000,
        11_000,
    )
    assert [(up.beat, up.output, up.until) for up in run.beats] == [
        ("words", "caption", 11_000),
        ("cam", "broadcast", 9000),
    ]
    assert [(row.cue, row.viewer, row.since) for row in lane.waiting] == [
        ("bell", "bramble_jo", 2000), ("alone", "nine_gauge", 3000), ("bell", "owlpost", 3500),
    ]  # fmt: skip
    # 11 s and the gap; 5 s more and the gap; 2 s more and the gap.
    assert [row.begins for row in lane.waiting] == [12_000, 18_000, 21_000]
    assert [round(wait / 1000, 1) for _, wait in view.waits("yard")] == [8.5, 14.5, 17.5]
    few = view.lane("yard", 1)
    assert (few.waits, len(few.waiting), len(few.running)) == (3, 1, 1), "counted whole, named up to so many"
    engine.advance(9500)
    (run,) = view.lane("yard").running
    assert [up.beat for up in run.beats] == ["words"], "what is over is not up"


def test_what_is_up_is_told_as_it_would_be_shown() -> None:
    engine, view = fresh()
    shown = [order for _, order in say(engine, 1000, "!open") if isinstance(order, o.Show)]
    rolled = [order for _, order in say(engine, 2000, "!dice", JO) if isinstance(order, o.Roll)]
    assert view.up() == [*shown, *rolled] and shown[0].until is None and shown[0].value == "owlpost"
    run = next(iter(view.runs))
    assert view.run(run.id) is run and view.run("gone") is None
    (mine, _) = view.lane("stage").running
    assert mine.until is None and mine.beats[0].until is None
    engine.handle(h.Release(run.id, "words"), 3000)
    assert [order.beat for order in view.up()] == ["dice"]
    engine.advance(9000)
    assert view.up() == [] and view.at_rest and view.run_number == 2


def test_a_draft_has_the_gear_as_it_is_and_leaves_the_show_alone() -> None:
    engine, view = fresh()
    say(engine, 1000, "!mail")
    draft = view.draft(view.book, {})
    timed = preview(draft, h.Try("snow", OWL))
    sets = [(at, order.value) for at, order in timed if isinstance(order, o.Set)]
    assert sets == [(0, "Yard cam"), (4000, "Night mail")], "it goes back to what shows now"
    assert view.showing(SCENE) == "Night mail" and view.now == 1000 and len(view.runs) == 1


def test_the_stream_and_the_book_as_they_are() -> None:
    engine, view = fresh()
    engine.handle(h.Stream("live", "Model railways"), 5000)
    assert (view.on_air, view.on_air_from, view.category) == (True, 5000, "Model railways")
    engine.handle(h.Stream("ended"), 9000)
    assert (view.on_air, view.on_air_from) == (False, None)
    mail = view.cue("mail")
    assert mail is not None and mail.name == "Mail" and view.cue("gone") is None
    assert not view.waits_for_the_clock and not view.is_lost("broadcast")
    engine.handle(h.GearState("broadcast", "lost"), 9500)
    assert view.is_lost("broadcast")
