"""Finds what a path names before its route runs, or refuses in words."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated, Protocol, TypeVar

from fastapi import Depends

from cuejar.api.errors import Refused
from cuejar.api.need import TheStudio
from cuejar.api.shapes import Shape
from cuejar.core.book.book import Cue, Jar, MediaEntry, OverlayEntry, RestingLook, WordList
from cuejar.core.parts.gear import Gear, HapticPattern, Inlet
from cuejar.live.drivers.base import Tested
from cuejar.live.keeper import Keeper


class Done(Shape):
    """What was done, in words."""

    what: str


class _Named(Protocol):
    @property
    def id(self) -> str: ...


T = TypeVar("T", bound=_Named)


def _one(things: Iterable[T], thing_id: str, what: str) -> T:
    """Raises Refused: there is nothing with this id."""
    found = next((thing for thing in things if thing.id == thing_id), None)
    if found is None:
        raise Refused(404, f"There is no {what} “{thing_id}”.")
    return found


def _cue(studio: TheStudio, cue_id: str) -> Cue:
    return _one(studio.books.book.cues, cue_id, "cue")


def _jar(studio: TheStudio, jar_id: str) -> Jar:
    return _one(studio.books.book.jars, jar_id, "jar")


def media_of(studio: TheStudio, media_id: str) -> MediaEntry:
    return _one(studio.books.book.media, media_id, "file in the library called")


def _words(studio: TheStudio, list_id: str) -> WordList:
    return _one(studio.books.book.words, list_id, "word list")


def _pattern(studio: TheStudio, pattern_id: str) -> HapticPattern:
    return _one(studio.books.book.patterns, pattern_id, "pattern")


def _inlet(studio: TheStudio, inlet_id: str) -> Inlet:
    return _one(studio.books.book.inlets, inlet_id, "inlet")


def _overlay(studio: TheStudio, overlay_id: str) -> OverlayEntry:
    return _one(studio.books.book.overlays, overlay_id, "overlay")


def _look(studio: TheStudio, look_id: str) -> RestingLook:
    return _one(studio.books.book.looks, look_id, "resting look")


def _gear(studio: TheStudio, gear_id: str) -> Gear:
    return _one(studio.books.book.gear, gear_id, "gear")


def _keeper(studio: TheStudio, gear_id: str) -> Keeper:
    _gear(studio, gear_id)
    keeper = studio.rig.keepers.get(gear_id)
    if keeper is None:
        raise Refused(409, "It is switched off or has no address.", "Enable it on the Rig page.")
    return keeper


def _tested(studio: TheStudio, gear_id: str) -> Tested:
    channel = studio.channels.drivers.get(gear_id)
    return channel if channel is not None else _keeper(studio, gear_id)


def _running(studio: TheStudio, run_id: str) -> str:
    run = studio.runner.view.run(run_id)
    if run is None or run.started_at is None:
        raise Refused(409, "It is already over.")
    return run_id


def _waiting(studio: TheStudio, run_id: str) -> str:
    run = studio.runner.view.run(run_id)
    if run is None or run.started_at is not None:
        raise Refused(409, "It is no longer waiting.")
    return run_id


TheCue = Annotated[Cue, Depends(_cue)]
TheJar = Annotated[Jar, Depends(_jar)]
TheMedia = Annotated[MediaEntry, Depends(media_of)]
TheWords = Annotated[WordList, Depends(_words)]
ThePattern = Annotated[HapticPattern, Depends(_pattern)]
TheInlet = Annotated[Inlet, Depends(_inlet)]
TheOverlay = Annotated[OverlayEntry, Depends(_overlay)]
TheLook = Annotated[RestingLook, Depends(_look)]
TheGear = Annotated[Gear, Depends(_gear)]
TheKeeper = Annotated[Keeper, Depends(_keeper)]
"""The driver of gear that is on."""
TheTested = Annotated[Tested, Depends(_tested)]
"""Anything that can be asked whether a piece of gear is there."""
Running = Annotated[str, Depends(_running)]
"""A running run, by its id."""
Waiting = Annotated[str, Depends(_waiting)]
"""A waiting run, by its id."""
