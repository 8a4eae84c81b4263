"""All kinds of beat. A new kind is a file beside this one, its name in `MODULES`, and its model in `AnyBeat`."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Annotated, Any

from pydantic import Field

from cuejar.core.facts.orders import Show
from cuejar.core.kinds import (
    avatar,
    bar,
    burst,
    caption,
    chance,
    clip,
    count,
    do,
    draw,
    filter,
    fire,
    haptics,
    hook,
    keys,
    light,
    picture,
    points,
    reply,
    reward,
    scene,
    sound,
    source,
    speech,
    tap,
    throw,
    voice,
    win,
)
from cuejar.core.kinds import (
    set as set_,
)
from cuejar.core.kinds.base import Kind
from cuejar.core.parts.steps import FromJar

MODULES = (
    picture, clip, sound, speech, caption, bar, burst, throw, haptics, scene, source, filter, light, avatar, voice, keys, set_, reward, tap,
    do, hook, count, reply, fire, chance, draw, points, win,
)  # fmt: skip
KINDS: dict[str, Kind[Any]] = {module.KIND.name: module.KIND for module in MODULES}
"""Every kind by its name, in order; each knows its own class of beat."""

AnyBeat = Annotated[
    picture.PictureBeat
    | clip.ClipBeat
    | sound.SoundBeat
    | speech.SpeechBeat
    | caption.CaptionBeat
    | bar.BarBeat
    | burst.BurstBeat
    | throw.ThrowBeat
    | haptics.HapticsBeat
    | scene.SceneBeat
    | source.SourceBeat
    | filter.FilterBeat
    | light.LightBeat
    | avatar.AvatarBeat
    | voice.VoiceBeat
    | keys.KeysBeat
    | set_.SetBeat
    | reward.RewardBeat
    | tap.TapBeat
    | do.DoBeat
    | hook.HookBeat
    | count.CountBeat
    | reply.ReplyBeat
    | fire.FireBeat
    | chance.ChanceBeat
    | draw.DrawBeat
    | points.PointsBeat
    | win.WinBeat,
    Field(discriminator="kind"),
]

OUTPUTS = frozenset({kind.output for kind in KINDS.values()} | set(KINDS))
"""Possible names of a house switch: a kind of output, or a single kind of beat."""


def fired(beats: Iterable[Any]) -> Iterator[str | FromJar]:
    """Yields what these beats fire: cues, or jars that they draw cues from."""
    for beat in beats:
        if (cue := KINDS[beat.kind].fires(beat)) is not None:
            yield cue


def is_spoken(order: object) -> bool:
    """Returns whether an order shows a text that is read aloud."""
    return isinstance(order, Show) and KINDS[order.kind].speaks


UNION_TAGS = frozenset(KINDS) | {"seconds", "loops", "word", "file", "jar", "text"}
