"""Input: made valid once, at a cost proportional to its length; and the rules for those who wait together."""

from __future__ import annotations

import json
import time
import unicodedata
from collections.abc import Callable
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cuejar.core.book.book import Part, TextRule, WordList
from cuejar.core.book.files import book_from
from cuejar.core.engine.engine import Engine
from cuejar.core.engine.state import engine_from, snapshot_of
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.facts.gate import sound_json, sound_text
from cuejar.core.measures.colour import read_colour
from cuejar.core.parts.base import BookError
from cuejar.core.rules.door import Doorway
from cuejar.core.rules.playscript import speakable, speakable_name, speeches
from cuejar.core.rules.words import blocked, censored, filled, linked, normalised

ANY = st.text(alphabet=st.characters(exclude_categories=()), max_size=60)
JSON = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats() | ANY,
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(ANY, inner, max_size=4),
    max_leaves=20,
)
HAPPENINGS = st.one_of(
    st.builds(
        h.Chat, st.builds(h.Viewer, ANY, ANY, st.lists(ANY, max_size=3).map(tuple), st.integers()), ANY, ANY | st.none()
    ),
    st.builds(h.Redemption, ANY, ANY, st.builds(h.Viewer, ANY, ANY), ANY, st.integers() | st.none()),
    st.builds(h.Tip, st.floats(), st.none(), ANY),
    st.builds(h.Hook, ANY, JSON, st.none(), ANY),
    st.builds(h.Hand, ANY, st.floats() | ANY | st.integers() | st.booleans()),
    st.builds(h.Keep, st.dictionaries(ANY, st.floats() | ANY, max_size=3)),
)


@given(HAPPENINGS)
def test_what_is_taken_live_is_taken_in_replay_and_is_the_same(happening: h.Happening) -> None:
    try:
        taken = h.sound(happening)
    except BookError:
        return
    written = json.dumps(h.happening_json(taken), ensure_ascii=False, allow_nan=False)
    written.encode("utf-8")
    assert h.happening_from(json.loads(written)) == taken
    assert h.sound(taken) == taken


@given(ANY, st.integers(1, 40))
def test_texts_are_made_sound_once(text: str, most: int) -> None:
    sound = sound_text(text, most)
    assert len(sound) <= most and sound_text(sound, most) == sound
    assert "\x00" not in sound and not any(0xD800 <= ord(c) < 0xE000 for c in sound)
    assert unicodedata.is_normalized("NFC", sound)


@pytest.mark.parametrize(
    "data",
    [float("nan"), float("inf"), 2**60, [[[[[[[[[[[[[[[[[[[1]]]]]]]]]]]]]]]]]]], list(range(6000)), {"a": {1, 2}}],
)
def test_json_that_cannot_be_held_is_refused(data: Any) -> None:
    with pytest.raises(ValueError):
        sound_json(data)


NASTY = [
    "a.", "a.a.", "www.", "http://", ".com", "-.", "x_", "_", " ", "gr", "g r o t ", "<a", "</", "((", ": ", "/ ", "1", "é", "\u0301",
    "\u200d", "ﷺ", "😀", "rgb(", "#", "{{", "}}", "\n", "aA1", "Xx", "@!$", "grot ", "Pip (echo): a / ",
]  # fmt: skip
WORDS = [
    WordList.model_validate(
        {"id": "w", "name": "W", "replace": "whistle", "entries": [{"text": "grot"}, {"text": "ro", "anywhere": True}]}
    )
]
CAST = [Part(id="pip", name="Pip", base="en-gb")]


def _door(kind: str) -> Callable[[str], Any]:
    rule = TextRule.model_validate(
        {"kind": kind, "need": True, "choices": ["Up", "Down"] if kind == "choice" else [], "max": 10_000}
    )
    cue = {"id": "c", "name": "C", "door": {"text": rule.model_dump()}, "beats": []}
    book = book_from(
        {"cues": [cue], "house": {"most_text": 5000}, "reading": {"links": "refuse"}, "words": [WORDS[0].model_dump()]}
    )
    engine = Engine(book)
    doorway: Doorway = engine.reception.scores["c"].doorway

    def ask(text: str) -> Any:
        from cuejar.core.rules.door import Visit

        return doorway.verdict(Visit(engine.reception, doorway, engine.reception.tallies.of("c"), None, text, 0))

    return ask


