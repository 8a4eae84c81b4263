"""The surroundings: the gear with its properties, the library and the folders, as reported to the engine.

What the gear has and shows arrives here; what it should show leaves here, each property at most once per step.
"""

from __future__ import annotations

from cuejar.core.book.book import Book
from cuejar.core.engine.night import Night
from cuejar.core.engine.resolve import Resolver
from cuejar.core.engine.stage import Stage
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.facts.paths import SCENE
from cuejar.core.rules.holds import Holds
from cuejar.core.rules.rig import Away, renaming
from cuejar.core.rules.score import Lengths


class Surroundings:
    """Everything around the stage.

    ``media`` is what is in the files of the library; None counts every file of the book as present. ``scenes`` are
    those that became current in this step, each with the depth of the cue that asked for it.
    """

    def __init__(
        self,
        night: Night,
        holds: Holds,
        away: Away,
        resolver: Resolver,
        stage: Stage,
        media: dict[str, h.MediaFacts] | None,
    ) -> None:
        self.night, self.holds, self.away = night, holds, away
        self.resolver, self.stage, self.media = resolver, stage, media
        self.scenes: list[tuple[str, int]] = []

    def take(self, book: Book) -> None:
        """Takes a new book."""
        self.away.take(book)
        self.resolver.book = book
        self.resolver.lengths = Lengths(book, self.media)

    def flush(self) -> None:
        """Orders the new values of properties that changed."""
        for change in self.holds.flush(self.away.is_away):
            self.night.emit(change)
            if change.path == SCENE and isinstance(change.value, str):
                run = self.night.runs.get(change.run or "")
                self.scenes.append((change.value, run.depth if run is not None else 0))

    # Input

    def handed(self, hand: h.Hand) -> None:
        for layer in self.holds.hand(hand.path, hand.value, hand.heard):
            self.night.emit(o.Let(layer.run, layer.beat, hand.path))
        if hand.path == SCENE and isinstance(hand.value, str):
            self.scenes.append((hand.value, 0))

    def rested(self, rest: h.Rest) -> None:
        for path, value in rest.values.items():
            self.holds.at_rest(path, value)
        for path, mark in rest.heard.items():
            if (p := self.holds.known(path)) is not None:
                p.heard = mark

    def kept(self, keep: h.Keep) -> None:
        for path, value in keep.values.items():
            self.holds.keep(path, value)

    def geared(self, state: h.GearState) -> None:
        prefixes = self.away.set(state.gear, state.state == "lost")
        if state.state == "back":
            self.holds.touch(lambda path: path.startswith(prefixes))
            self.stage.gear_back()

    def media_known(self, known: h.MediaKnown) -> None:
        self.media = dict(known.media)
        self.resolver.lengths.media = self.media

    def foldered(self, folder: h.Folder) -> None:
        self.resolver.jars.folders[folder.jar] = folder.values

    def catalogued(self, catalogue: h.Catalogue) -> None:
        self.resolver.catalogues.take(catalogue)
        for scene, sources in catalogue.scenes.items():
            self.resolver.sources[scene] = sources

    def renamed(self, renamed: h.Renamed) -> None:
        path_now, value_now = renaming(renamed)
        self.holds.rename(path_now, value_now)
        self.stage.renamed(path_now, value_now)
