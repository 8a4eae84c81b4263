"""Before going on air: what wouldn't work tonight, or not as expected, and how to fix it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Literal, NamedTuple

GIGABYTE = 1_000_000_000
LOW_BYTES = GIGABYTE


class GearThere(NamedTuple):
    """A piece of gear or a channel, as it is now."""

    name: str
    kind: str
    state: str
    problem: str = ""


class OverlayThere(NamedTuple):
    """An overlay that viewers see: its pages, and on how many of them the browser blocks the sound."""

    name: str
    pages: int
    blocked: int = 0


class Tonight(NamedTuple):
    """The input of the checks. ``errors`` and ``warnings`` are the names of cues with snags; ``off`` kinds of output
    that are off with the names of the cues that use them; ``tries`` are cues being tried faster than on air;
    ``locked`` are locked devices with pads.
    """

    house_open: bool
    volume: float
    errors: Sequence[str]
    warnings: Sequence[str]
    gear: Sequence[GearThere]
    overlays: Sequence[OverlayThere]
    off: Mapping[str, Sequence[str]]
    tries: Sequence[str]
    free_bytes: int
    troubles: Sequence[str]
    locked: Sequence[str] = ()


class Concern(NamedTuple):
    """A problem: how bad it is, what it is, how to fix it, and on which page."""

    check: str
    grade: Literal["error", "warning"]
    what: str
    mend: str
    page: str


def _named(names: Sequence[str]) -> str:
    some = ", ".join(f"“{name}”" for name in names[:3])
    return f"{some} and {len(names) - 3} more" if len(names) > 3 else some


def concerns(tonight: Tonight) -> list[Concern]:
    """Returns every problem, worst first."""
    return sorted(_concerns(tonight), key=lambda one: one.grade != "error")


def _concerns(t: Tonight) -> Iterator[Concern]:
    for trouble in t.troubles:
        yield Concern("trouble", "error", trouble, "Fix this first.", "/rig")
    channels = [gear for gear in t.gear if gear.kind == "channel"]
    if not channels:
        yield Concern(
            "channel", "error", "No channel is connected, so viewers can’t call anything.", "Connect one.", "/opening"
        )
    for gear in t.gear:
        if gear.state == "away":
            why = f": {gear.problem}" if gear.problem else ""
            yield Concern(
                "away",
                "error",
                f"{gear.name} isn’t connected{why}.".replace("..", "."),
                "Check it on the Rig page.",
                "/rig",
            )
    if t.errors:
        what = (
            f"{_named(t.errors)} can’t work." if len(t.errors) == 1 else f"{_named(t.errors)} can’t work as they are."
        )
        yield Concern("snags", "error", what, "Fix them on the Snags page.", "/snags")
    seen = [overlay for overlay in t.overlays if overlay.pages]
    if not seen:
        yield Concern(
            "overlay",
            "error",
            "No overlay is connected, so nothing can be seen or heard.",
            "Copy its link.",
            "/opening",
        )
    for overlay in seen:
        if overlay.blocked:
            what = f"The browser blocks the sound of {overlay.name}."
            yield Concern("blocked", "error", what, "Click the page once.", "/opening")
    if not t.house_open:
        yield Concern(
            "house", "error", "The house is closed, so every call is refused.", "Open it in the top bar.", "/desk"
        )
    for device in t.locked:
        what = f"{device} is locked after too many wrong signatures."
        yield Concern("locked", "warning", what, "Unlock it on the Pads page if that was you.", "/pads")
    if t.volume == 0:
        yield Concern(
            "volume", "warning", "The volume is 0, so nothing can be heard.", "Turn it up on the desk.", "/desk"
        )
    for output, cues in t.off.items():
        if cues:
            what = f"{output} is switched off; {_named(cues)} {'has' if len(cues) == 1 else 'have'} it."
            yield Concern("off", "warning", what, "Switch it on at the desk if that’s a mistake.", "/desk")
    if t.tries:
        yield Concern(
            "try", "warning", f"{_named(t.tries)} is being tried at a higher speed.", "It ends by itself.", "/desk"
        )
    if t.warnings:
        what = f"{_named(t.warnings)} {'has' if len(t.warnings) == 1 else 'have'} a warning."
        yield Concern("warnings", "warning", what, "See the Snags page.", "/snags")
    if t.free_bytes < LOW_BYTES:
        what = f"Only {t.free_bytes / GIGABYTE:.1f} GB are free on the data drive."
        yield Concern("disk", "warning", what, "Free some space for the ledger and speech.", "/media")
