"""A line: who waits in a lane, in starting order.

Those at the head come before all others, by arrival. The others are ordered by arrival; in a fair lane by how often the
viewer started in this lane this stream, equal counts by arrival:

    arrival      Bramble's first, Owlpost's, Bramble's second
    fair         once Bramble's first has started:  Owlpost's, Bramble's second

Every operation takes time logarithmic in the line's length, except a move by hand that fills every gap between two
places.
"""

from __future__ import annotations

from bisect import bisect_left, insort
from collections import Counter
from collections.abc import Callable, Iterator

from cuejar.core.rules.run import Run
from cuejar.core.rules.score import Score

Place = tuple[bool, int, float, int]
"""Order after the head, fairness, arrival, and the run's number if all else is equal."""


Row = tuple[Place, Run]
"""A waiting run, by its place; no two are equal, so rows are ordered by their places alone."""

_BEHIND_THE_HEAD = ((True,),)


def _at(rows: list[Row], run: Run) -> int:
    """Returns where a run stands in sorted rows, or would stand."""
    if rows and rows[0][1] is run:
        return 0
    return bisect_left(rows, (run.place,))


def _is_in(rows: list[Row], run: Run) -> bool:
    at = _at(rows, run)
    return at < len(rows) and rows[at][1] is run


class Line:
    """Everybody who waits in one lane."""

    def __init__(self, fair: bool) -> None:
        self.fair = fair
        self.starts: Counter[str] = Counter()
        """How often each viewer started in this lane this stream."""
        self._line: list[Row] = []
        self._heads: dict[str, list[Row]] = {}
        self._of_viewer: dict[str, dict[str, Run]] = {}
        self._of_cue: dict[str, int] = {}
        self._last = 0.0
        self.size = 0
        """The number of waiting runs."""

    def __len__(self) -> int:
        return self.size

    def __iter__(self) -> Iterator[Run]:
        """Iterates in starting order."""
        return (run for _, run in self._line)

    def __contains__(self, run: Run) -> bool:
        return _is_in(self._line, run)

    def by_arrival(self) -> list[Run]:
        """Sort key: by arrival, or as moved by hand."""
        return sorted(self, key=lambda run: (run.place[0], run.place[2], run.place[3]))

    def as_they_came(self) -> list[Run]:
        """Iterates by arrival, or as moved by hand, wherever they stand."""
        return sorted(self, key=lambda run: run.place[2:])

    def waits(self, cue: str) -> bool:
        """Returns whether somebody waits for this cue."""
        return cue in self._of_cue

    def fairness(self, run: Run) -> int:
        if not self.fair:
            return 0
        return run.rank if run.rank is not None else self.starts[run.viewer_id]

    def join(self, run: Run) -> None:
        """Adds a run: behind those at the head if it goes there, otherwise last."""
        self._last += 1
        self.behind(run)
        self._add(run, self._last)

    def put_back(self, run: Run) -> None:
        """Adds a run last, as a snapshot has it: whether it waits behind a solo is already known."""
        self._last += 1
        self._add(run, self._last)

    def behind(self, run: Run) -> None:
        """Puts a run that joins after the first solo behind it, even at the head, and in a fair line however few its
        starts.
        """
        solo = self.solo()
        if solo is None or run.behind is not None:
            return
        run.behind = solo.id
        if self.fair and not run.head and self.fairness(run) < solo.place[1]:
            run.rank = solo.place[1]

    def solo(self) -> Run | None:
        """Returns the solo that is first in the line, if any. It stays first: its standing is fixed at that moment."""
        if not self.size:
            return None
        at = self._after_the_head()
        if at == self.size:
            return None
        first = self._line[at][1]
        if first.score.entry != "solo":
            return None
        if self.fair and first.rank is None:
            first.rank = first.place[1]
            self._of_viewer.get(first.viewer_id, {}).pop(first.id, None)
        return first

    def _after_the_head(self) -> int:
        return bisect_left(self._line, _BEHIND_THE_HEAD) if self._heads else 0

    def _add(self, run: Run, arrival: float) -> None:
        run.place = (not run.head, 0 if run.head else self.fairness(run), arrival, run.number)
        row, cue = (run.place, run), run.score.id
        insort(self._line, row)
        self.size += 1
        self._of_cue[cue] = self._of_cue.get(cue, 0) + 1
        if run.head:
            insort(self._heads.setdefault(cue, []), row)
        elif self.fair and run.rank is None:
            self._of_viewer.setdefault(run.viewer_id, {})[run.id] = run

    def remove(self, run: Run) -> None:
        line = self._line
        at = _at(line, run)
        if at == self.size or line[at][1] is not run:
            raise ValueError(f"{run.id} isn’t waiting here")
        del line[at]
        self.size -= 1
        cue = run.score.id
        left = self._of_cue.pop(cue) - 1
        if left:
            self._of_cue[cue] = left
        heads = self._heads.get(cue)
        if heads is not None and _is_in(heads, run):
            del heads[_at(heads, run)]
            if not heads:
                del self._heads[cue]
        theirs = self._of_viewer.get(run.viewer_id) if self.fair else None
        if theirs is not None and theirs.pop(run.id, None) is not None and not theirs:
            del self._of_viewer[run.viewer_id]

    def counted(self, viewer: str) -> None:
        """Counts another start of a viewer; their waiting runs move back."""
        self.solo()
        self.starts[viewer] += 1
        for run in list(self._of_viewer.get(viewer, {}).values()):
            self._again(run)

    def _again(self, run: Run) -> None:
        arrival = run.place[2]
        self.remove(run)
        self._add(run, arrival)

    def set_fair(self, fair: bool) -> None:
        """Changes the order."""
        if fair != self.fair:
            runs = self.by_arrival()
            self.clear()
            self.fair = fair
            for run in runs:
                self.join(run)

    def new_stream(self) -> None:
        """Resets everybody's starts."""
        self.starts.clear()
        if self.fair:
            for run in list(self):
                self._again(run)

    def clear(self) -> None:
        self._line.clear()
        self.size = 0
        self._heads.clear()
        self._of_viewer.clear()
        self._of_cue.clear()

    def first(self, may: Callable[[Score, int], bool], now: int) -> Run | None:
        """Returns who starts now, if anybody: one at the head whose cue may, otherwise the first of the line if it may.

        Among those at the head waiting for the same cue, the first stands for all.
        """
        solo = self.solo()
        for _, run in sorted(of_cue[0] for of_cue in self._heads.values()) if self._heads else ():
            if (solo is None or run.behind != solo.id) and may(run.score, now):
                return run
        behind = self._after_the_head()
        if behind < self.size:
            next_one = self._line[behind][1]
            if may(next_one.score, now):
                return next_one
        return None

    def move(self, run: Run, before: Run | None) -> None:
        """Moves a waiting run before another one, with the standing of that one; or to the end. By hand."""
        self.remove(run)
        if before is None:
            last = self._line[-1][1] if self._line else run
            run.head, run.rank = False, self.fairness(last)
            self.join(run)
            return
        run.head, run.rank = before.head, self.fairness(before)
        at = _at(self._line, before)
        ahead = self._line[at - 1][1] if at else None
        behind = before.place[2]
        near = ahead.place[2] if ahead is not None and ahead.place[:2] == before.place[:2] else behind - 1
        if not near < (near + behind) / 2 < behind:  # There is no number left between them.
            runs = list(self)
            runs.insert(at, run)
            self.clear()
            for one in runs:
                self.join(one)
            return
        self._add(run, (near + behind) / 2)
