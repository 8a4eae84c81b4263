"""Lanes, step by step: who has room, who goes first, what the gap delays."""

from __future__ import annotations

from typing import Any

import pytest

from cuejar.core.book.book import Lane as LaneSettings
from cuejar.core.book.files import book_from
from cuejar.core.book.lanes import with_lane, without_lane
from cuejar.core.parts.base import BookError
from cuejar.core.rules.lanes import MAY_START, Lane
from cuejar.core.rules.run import Run
from cuejar.core.rules.score import GOES_FIRST
from tests.core.test_lines import a_run

GAP_MS = 1500


def lane(width: int = 1, **more: Any) -> Lane:
    return Lane(LaneSettings(id="yard", name="Yard", width=width, gap_s=1.5, **more))


def runs(*cues: tuple[str, str]) -> list[Run]:
    return [a_run(number, cue, number) for number, cue in enumerate(cues, 1)]


def start(there: Lane, *those: Run) -> None:
    for run in those:
        there.join(run)
        there.started(run)


@pytest.mark.parametrize("entry", ["queue", "extend", "refuse"])
def test_most_wait_for_room_and_for_the_gap(entry: str) -> None:
    there = lane(2)
    first, second, third = runs(("whistle", entry), ("bell", entry), ("plume", entry))
    start(there, first)
    assert there.has_room_for(second.score, 0) and there.taken == 1, "there is room for two"
    start(there, second)
    assert not there.has_room_for(third.score, 0)
    there.ended(first, 4000)
    assert there.taken == 1 and there.running == [second]
    assert there.gap_until == 4000 + GAP_MS
    assert not there.has_room_for(third.score, 4000 + GAP_MS - 1) and there.has_room_for(third.score, 4000 + GAP_MS)


def test_an_overlap_starts_whatever_runs_takes_no_room_and_leaves_no_gap() -> None:
    there = lane()
    queue, over = runs(("whistle", "queue"), ("plume", "overlap"))
    start(there, queue, over)
    assert there.taken == 1 and there.running == [queue, over] and there.has_room_for(over.score, 0)
    there.ended(over, 3000)
    assert there.taken == 1 and there.gap_until == 0 and there.stirred


def test_a_replace_has_its_own_cues_place_and_no_gap_but_not_anothers() -> None:
    there = lane(2)
    own, other, over, more = runs(("mail", "replace"), ("bell", "queue"), ("plume", "overlap"), ("yard", "queue"))
    start(there, own, other, over)
    again = a_run(9, ("mail", "replace"), 9)
    assert there.has_room_for(again.score, 0), "its own running run counts as room, and an overlap takes none"
    there.ended(own, 1000)
    assert there.has_room_for(again.score, 1000), "no gap for it"
    start(there, more)
    assert not there.has_room_for(again.score, 9000), "two others have all the room"


def test_a_solo_waits_until_all_is_quiet_and_the_gap_is_over() -> None:
    there = lane(3)
    over, solo = runs(("plume", "overlap"), ("yard", "solo"))
    assert there.has_room_for(solo.score, 0)
    start(there, over)
    assert not there.has_room_for(solo.score, 0), "not even beside an overlap"
    there.ended(over, 500)
    assert there.has_room_for(solo.score, 500)
    there.gap_until = 2000
    assert not there.has_room_for(solo.score, 1999) and there.has_room_for(solo.score, 2000)


def test_every_entry_has_its_row_and_those_at_the_head_are_named() -> None:
    assert set(MAY_START) == {"queue", "extend", "refuse", "overlap", "replace", "solo"}
    assert {"overlap", "replace"} == GOES_FIRST


def test_who_starts_and_who_would() -> None:
    there = lane()
    first, second, third = runs(("whistle", "queue"), ("bell", "queue"), ("yard", "queue"))
    there.join(first)
    there.join(second)
    assert there.next_to_start(0) is first
    there.started(first)
    assert there.next_to_start(0) is None and first.lane == "yard" and list(there.line) == [second]
    there.ended(first, 100)
    assert first.lane is None
    assert there.next_to_start(100) is None and there.next_to_start(100 + GAP_MS) is second
    assert not there.would_start(third, 100 + GAP_MS), "another is before it"
    assert list(there.line) == [second], "it was only asked"
    there.line.remove(second)
    assert there.would_start(third, 100 + GAP_MS) and not there.would_start(third, 100)
    assert not there.line


def test_a_fair_lane_counts_starts_and_an_unfair_one_does_not() -> None:
    fair, plain = lane(order="fair"), lane()
    assert (fair.line.fair, plain.line.fair) == (True, False)
    for there in (fair, plain):
        start(there, *runs(("whistle", "queue")))
    assert (dict(fair.line.starts), dict(plain.line.starts)) == ({"v1": 1}, {})
    plain.set_up(LaneSettings(id="yard", name="Yard", width=4, order="fair", wait_s=20))
    assert plain.line.fair and plain.settings.width == 4 and plain.wait_ms == 20_000


def test_what_changes_a_lane_stirs_it() -> None:
    there = lane()
    first, second = runs(("whistle", "queue"), ("bell", "queue"))
    assert not there.stirred
    there.join(first)
    assert there.stirred
    there.join(second)
    there.stirred = False
    there.move(second, first)
    assert there.stirred and list(there.line) == [second, first]
    there.move(second, None)
    assert list(there.line) == [first, second]
    there.started(first)
    there.stirred = False
    there.ended(first, 0)
    assert there.stirred


def test_a_lane_that_is_no_more_hands_on_who_ran_and_who_waited() -> None:
    old, new = Lane(LaneSettings(id="platform", name="Platform", width=2)), lane(2)
    a, b, c, d = runs(("whistle", "queue"), ("plume", "overlap"), ("bell", "queue"), ("yard", "queue"))
    start(old, a, b)
    old.join(c)
    old.join(d)
    (mine,) = runs(("mail", "queue"))
    start(new, mine)
    new.take_over(old)
    assert new.running == [mine, a, b] and new.taken == 2
    assert [run.lane for run in (a, b)] == ["yard", "yard"]
    assert list(new.line) == [c, d] and new.stirred


def test_a_lane_comes_behind_the_others_and_goes_with_its_cues_elsewhere() -> None:
    cues = [{"id": one, "name": one, **({"lane": lane} if lane else {})} for one, lane in (("a", ""), ("b", "side"))]
    data, lane = with_lane(book_from({"cues": cues[:1]}), "Main")
    assert ([one["id"] for one in data["lanes"]], lane) == (["main", "main-2"], "main-2"), "the one that it came with"
    lanes = [{"id": "main", "name": "Main"}, {"id": "side", "name": "Siding"}]
    book = book_from({"cues": cues, "lanes": lanes})
    without = book_from(without_lane(book, "main", "side"))
    assert [without.lane_of(cue) for cue in without.cues] == ["side", "side"] and without.cues[0].lane == "side"
    for lane_id, to, why in (
        ("nowhere", None, "no lane"),
        ("side", None, "1 cue is in Siding"),
        ("side", "side", "choose the lane"),
        ("side", "nowhere", "choose the lane"),
    ):
        with pytest.raises(BookError, match=why):
            without_lane(book, lane_id, to)
    with pytest.raises(BookError, match="the only lane"):
        without_lane(book_from({"lanes": lanes[:1]}), "main", None)
