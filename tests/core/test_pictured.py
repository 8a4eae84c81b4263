"""The square cut out of a picture, and which picture a reward has."""

from __future__ import annotations

from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from cuejar.core.book.files import book_from
from cuejar.core.facts.happenings import MediaFacts
from cuejar.core.measures.crop import square
from cuejar.core.rules.pictured import GROUND, TINT, Pictured, mark, pictured
from cuejar.core.rules.rewardlist import read, written
from cuejar.core.rules.tickets import cues_of

SIDES = st.integers(1, 10_000)
SHARES = st.floats(0, 1)


@given(SIDES, SIDES, SHARES, SHARES, st.floats(1, 10))
def test_a_square_lies_within_its_picture(width: int, height: int, x: float, y: float, zoom: float) -> None:
    left, top, side = square(width, height, x, y, zoom)
    assert left >= 0 and top >= 0 and left + side <= width and top + side <= height
    assert side == max(1, round(min(width, height) / zoom))
    # As near to the wanted middle as the picture allows.
    for begin, whole, share in ((left, width, x), (top, height, y)):
        off = begin + side / 2 - share * whole
        assert abs(off) <= 1 or (begin == 0 and off > 0) or (begin == whole - side and off < 0)


PICTURE, SOUND = MediaFacts("picture", 0), MediaFacts("sound", 2)
FACTS = {"plume": PICTURE, "tea": PICTURE, "bell": SOUND, "gone": MediaFacts("picture", 0, missing=True)}


def _book(reward: dict[str, Any], *beats: dict[str, Any]) -> Any:
    files = [{"id": one, "name": one.capitalize(), "file": f"{n:064x}"} for n, one in enumerate(FACTS)]
    calls = [{"kind": "reward", "reward": "whistle"}]
    rewards = [{"id": "whistle", "title": "Steam whistle", "cost": 250, **reward}]
    jars = [{"id": "some", "name": "Some", "kind": "media", "entries": [{"value": "bell"}, {"value": "tea"}]}]
    return book_from(
        {
            "format": "cue-jar-book", "version": 1, "lanes": [{"id": "main", "name": "Main"}],
            "overlays": [{"id": "stream", "name": "Stream"}], "media": files, "jars": jars, "rewards": rewards,
            "cues": [{"id": "whistle", "name": "Whistle", "calls": calls, "beats": list(beats)}],
        }
    )  # fmt: skip


def _of(book: Any) -> Pictured | None:
    return pictured(book.rewards[0], cues_of(book).get("whistle", []), book, FACTS)


def test_a_reward_has_its_own_picture_or_its_cues_tinted() -> None:
    bell = {"id": "bell", "kind": "sound", "media": {"file": "bell"}}
    plume = {"id": "plume", "kind": "picture", "media": {"file": "plume"}}
    jar = {"id": "jar", "kind": "picture", "media": {"jar": "some"}}
    own = {"picture": {"media": "tea", "x": 0.2, "zoom": 2}, "colour": "#2a9d8f"}
    assert _of(_book(own, plume)) == Pictured("tea", 0.2, 0.5, 2, "", "#2a9d8f")
    assert _of(_book({}, bell, plume)) == Pictured("plume", 0.5, 0.5, 1, TINT, GROUND)
    assert _of(_book({"colour": "#112233"}, jar)) == Pictured("tea", 0.5, 0.5, 1, "#112233", "#112233")
    lost = {"picture": {"media": "gone"}}
    assert _of(_book(lost, plume)) == _of(_book({}, plume)), "a missing file leaves its cue's"
    assert _of(_book(lost, bell)) is None and _of(_book({})) is None
    face = {"id": "face", "kind": "picture", "media": {"face": "viewer"}}
    assert _of(_book({}, face)) is None


def test_a_mark_changes_with_whatever_is_seen() -> None:
    one = Pictured("tea", 0.5, 0.5, 1, "", GROUND)
    others = [one._replace(x=0.4), one._replace(zoom=2), one._replace(tint=TINT), one._replace(ground="#000000")]
    marks = {mark(one, "f1"), mark(one, "f2"), *(mark(other, "f1") for other in others)}
    assert len(marks) == 6 and mark(one._replace(media="renamed"), "f1") == mark(one, "f1")


def test_a_table_carries_pictures_there_and_back() -> None:
    book = _book({"picture": {"media": "tea", "x": 0.25, "y": 0.5, "zoom": 1.5}})
    text = written(book)
    assert "Tea,0.25 0.5 x1.5" in text
    assert [row.what for row in read(text, book).rows] == ["same"]
    for table, wanted in (
        ("title,picture\nSteam whistle,plume\n", {"media": "plume"}),
        ("title,picture,crop\nSteam whistle,PLUME,0.1 0.9 x3\n", {"media": "plume", "x": 0.1, "y": 0.9, "zoom": 3}),
        ("title,crop\nSteam whistle,0 0 x1\n", {"media": "tea", "x": 0, "y": 0}),
        ("title,picture\nSteam whistle,\n", None),
        ("title,cost\nSteam whistle,300\n", {"media": "tea", "x": 0.25, "zoom": 1.5}),
    ):
        reading = read(table, book)
        assert [row.what for row in reading.rows] == ["changed"], table
        assert reading.data["rewards"][0].get("picture") == wanted, table
    for table, why in (
        ("title,picture\nSteam whistle,kettle\n", "There is no file “kettle”."),
        ("title,picture,crop\nSteam whistle,Tea,half\n", "“half” isn’t a crop such as 0.5 0.4 x2."),
        ("title,picture,crop\nSteam whistle,Tea,0.5 0.5 x99\n", "“0.5 0.5 x99” isn’t a crop such as 0.5 0.4 x2."),
    ):
        assert [row.problem for row in read(table, book).rows] == [why]