COSTS: dict[str, Callable[[str], Any]] = {
    "normalised": normalised,
    "linked": linked,
    "blocked": lambda text: blocked(text, WORDS),
    "censored": lambda text: censored(text, WORDS),
    "speakable": speakable,
    "names": speakable_name,
    "speeches": lambda text: speeches(text, CAST, "pip"),
    "templates": lambda text: filled("{{viewer}}: {{text}}", {"text": text, "viewer": text}, "json"),
    "colour": read_colour,
    **{f"door, {kind}": _door(kind) for kind in ("any", "colour", "number", "choice")},
}


def _cost(work: Callable[[str], Any], text: str) -> float:
    best = 1e9
    for _ in range(3):
        begun = time.process_time()
        work(text)
        best = min(best, time.process_time() - begun)
    return best


@pytest.mark.parametrize("what", COSTS)
def test_a_text_costs_what_its_length_costs(what: str) -> None:
    """Eight times the length, eight times the processor's time; a cost that grows with the square would be 64 times."""
    work = COSTS[what]
    for nasty in NASTY:
        short, long = (nasty * 9000)[:1000], (nasty * 9000)[:8000]
        work(short[::-1] + "x"), work(long[::-1] + "x")
        for again in range(12):
            time.sleep(0.2 if again > 2 else 0)  # other load on the machine passes; a quadratic cost stays
            small, large = _cost(work, short + "!"), _cost(work, long + "!")
            if large <= 20 * max(small, 0.001):
                break
        else:
            raise AssertionError(
                f"{what} of {nasty!r}: {small * 1000:.2f} ms for 1,000 and {large * 1000:.2f} for 8,000"
            )


# Three rules


def _cue(cue_id: str, entry: str = "queue", seconds: float = 2, **more: Any) -> dict[str, Any]:
    beats = [{"id": "b", "kind": "caption", "text": "tea", "length": {"s": seconds}}]
    return {"id": cue_id, "name": cue_id, "entry": entry, "beats": beats, **more}


def test_the_shared_clock_runs_from_every_admission_and_spares_its_own_call() -> None:
    calls = [{"kind": "reward", "reward": "tea"}]
    cues = [
        _cue("a", calls=calls, lane="one"),
        _cue("b", calls=calls, lane="two"),
        _cue(
            "c",
            "overlap",
            60,
            door={"cooldown_s": 5, "cooldown_from": "finished"},
            calls=[{"kind": "follow"}],
            lane="two",
        ),
    ]
    lanes = [{"id": "one", "name": "One"}, {"id": "two", "name": "Two"}]
    book = book_from(
        {
            "house": {"shared_cooldown_s": 10},
            "lanes": lanes,
            "cues": cues,
            "rewards": [{"id": "tea", "title": "T", "cost": 1}],
        }
    )
    engine = Engine(book)
    viewer = h.Viewer("v", "owlpost")

    def verdicts(happening: Any, at: int) -> list[tuple[str | None, str, str | None, str]]:
        return [
            (v.cue, v.verdict, v.reason, v.detail) for _, v in engine.handle(happening, at) if isinstance(v, o.Verdict)
        ]

    assert [v[1] for v in verdicts(h.Redemption("r1", "tea", viewer), 0)] == ["let_in", "let_in"], "one call, both cues"
    assert {v[2] for v in verdicts(h.Redemption("r2", "tea", viewer), 5_000)} == {"cooldown"}
    # A cue with a cooldown from its finish starts the shared clock at its admission too, and the clock never
    # waits for an end.
    assert verdicts(h.Follow(viewer), 12_000)[0][1] == "let_in"
    turned = verdicts(h.Redemption("r3", "tea", viewer), 15_000)
    assert {v[2] for v in turned} == {"cooldown"} and all("finished" not in v[3] and "7 s" in v[3] for v in turned)
    assert [v[1] for v in verdicts(h.Redemption("r4", "tea", viewer), 22_000)] == ["let_in", "let_in"]


