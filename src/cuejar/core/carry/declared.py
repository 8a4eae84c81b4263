"""How each field of the book is imported from a file: harmless, asked, or never.

``harmless``   is imported as it is
``asked``      is imported only if allowed: until then the cue is off, and the streamer's own entry stays as it was
``never``      stays as it is here: where things lie on this computer, what deletes, what switches the whole show

A field that has fields of its own is harmless as such; its own fields are declared separately. Every field of every
model is here, which a test checks: whoever adds one declares it.
"""

from __future__ import annotations

from pydantic import BaseModel

from cuejar.core.book import audience
from cuejar.core.book import book as b
from cuejar.core.kinds import chance
from cuejar.core.kinds.base import Fields
from cuejar.core.kinds.table import KINDS
from cuejar.core.parts import callkinds, gear, steps

NEVER: dict[type[BaseModel], Fields] = {
    b.House: "open air switches osc_port nights_kept nights_days listening microphone",
    b.Jar: "folder",
}

ASKED: dict[type[BaseModel], Fields] = {
    # A field of the house: hosts are asked one by one.
    b.House: "hook_places shut_out spared faces flash_guard haptics_level haptics_most_s haptics_pause_s late_s",
    b.Reading: "review links viewers",
    b.Points: "on",
    b.Reward: "title cost on review price closed elsewhere channel",
    b.WordList: "on replace entries",
    b.OverlayEntry: "private",
    callkinds.HookCall: "name",
    gear.Gear: "kind on address hook",
    gear.HookPlace: "host private",
    gear.HookOut: "method headers body timeout_s tries",
    gear.Inlet: "on kind address senders does cue switch per_min",
}

HARMLESS: dict[type[BaseModel], Fields] = {
    b.Book: "format version house lanes rewards sets counts jars cues cast gear overlays media words looks patterns inlets audiences"
    " reading points playbill",
    b.House: "volume cooldown_s viewer_cooldown_s shared_cooldown_s open_cap_s extend_cap_s loudness_lufs still_s points_per_min"
    " most_text most_name pads bots",
    b.Lane: "id name width line wait_s gap_s order",
    b.Reward: "id text prompt tags colour picture",
    b.RewardPicture: "media x y zoom",
    b.Price: "kind then factor half_life_s least most step",
    b.RewardSet: "id name rewards on scenes off_scenes categories",
    b.Count: "id name goal per feeds",
    b.Feed: "by reward",
    b.Jar: "id name kind rule entries draws",
    b.Draws: "who within_min roles tier new_only points_from caller weights",
    b.JarEntry: "value name weight on",
    b.Cue: "id name on note tags calls door lane entry volume pad hidden origin beats",
    b.Door: "who tier shut_out cooldown_s viewer_cooldown_s cooldown_from cap_stream cap_viewer cap_window categories scenes air text"
    " only_if spared",
    b.CapWindow: "count per_s",
    b.TextRule: "need kind min max too_long choices range",
    b.PadFace: "on size colour mark key",
    b.HiddenSnag: "check beat reason",
    b.Part: "id name on base rate pitch volume effect may who mouths blink",
    b.OverlayEntry: "id name width height sound picture timers ground",
    b.MediaEntry: "id name file trim licence credit",
    b.Trim: "from_s to_s",
    b.WordList: "id name",
    b.BlockedWord: "text anywhere",
    b.RestingLook: "id name values",
    b.Reading: "default max_parts most_characters most_s",
    b.Points: "name per_min member_factor follow membership month tip raid balance_word list_word",
    b.Playbill: "words left_out samples winners",
    callkinds.RewardCall: "kind reward",
    callkinds.ChatCall: "kind match text cost",
    callkinds.TipCall: "from_ to kind",
    callkinds.RaidCall: "from_ to kind",
    callkinds.FollowCall: "kind",
    callkinds.MembershipCall: "kind tier months_from months_to gifts_from gifts_to",
    callkinds.HookCall: "kind",
    callkinds.PadCall: "kind",
    callkinds.SaidCall: "kind phrase sounds",
    callkinds.ClockCall: "kind every_min at_min at_time",
    callkinds.CountCall: "kind count at every goal",
    callkinds.StreamCall: "kind state",
    callkinds.SceneCall: "kind scene",
    steps.Place: "x y w h",
    steps.Start: "at_s after edge hit",
    steps.Condition: "not_ role text_is text_has text_contains text_from text_to live category scene gear count is_ number drawn"
    " rolled value",
    steps.ForSeconds: "s",
    steps.ForLoops: "loops",
    steps.FromFile: "file",
    steps.FromJar: "jar count",
    steps.FromFace: "face",
    chance.Dice: "count sides",
    chance.Outcome: "id name when is_ number numbers weight",
    gear.Gear: "id name fixtures groups targets priority",
    gear.Fixture: "id name spared profile universe address gamma",
    gear.Group: "id name fixtures",
    gear.Target: "id name x y r",
    gear.HapticPattern: "id name length_s places frames",
    gear.BodyPlace: "side x y size",
    gear.Frame: "at_s levels curve",
    gear.Inlet: "id name fields viewer text",
    audience.Audience: "id name viewers followers members length_min calls curve likes shares manners raids hands outages seed",
    audience.CurvePoint: "at_min level",
    audience.Manners: "patient keen spammer nonsense",
    audience.RaidAt: "at_min viewers",
    audience.HandAt: "at_min path value",
    audience.Outage: "at_min for_min gear",
}


def never_of(model: type[BaseModel]) -> tuple[str, ...]:
    return tuple(NEVER.get(model, "").split())


def undeclared(model: type[BaseModel]) -> tuple[set[str], set[str]]:
    """Returns the fields of a model that are in none of the three, and those that are in two of them."""
    kind = next((one.name for one in KINDS.values() if one.model is model), None)
    if kind is not None:
        told = [KINDS[kind].asked.split(), KINDS[kind].harmless.split()]
    else:
        told = [table.get(model, "").split() for table in (NEVER, ASKED, HARMLESS)]
    said = [name for names in told for name in names]
    return set(model.model_fields) - set(said), {name for name in said if said.count(name) > 1}
