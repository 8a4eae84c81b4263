"""What checks use and report."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, Literal, NamedTuple

from cuejar.core.book.book import Book, Cue
from cuejar.core.facts.happenings import PropertyValue
from cuejar.core.facts.paths import SCENE
from cuejar.core.kinds.base import OtherBeats
from cuejar.core.kinds.table import KINDS, fired
from cuejar.core.measures.catalogue import Catalogues, NotThere
from cuejar.core.parts.gear import Gear, HapticPattern
from cuejar.core.rules.score import Lengths


class Snag(NamedTuple):
    """``cue`` and ``beat`` say where it is (``beat`` is empty for the whole cue), ``mend`` is its fix; ``near`` are
    names that may be meant, for the beat's key ``key``.
    """

    check: str
    grade: Literal["error", "warning"]
    cue: str
    beat: str
    what: str
    mend: str = ""
    key: str = ""
    near: tuple[str, ...] = ()


@dataclass(frozen=True)
class CheckContext:
    """What every check may use. ``rest`` are the known rest values of the gear's properties, ``unheard`` why phrases of the
    streamer aren't heard, by the folded phrase.
    """

    book: Book
    lengths: Lengths
    pages: Mapping[str, int]
    catalogues: Catalogues
    rest: Mapping[str, PropertyValue]
    unheard: Mapping[str, str] = field(default_factory=dict)

    @property
    def gear(self) -> Sequence[Gear]:
        return self.book.gear

    @property
    def patterns(self) -> Sequence[HapticPattern]:
        return self.book.patterns

    @cached_property
    def by_id(self) -> Mapping[str, Gear]:
        return {one.id: one for one in self.book.gear}

    @cached_property
    def targets(self) -> frozenset[str]:
        """Circles over the avatar."""
        return frozenset(one.id for gear in self.book.gear if gear.kind == "avatar" for one in gear.targets)

    @cached_property
    def fired(self) -> frozenset[str]:
        """Cues that another fires by name."""
        return frozenset(one for cue in self.book.cues for one in fired(cue.beats) if isinstance(one, str))

    @cached_property
    def hosts(self) -> frozenset[str]:
        """The hosts that hooks may call."""
        return frozenset(place.host.casefold() for place in self.book.house.hook_places)

    def may_switch(self, cue: OtherBeats) -> bool:
        """Returns whether a cue may switch to another scene itself, or by a cue that it fires."""
        held = map(self.held_by, cue.beats)
        return SCENE in held or next(fired(cue.beats), None) is not None

    def held_by(self, beat: Any) -> str | None:
        """Returns the first property that a beat holds, as far as known."""
        with suppress(NotThere):
            return KINDS[beat.kind].holds(beat, self.lengths, self.catalogues, self.gear)
        return None


Check = Callable[[Cue, CheckContext], Iterator[Snag]]