@pytest.mark.parametrize("order", ["arrival", "fair"])
def test_a_solo_that_waits_is_not_starved(order: str) -> None:
    cues = [
        _cue("long", seconds=5),
        _cue("solo", "solo"),
        _cue("plume", "overlap", 30),
        _cue("swap", "replace", 30),
        _cue("tea"),
    ]
    engine = Engine(book_from({"lanes": [{"id": "yard", "name": "Yard", "order": order, "width": 2}], "cues": cues}))

    def started(orders: list[Any]) -> list[str]:
        return [s.cue for _, s in orders if isinstance(s, o.Start)]

    assert started(engine.handle(h.Pad("long"), 0)) == ["long"]
    assert started(engine.handle(h.Pad("plume"), 500)) == ["plume"], "what came before it still starts"
    engine.handle(h.Pad("solo"), 1_000)
    for at, cue in ((1_500, "plume"), (2_000, "swap"), (2_500, "tea"), (20_000, "plume")):
        assert started(engine.handle(h.Pad(cue), at)) == [], "whoever joins after it waits behind it"
    engine = engine_from(json.loads(json.dumps(snapshot_of(engine))))
    assert started(engine.advance(30_499)) == []
    assert started(engine.advance(30_500)) == ["solo"], "as soon as its lane is empty"
    after = started(engine.advance(32_500))
    assert sorted(after) == ["plume", "plume", "swap"] or sorted(after) == ["plume", "plume", "swap", "tea"]


def test_what_cannot_come_out_is_refused_at_once_and_long_chains_in_words() -> None:
    from cuejar.core.kinds.chance import ChanceBeat
    from cuejar.core.rules.chance import roll

    outcomes = [{"id": "never", "when": "sum", "is": "=", "number": 40}, {"id": "rest", "when": "any"}]
    beat = ChanceBeat.model_validate(
        {"id": "r", "kind": "chance", "dice": {"count": 3, "sides": 6}, "outcomes": outcomes}
    )
    begun = time.process_time()
    with pytest.raises(ValueError, match="there are rest"):
        roll(beat, lambda: 0.5, "never")
    assert time.process_time() - begun < 0.5
    beats = [{"id": f"b{n}", "kind": "caption", "text": "x", "length": {"s": 1}, "start": {"after": f"b{n - 1}"} if n else {}}
             for n in range(1_200)]  # fmt: skip
    with pytest.raises(BookError, match="hang on each other"):
        book_from({"cues": [{"id": "c", "name": "C", "beats": beats}]})
    assert book_from({"cues": [{"id": "c", "name": "C", "beats": beats[:900]}]})


def test_an_error_inside_a_run_costs_that_run_alone() -> None:
    beats = [{"id": "b", "kind": "scene", "scene": "Yard cam", "length": {"s": 2}},
             {"id": "c", "kind": "count", "name": "teas", "start": {"at_s": 1}}]  # fmt: skip
    calls = [{"kind": "reward", "reward": "tea"}]
    engine = Engine(book_from({"rewards": [{"id": "tea", "title": "T", "cost": 1}], "cues": [
        {"id": "tea", "name": "Tea", "calls": calls, "beats": beats}]}))  # fmt: skip
    engine.handle(h.Rest({"broadcast/scene": "Workbench"}), 0)
    engine.handle(h.Redemption("r1", "tea", h.Viewer("v", "owlpost")), 0)
    (run,) = engine.night.runs.values()
    run.beats[1].value = {"nobody": "knows this"}
    orders = [order for _, order in engine.advance(1_000)]
    assert any(isinstance(x, o.Fail) and "the run failed: KeyError" in x.why for x in orders)
    assert any(isinstance(x, o.Set) and x.value == "Workbench" for x in orders), "what it held returns"
    assert not engine.night.runs and not engine.surroundings.holds.held() and not engine.waiting.lanes["main"].running
    later = [order for _, order in engine.handle(h.Redemption("r2", "tea", h.Viewer("v", "owlpost")), 3_000)]
    assert any(isinstance(x, o.Start) for x in later), "its lane is free"


@pytest.mark.parametrize("form", ["{{text}}", "{{{text}}}", "{{& text}}", "{{&text}}"])
def test_what_a_viewer_wrote_is_escaped_however_a_template_names_it(form: str) -> None:
    assert filled(f'{{"said": "{form}"}}', {"text": 'mind "the" gap'}, "json") == '{"said": "mind \\"the\\" gap"}'
    assert filled(f"https://office.example/{form}", {"text": "a/b?c"}, "url") == "https://office.example/a%2Fb%3Fc"
