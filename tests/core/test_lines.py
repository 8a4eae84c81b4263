"""Who waits in a lane: the line compared with a plain list sorted again each time; and compact traces."""

from __future__ import annotations

import json
from functools import cache

from hypothesis import given
from hypothesis import strategies as st

from cuejar.core.book.book import Lane as LaneSettings
from cuejar.core.book.files import book_from
from cuejar.core.facts import happenings as h
from cuejar.core.facts.orders import Check
from cuejar.core.rules.door import CHECKS
from cuejar.core.rules.lanes import Lane
from cuejar.core.rules.run import Run
from cuejar.core.rules.score import Score
from cuejar.core.rules.traces import packed, unpacked

CUES = [("whistle", "queue"), ("plume", "overlap"), ("mail", "replace"), ("yard", "queue")]
ACTS = st.lists(
    st.tuples(st.sampled_from(["join", "join", "join", "start", "drop", "move", "stream", "fair"]), st.integers(0, 99),
              st.integers(0, 99)), max_size=60)  # fmt: skip


@cache
def score_of(name: str, entry: str) -> Score:
    book = book_from({"cues": [{"id": name, "name": name, "entry": entry}]})
    return Score(book.cues[0], book)


def a_run(number: int, cue: tuple[str, str], viewer: int) -> Run:
    run = Run(str(number), number, score_of(*cue), f"c{number}", viewer=h.Viewer(f"v{viewer}", "v"))
    run.head = cue[1] in ("overlap", "replace")
    return run


class Plain:
    """The same line as a list: in order of arrival, sorted on every question."""

    def __init__(self, fair: bool) -> None:
        self.fair, self.starts, self.runs = fair, dict[str, int](), list[Run]()

    def fairness(self, run: Run) -> int:
        if not self.fair:
            return 0
        return run.rank if run.rank is not None else self.starts.get(run.viewer_id, 0)

    def line(self) -> list[Run]:
        heads = [run for run in self.runs if run.head]
        return heads + sorted((run for run in self.runs if not run.head), key=self.fairness)


@given(ACTS, st.booleans())
def test_a_line_is_as_a_list_that_is_sorted(acts: list[tuple[str, int, int]], fair: bool) -> None:
    lane = Lane(LaneSettings(id="yard", name="Yard", order="fair" if fair else "arrival"))
    plain = Plain(fair)
    moved = False
    for number, (act, one, other) in enumerate(acts):
        waiting = plain.line()
        run = waiting[one % len(waiting)] if waiting else None
        if act == "join":
            new = a_run(number, CUES[one % len(CUES)], other % 4)
            lane.join(new)
            plain.runs.append(new)
        elif act == "start" and run is not None:
            lane.started(run)
            plain.runs.remove(run)
            if plain.fair:
                plain.starts[run.viewer_id] = plain.starts.get(run.viewer_id, 0) + 1
        elif act == "drop" and run is not None:
            lane.line.remove(run)
            plain.runs.remove(run)
        elif act == "move" and run is not None and not moved:
            before = waiting[other % len(waiting)]
            if before is not run:
                lane.move(run, before)
                order = list(lane.line)
                assert order.index(run) == order.index(before) - 1, "it stands right before the other"
                assert [r for r in order if r is not run] == [r for r in waiting if r is not run]
                moved = True
        elif act == "stream":
            lane.line.new_stream()
            plain.starts.clear()
        elif act == "fair":
            plain.fair = not plain.fair
            lane.set_up(LaneSettings(id="yard", name="Yard", order="fair" if plain.fair else "arrival"))
        if not moved:
            assert list(lane.line) == plain.line()
            assert lane.line.by_arrival() == [r for r in plain.runs if r.head] + [r for r in plain.runs if not r.head]
        assert len(lane.line) == len(plain.runs)
        assert {cue for cue, _ in CUES if lane.line.waits(cue)} == {r.score.id for r in plain.runs}
        doing = {cue for place, (cue, _) in enumerate(CUES) if (number + place) % 3}
        may = lane.line.first(lambda score, now, doing=doing: score.id in doing, 0)
        line = list(lane.line)
        heads = {}
        for head in (r for r in line if r.head):
            heads.setdefault(head.score.id, head)
        behind = next((r for r in line if not r.head), None)
        able = [r for r in sorted(heads.values(), key=line.index) if r.score.id in doing]
        if not able and behind is not None and behind.score.id in doing:
            able = [behind]
        assert may is (able[0] if able else None)


def test_many_moves_to_the_same_place_keep_their_order() -> None:
    lane = Lane(LaneSettings(id="yard", name="Yard"))
    runs = [a_run(n, CUES[0], n) for n in range(120)]
    for run in runs:
        lane.join(run)
    for run in runs[2:]:
        lane.move(run, runs[1])
    assert list(lane.line) == [runs[0], *runs[2:], runs[1]]


CHECK = st.builds(
    lambda name, passed, reason, detail, left: Check(name, True, None, detail if passed == "not asked" else "")
    if passed != "failed"
    else Check(name, False, reason, detail, left),
    st.sampled_from(list(CHECKS)), st.sampled_from(["passed", "not asked", "failed"]),
    st.sampled_from(["cooldown", "role"]), st.just("not asked"), st.none() | st.integers(1, 10**6),
)  # fmt: skip


@given(st.data())
def test_a_trace_is_kept_small_and_read_back_whole(data: st.DataObject) -> None:
    trace = [data.draw(CHECK)._replace(check=name) for name in CHECKS]
    kept = json.loads(json.dumps(packed(trace)))
    assert unpacked(kept) == [check._asdict() for check in trace]
    assert packed([Check(name, True) for name in CHECKS]) == []
    assert len(json.dumps(packed([Check(name, True, None, "not asked") for name in CHECKS]))) < 8
