"""What checks use and report."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal, NamedTuple

from cuejar.core.book.book import Book, Cue
from cuejar.core.facts.happenings import PropertyValue
from cuejar.core.measures.catalogue import Catalogues
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
    """What every check may use. ``rest`` are the known rest values of the gear's properties."""

    book: Book
    lengths: Lengths
    pages: Mapping[str, int]
    catalogues: Catalogues
    rest: Mapping[str, PropertyValue]

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
        return frozenset(
            beat.cue
            for cue in self.book.cues
            for beat in cue.beats
            if beat.kind == "fire" and isinstance(beat.cue, str)
        )

    @cached_property
    def hosts(self) -> frozenset[str]:
        """The hosts that hooks may call."""
        return frozenset(place.host.casefold() for place in self.book.house.hook_places)


Check = Callable[[Cue, CheckContext], Iterator[Snag]]
