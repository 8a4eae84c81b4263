"""The reports of nights, compared with a second reading of the same nights (`tests.core.second`); and what the figures
lead to.
"""

from __future__ import annotations

from typing import Any

import pytest

from cuejar.core.book.audience import Audience
from cuejar.core.book.book import Book
from cuejar.core.book.files import book_from, book_json
from cuejar.core.engine.engine import Engine
from cuejar.core.engine.state import snapshot_of
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.nights import papers
from cuejar.core.nights.generator import night_of
from cuejar.core.nights.playing import heard
from cuejar.core.nights.recorded import Recording
from cuejar.core.nights.scripts import report
from cuejar.core.nights.standouts import standouts
from cuejar.core.nights.tally import Result, Tally
from cuejar.core.nights.timeline import Drawing
from cuejar.demo.load import demo_book
from tests.core import second

HALT = book_from(demo_book())
MEDIA = {entry.id: h.MediaFacts(("sound", "picture", "clip")[n % 3], 1.0 + n % 4) for n, entry in enumerate(HALT.media)}  # type: ignore[arg-type]


def both(book: Book, seed: int, audience: Audience) -> tuple[Result, dict[str, Any], second.Log, Drawing]:
    tally, log, drawing = Tally(book, media=MEDIA), second.Log(), Drawing(book)
    heard(Engine(book, seed, MEDIA), night_of(audience, book, seed), tally, log, drawing)
    return tally.result(), second.report(book, log), log, drawing


def equal(result: Result, by_hand: dict[str, Any]) -> None:
    for figure, value in by_hand.items():
        told = getattr(result, figure)
        if figure.startswith("waits_by"):
            told = {key: tuple(wait) for key, wait in told.items()}
            assert {key: pytest.approx(wait, abs=0.0011) for key, wait in value.items()} == told, figure
        else:
            assert told == pytest.approx(value, abs=0.0011), figure


@pytest.mark.parametrize("seed", range(1, 13))
def test_every_figure_of_a_night_at_the_halt(seed: int) -> None:
    audience = HALT.audiences[seed % len(HALT.audiences)]
    result, by_hand, _, _ = both(HALT, seed, audience)
    equal(result, by_hand)
    assert result.redemptions and result.points_spent and result.seen and result.held


def planted(cue: dict[str, Any], audience: dict[str, Any], **more: Any) -> tuple[Book, Audience]:
    """Returns a book with one cue, called by one reward, that has one thing to find."""
    whole = {
        "id": "tea", "name": "Tea", "calls": [{"kind": "reward", "reward": "tea"}], "entry": "overlap",
        "beats": [{"id": "c", "kind": "caption", "text": "tea", "length": {"s": 20}}], **cue,
    }  # fmt: skip
    data = {
        "cues": [whole], "rewards": [{"id": "tea", "title": "Tea", "cost": 1_000, **more.pop("reward", {})}],
        "house": {"cooldown_s": 0, "viewer_cooldown_s": 0}, "gear": [{"id": "cast", "kind": "broadcaster"}],
        "audiences": [{"id": "friday", "name": "Friday", "length_min": 120, "calls": 300, "viewers": 40, **audience}], **more,
    }  # fmt: skip
    book = book_from(data)
    return book, book.audiences[0]


