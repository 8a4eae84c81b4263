"""Two rules that seem not to matter: what lies on top of two holds of the same instant, and what *Send back* takes along."""

from __future__ import annotations

from typing import Any

from cuejar.core.book.files import book_from
from cuejar.core.engine.engine import Engine
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.facts.paths import SCENE
from cuejar.core.words.verdicts import SPENT, sent_back_said

OWL, JO = h.Viewer("v1", "owlpost"), h.Viewer("v2", "bramble_jo")


def scene(cue: str, at_s: float, name: str, lane: str, s: float = 4) -> dict[str, Any]:
    beat = {"id": "s", "kind": "scene", "scene": name, "start": {"at_s": at_s}, "length": {"s": s}}
    return {"id": cue, "name": cue, "lane": lane, "beats": [beat], "calls": [{"kind": "reward", "reward": "tea"}]}


def engine(*cues: dict[str, Any], rules: int | None = None) -> Engine:
    lanes = [{"id": "a", "name": "A"}, {"id": "b", "name": "B"}, {"id": "c", "name": "C"}]
    house = {"cooldown_s": 0, "viewer_cooldown_s": 0}
    rewards = [{"id": "tea", "title": "Tea for two", "cost": 300, "closed": "refund"}]
    made = Engine(book_from({"house": house, "lanes": lanes, "rewards": rewards, "cues": list(cues)}))
    if rules is not None:
        made.night.rules = rules
    made.handle(h.Rest({SCENE: "Workbench"}), 0)
    return made


def shows(timed: list[tuple[int, o.Order]]) -> list[tuple[int, Any]]:
    return [(at, one.value) for at, one in timed if isinstance(one, o.Set) and one.path == SCENE]


def test_of_two_holds_of_the_same_instant_the_newest_run_lies_on_top() -> None:
    """Night mail waits for its lane until 3 s, when a scene of the older run Yard cam is due, too: Night mail shows."""
    first = scene("first", 0, "Tea table", "a", 3)
    mail, yard = scene("mail", 0, "Mail", "a", 2), scene("yard", 3, "Yard", "b", 6)
    night = engine(first, {**yard, "calls": []}, {**mail, "calls": []})
    # With the higher number, Yard cam is the newer call, but the older run.
    said = [timed for cue in ("first", "mail", "yard") for timed in night.handle(h.Pad(cue), 0)]
    said += night.advance(12_000)
    assert shows(said) == [(0, "Tea table"), (3_000, "Mail"), (5_000, "Yard"), (9_000, "Workbench")]
    # Two runs with a beat at the same instant, of which the one with the lower number started later.
    for rules, seen in ((None, ["Late", "Early", "Workbench"]), (4, ["Early", "Workbench"])):
        first = scene("first", 0, "Tea table", "a", 1)
        late = {**scene("late", 1, "Late", "a", 2), "calls": []}
        early = {**scene("early", 2, "Early", "b", 3), "calls": []}
        night = engine({**first, "calls": []}, late, early, rules=rules)
        said = night.handle(h.Pad("first"), 0) + night.handle(h.Pad("late"), 0) + night.handle(h.Pad("early"), 0)
        said += night.advance(12_000)
        assert [value for at, value in shows(said) if at >= 2_000] == seen, rules


def settled(timed: list[tuple[int, o.Order]]) -> list[str]:
    return [one.as_ for _, one in timed if isinstance(one, o.Settle)]


def dropped(timed: list[tuple[int, o.Order]]) -> list[str]:
    return [one.run for _, one in timed if isinstance(one, o.Drop)]


def test_send_back_takes_everything_of_the_redemption_that_waits() -> None:
    """All three cues of a redemption wait, and one row of them is sent back: all three go, and so do the points."""
    busy = [{**scene(f"busy{lane}", 0, "Tea table", lane, 9), "calls": []} for lane in "abc"]
    three = [scene(f"cue{lane}", 0, "Yard", lane) for lane in "abc"]
    for rules, gone, said in ((None, 3, ["refunded"]), (4, 1, [])):
        night = engine(*busy, *three, rules=rules)
        for cue in busy:
            night.handle(h.Pad(cue["id"]), 0)
        night.handle(h.Redemption("x", "tea", OWL, "", 300), 100)
        waits = [run.id for run in night.night.runs.values() if run.redemption == "x"]
        assert len(waits) == 3
        timed = night.handle(h.DropCall(run=waits[1]), 200)
        assert (len(dropped(timed)), settled(timed)) == (gone, said), rules
        if rules is None:
            assert sent_back_said("x", "x", [one for _, one in timed]) == "Dropped and refunded."
            assert sent_back_said("y", "y", [one for _, one in timed]) == f"Dropped. {SPENT}", "another's"
    assert sent_back_said("pad-1", None, []) == "Dropped."


def test_what_runs_already_goes_on_and_keeps_its_points() -> None:
    """Kettle is on, Cups and Biscuits wait for their lanes: they are dropped, Kettle ends by itself, nothing is paid back."""
    busy = [{**scene(f"busy{lane}", 0, "Tea table", lane, 9), "calls": []} for lane in "bc"]
    three = [scene(f"cue{lane}", 0, "Yard", lane) for lane in "abc"]
    for by_run in (True, False):
        night = engine(*busy, *three)
        for cue in busy:
            night.handle(h.Pad(cue["id"]), 0)
        assert settled(night.handle(h.Redemption("x", "tea", OWL, "", 300), 100)) == ["fulfilled"]
        other = night.handle(h.Redemption("y", "tea", JO, "", 300), 150)
        runs = {run.score.id: run for run in night.night.runs.values() if run.redemption == "x"}
        timed = night.handle(h.DropCall(run=runs["cueb"].id) if by_run else h.DropCall("x"), 200)
        assert sorted(dropped(timed)) == sorted([runs["cueb"].id, runs["cuec"].id]) and settled(timed) == []
        assert runs["cuea"].id in night.night.runs, "it goes on"
        assert settled(other) == [] and any(run.redemption == "y" for run in night.night.runs.values()), (
            "another's stays"
        )
