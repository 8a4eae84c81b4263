"""Which rewards can be called at all, and which sets disable theirs.

Viewers shouldn't run into a closed door: a reward is paused at the channel while all its cues would turn everybody
away. A cue is closed for everybody when

    house_closed   the house is closed, or every kind of output of the cue is switched off
    cue_off        the cue is off
    off_air        it can only be called while the stream is live, and it isn't; on_air: the other way round
    category       the stream's category isn't one of the door's
    scene          the current scene isn't one of the door's
    cap_stream     the limit per stream is reached, and no role is exempt
    gear_away      everything it does needs disconnected gear

Roles, texts, cooldowns and a viewer's own caps close it only for some or for a while; the door checks them.
"""

from __future__ import annotations

from collections.abc import Sequence

from cuejar.core.book.book import RewardSet
from cuejar.core.kinds.gear import GEAR_KINDS
from cuejar.core.kinds.table import KINDS, AnyBeat
from cuejar.core.measures.catalogue import Catalogues, NotThere
from cuejar.core.parts.gear import Gear
from cuejar.core.rules.conditions import among
from cuejar.core.rules.door import CHECKS, REASONS, Failed, Visit
from cuejar.core.rules.rig import Away
from cuejar.core.rules.score import Lengths, Score

ASKED = ("house", "cue", "air", "category", "scene", "cap_stream")
"""The checks of the door that may close it for everybody."""
SET = "set/"
"""The prefix of the run of a layer that belongs to a set."""
CLOSED = {**REASONS, "gear_away": "its gear is disconnected and it does nothing else"}
"""Why a reward is closed, in words."""


def _needs(beat: AnyBeat, lengths: Lengths, catalogues: Catalogues, gear: Sequence[Gear]) -> str | None:
    """Returns where the gear properties lie that a beat needs."""
    kind = KINDS[beat.kind]
    if kind.way == "hold":
        try:
            return kind.holds(beat, lengths, catalogues, gear)
        except NotThere:
            return None
    if kind.gear is None:
        return None
    piece = getattr(beat, "gear", None) or getattr(beat, "hook", None)
    return GEAR_KINDS[kind.gear].prefix + (f"{piece}/" if isinstance(piece, str) else "")


def can_do(score: Score, away: Away, lengths: Lengths, catalogues: Catalogues, gear: Sequence[Gear]) -> bool:
    """Returns whether something of a cue can be done with the connected gear."""
    if not away.lost or not score.specs:
        return True
    paths = [_needs(spec.beat, lengths, catalogues, gear) for spec in score.specs if not spec.off]
    return any(path is None or not away.is_away(path) for path in paths)


def closed_to_all(visit: Visit) -> Failed | None:
    """Returns why a door would turn everybody away, as far as the door itself knows."""
    for name in ASKED:
        if name == "cap_stream" and visit.doorway.spares_some:
            continue
        if (failed := CHECKS[name].ask(visit)) is not None:
            return failed
    return None


def is_off(named: RewardSet, scene: str | None, category: str | None) -> bool:
    """Returns whether a set disables its rewards now."""
    return (
        not named.on
        or bool(named.scenes and not among(scene, named.scenes))
        or among(scene, named.off_scenes)
        or bool(named.categories and not among(category, named.categories))
    )