SOURCE = {"id": "s", "kind": "source", "scene": "Yard cam", "source": "Snow", "visible": True, "length": {"s": 60}}
AT_BENCH = [{"at_min": 0, "path": "broadcast/scene", "value": "Workbench"}]
SCENE = {"id": "s", "kind": "scene", "scene": "Yard cam", "length": {"s": 5}}
PLANTED: dict[str, tuple[dict[str, Any], dict[str, Any], dict[str, Any]]] = {
    "a price that rises": ({}, {}, {"reward": {"price": {"kind": "rising", "factor": 1.2, "half_life_s": 600}}}),
    "gear away": ({"beats": [SCENE]}, {"outages": [{"at_min": 30, "gear": "cast", "for_min": 60}]}, {"reward": {"closed": "refund"}}),
    "what nobody sees": ({"beats": [SOURCE]}, {"hands": AT_BENCH}, {}),
    "for members alone": ({"door": {"who": ["member"]}}, {"members": 0}, {}),
    "made longer": ({"entry": "extend"}, {"calls": 600}, {}),
    "dice and filters": (
        {"beats": [{"id": "d", "kind": "chance", "dice": {"count": 2}, "outcomes": [{"id": "pair", "when": "pair"}, {"id": "other"}]},
                   {"id": "f", "kind": "filter", "source": "Bench cam", "filter": "Fog", "setting": "amount", "value": 60,
                    "start": {"after": "d", "edge": "end"}, "length": {"s": 9}}]}, {"calls": 60}, {},
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", PLANTED)
def test_every_figure_of_a_planted_night(name: str) -> None:
    cue, audience, more = PLANTED[name]
    book, friday = planted(cue, audience, **more)
    result, by_hand, log, drawing = both(book, 3, friday)
    equal(result, by_hand)
    rules = {one.rule: one for one in standouts(result, book)}
    timeline = drawing.timeline({})
    rows: list[Any] = [*timeline.runs, *timeline.turned, *timeline.extended]
    assert {row.call for row in rows} == {one.call for _, one in log.of(o.Verdict)}, "every call is in the list"
    paid = second.prices(book, log)
    assert all(row.cost == paid[row.call] for row in rows)
    if name == "a price that rises":
        assert len(set(paid.values())) > 20
        state = snapshot_of(Engine(book, 3, MEDIA))
        told = report(Recording(state, night_of(friday, book, 3), begins=0))
        assert told == result, "the report of a script is the same"
    elif name == "gear away":
        assert (
            "60 minutes" in rules["away"].what and rules["refunded"].mend == "Pause it while its gear is disconnected."
        )
        at_rest = [one.run for _, one in log.of(o.Set) if one.run]
        away = {one.call for at, one in log.of(o.Verdict) if 1_806_000 < at < 5_390_000}
        assert len(away) > 100 and all(
            row.outcome == "refunded" for row in timeline.runs if row.call in away and row.run not in at_rest
        )
    elif name == "what nobody sees":
        assert (
            result.unseen_by_cue["tea"] == result.runs_by_cue["tea"] > 200
            and f"{result.runs_by_cue['tea']} of" in rules["unseen"].what
        )
    elif name == "for members alone":
        assert result.turned_away == {"role": result.calls}
        assert rules["refunded"].mend == "Say in its prompt who it is for, or let everyone call it."
    elif name == "made longer":
        marks = papers.overlay_otio("x", drawing.shows, timeline, book, {})
        assert len(timeline.extended) > 100 and marks.count("Extended: ") == len(timeline.extended)
    else:
        assert result.seen > 0.03 and result.longest_quiet_s < 7_200


def test_a_hog_has_its_share_of_all() -> None:
    result = Result(
        calls=9, air_by_viewer={"owl": 20.0, **{f"v{n}": 1.9 for n in range(9)}}, air_s=200.0, air_viewers=110
    )
    assert not [one for one in standouts(result, HALT) if one.rule == "hog"], "a tenth of all, though half of the ten"


def test_what_did_not_change_comes_out_the_same_under_another_book() -> None:
    """Another cue draws more, in another order, from a line of another length: this one's dice fall as before."""
    other = book_json(HALT)
    other["cues"] = [{**cue, "lane": "yard"} if cue["id"] == "poster" else cue for cue in other["cues"]]
    other["lanes"] = [{**lane, "width": 3} if lane["id"] == "yard" else lane for lane in other["lanes"]]
    rolled = []
    for book in (HALT, book_from(other)):
        _, _, log, _ = both(book, 5, HALT.audiences[0])
        call_of = {one.run: one.call for _, one in log.of(o.Start)}
        rolled.append({call_of[one.run]: one.faces for _, one in log.of(o.Roll)})
    both_rolled = rolled[0].keys() & rolled[1].keys()
    assert len(both_rolled) > 10 and all(rolled[0][call] == rolled[1][call] for call in both_rolled)
    assert len({tuple(faces) for faces in rolled[0].values()}) > 5


def test_captions_lie_within_the_night() -> None:
    book, friday = planted({"entry": "queue", "beats": [{"id": "c", "kind": "caption", "text": "{{viewer}}", "length": {"s": 90}}]},
                           {"length_min": 4, "calls": 40}, lanes=[{"id": "main", "name": "Main", "wait_s": 3_000, "line": 90}])  # fmt: skip
    _, _, _, drawing = both(book, 1, friday)
    timeline = drawing.timeline({})
    times = [line for line in papers.said_vtt(drawing.shows, timeline).splitlines() if "-->" in line]
    assert times and max(line.split(" --> ")[1] for line in times) <= "00:04:00.000"


@pytest.mark.parametrize(
    ("figure", "value", "said"), [("seen", 0.0596, "6 %"), ("held", 0.123, "12.3 %"), ("points_spent", 152_013, "152,013"), ("wait_p95_s", 2.64, "2.64")]
)  # fmt: skip
def test_a_printed_figure_is_written_as_people_write_it(figure: str, value: float, said: str) -> None:
    assert papers.told(figure, value) == said
