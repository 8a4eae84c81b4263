"""The parts of a kind of beat.

* A **shown** beat (picture, sound, speech, haptics, …) is up for its length and then gone.
* A **hold** (scene, filter, light, …) keeps properties of the gear at a value for its length; then they return.
* A **strike** (a hook, a count, a reply, …) has no length.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Generic, Literal, NamedTuple, Protocol, TypeVar

from cuejar.core.facts.happenings import MediaFacts, PropertyValue, Renamed, Shown, Viewer
from cuejar.core.facts.paths import Family, path_of
from cuejar.core.kinds.gear import kind_of, things_of
from cuejar.core.measures.catalogue import Catalogues, NotThere
from cuejar.core.measures.colour import RANDOM, as_hex
from cuejar.core.parts.base import JsonObject
from cuejar.core.parts.folding import folded
from cuejar.core.parts.gear import Gear, HapticPattern
from cuejar.core.parts.steps import Beat, ForLoops, FromFace, FromFile, FromJar

Way = Literal["shown", "hold", "strike"]
Noticed = Literal["seen", "heard", "felt", "held"]
"""How a beat counts in the figures of a night while it is up."""
Act = Literal["sends", "rolls", "draws", "fires", "counts", "gives", "wins"]
"""What happens at a strike: it is sent to whoever does it, an outcome is rolled, a viewer is drawn, a cue is fired, a
count goes up, points are given, somebody wins.
"""
Fields = str
"""Names of fields with spaces between them."""


class CannotDo(Exception):
    """A beat can't do its work; the text says why, in the streamer's words."""


class Lengths(Protocol):
    """The lengths of things."""

    def known(self, media_id: str) -> MediaFacts | None: ...
    def of_media(self, media_id: str, loops: int | None) -> int: ...
    def of_speech(self, text: str, part: str | None) -> int: ...
    def of_pattern(self, name: str, loops: int | None) -> int: ...
    def spelled(self, combo: str) -> str: ...
    def drawable(self, jar: str) -> list[str]:
        """What a jar of the book can give."""


class StartingBeat(Protocol):
    """A beat of a starting run; its values are filled in.

    ``own`` is its length in ms if known, ``value`` what is shown or struck, ``sets`` the values it holds.
    """

    own: int | None
    value: Shown
    sets: list[tuple[str, PropertyValue]]

    @property
    def id(self) -> str: ...

    @property
    def is_unmeasured(self) -> bool:
        """Returns whether its length is that of its media, and not known yet."""


class Resolving(Protocol):
    """What a beat may ask when its run starts."""

    @property
    def lengths(self) -> Lengths: ...
    @property
    def catalogues(self) -> Catalogues: ...
    @property
    def gear(self) -> Sequence[Gear]: ...
    @property
    def patterns(self) -> Sequence[HapticPattern]: ...
    @property
    def viewer_id(self) -> str:
        """Who called; empty: nobody."""

    @property
    def person(self) -> Viewer | None:
        """Whom the beat is for: who called, or who was drawn."""

    @property
    def has_points(self) -> bool:
        """Whether there are points of ours."""

    @property
    def number(self) -> int | None:
        """The number in the viewer's text, if the door read one."""

    def fill(self, template: str, said: bool = False) -> str:
        """Fills in a template; ``said``: for reading aloud."""

    def words(self, beat: StartingBeat, source: str | FromJar, said: bool = False) -> str:
        """Fills in a template, or draws from a jar."""

    def values(self) -> JsonObject:
        """Everything that a template may use."""

    def filled(self, template: str, form: str) -> str: ...
    def progress(self, count: str) -> JsonObject:
        """Returns a count as ``{"name", "now", "goal"}``."""

    def draw(self, beat: StartingBeat, source: FromJar) -> list[str]:
        """Raises CannotDo: the jar has nothing."""

    def media(self, beat: StartingBeat, source: FromFile | FromJar | FromFace) -> list[str]:
        """Raises CannotDo: the file is missing."""

    def one_source(self, beat: StartingBeat, scene: str, beginning: str) -> str:
        """Returns a random source of a scene. Raises CannotDo: there is none."""

    def sources(self, scene: str) -> Sequence[str]: ...
    def in_set(self, named: str) -> Sequence[str]:
        """Returns the rewards of a set."""

    def lamps(self) -> list[str]:
        """Returns the known lamps when the book names none."""

    def colour(self, path: str | None) -> str: ...
    def random_colour(self, path: str | None) -> str: ...
    def speech_ms(self, beat: StartingBeat) -> int | None:
        """Returns the length of the speech made for it: 0 if that failed, None while it is being made."""

    def reckoned_ms(self, text: str, part: str | None) -> int:
        """Returns the estimated length of a speech that is still being made."""

    def draw_viewer(self, beat: StartingBeat, jar: str | None) -> tuple[list[str], JsonObject | None]:
        """Returns names from the draw for show, and who was drawn, with id and name; None if there is nobody."""

    def roll(self, beat: StartingBeat, rolled: Beat) -> tuple[list[int], str]:
        """Returns the faces and the outcome of a chance beat."""


class Snag(NamedTuple):
    """Something in a beat that can't work: the check, what is wrong, what would fix it, and the key whose name may be
    meant.
    """

    check: str
    what: str
    mend: str = ""
    key: str = ""
    near: tuple[str, ...] = ()
    is_error: bool = False


class CheckContext(Protocol):
    """What a check of a beat may use. ``rest`` are the known rest values."""

    @property
    def lengths(self) -> Lengths: ...
    @property
    def catalogues(self) -> Catalogues: ...
    @property
    def rest(self) -> Mapping[str, PropertyValue]: ...
    @property
    def gear(self) -> Sequence[Gear]: ...
    @property
    def by_id(self) -> Mapping[str, Gear]: ...
    @property
    def targets(self) -> frozenset[str]: ...
    @property
    def patterns(self) -> Sequence[HapticPattern]: ...
    @property
    def hosts(self) -> frozenset[str]:
        """The hosts that hooks may call."""

    def may_switch(self, cue: OtherBeats) -> bool:
        """Returns whether a cue may switch to another scene itself."""


class Ref(NamedTuple):
    """A reference of a beat: which list of the book, which id, and at which of its keys.

    ``loose``: the book needn't have it (a count begins with its first number, a pattern may be the wearable's own).
    """

    what: str
    id: str
    at: tuple[str | int, ...]
    loose: bool = False


class Power(NamedTuple):
    """Something that can be done; ``what`` says it in words, ``kind`` and ``of`` identify it."""

    kind: str
    of: str
    what: str

    @property
    def key(self) -> str:
        return f"{self.kind}:{self.of}"


B = TypeVar("B", bound=Beat)


class Asking(Protocol):
    """What a beat may ask to say what it could do beyond the overlay."""

    def gear(self, id: str) -> Gear | None: ...
    def named(self, what: str, id: str) -> str:
        """The name of an entry of one of the book's lists."""

    def words(self, text: str | FromJar) -> str:
        """A text, or what is drawn, cut to a length that can be read."""

    def value(self, name: str, value: Any) -> str:
        """A field's value in words, cut likewise."""

    def keys(self, combo: str) -> str: ...
    def power(self, beat: Any, what: str, **more: Any) -> Power:
        """A permission for exactly these fields, and for ``more`` as it is now."""


class OtherBeats(Protocol):
    """The cue of a beat, for a check that looks at its other beats."""

    @property
    def beats(self) -> Sequence[Any]: ...
    @property
    def door(self) -> Any: ...


class HouseLimits(Protocol):
    """The house's limits for what is felt."""

    @property
    def haptics_level(self) -> float: ...
    @property
    def haptics_most_s(self) -> float: ...


class Named(Protocol):
    """What a beat may ask to describe its effect.

    ``whose``: how a viewer's own things are named: *your*, *the viewer’s*.
    """

    whose: str

    def media(self, source: FromFile | FromJar | FromFace | None, what: str) -> str:
        """A file or a draw in words: *Steam whistle*, *one of 6 pictures*."""

    def cue(self, source: str | FromJar) -> str: ...
    def thing(self, gear: str, thing: str) -> str: ...
    def part(self, part: str | None) -> str:
        """The part that reads; empty: the one that the text names."""


def _no_snags(beat: object, context: CheckContext) -> Iterator[Snag]:
    return iter(())


def _all_seen(beat: object, cue: OtherBeats, context: CheckContext) -> Iterator[Snag]:
    return iter(())


def _plain_power(beat: Any, asking: Asking) -> Power:
    return asking.power(beat, f"does something of the kind “{beat.kind}”")


def _no_outcomes(beat: object) -> Sequence[Any]:
    return ()


def _as_it_is(value: Shown) -> Shown:
    return value


def _no_limit(look: JsonObject, lasts_ms: int | None, house: HouseLimits) -> bool:
    return False


def _nothing(*_: object) -> None:
    return None


def _not_told(beat: object, named: Named) -> str:
    return ""


def _no_refs(beat: object) -> Iterator[Ref]:
    return iter(())


def _same(beat: JsonObject, renamed: Renamed) -> JsonObject:
    return beat


LOOK_FIELDS = frozenset(
    {"id", "kind", "start", "length", "only_if", "whose", "media", "text", "outcomes", "dice", "pattern"}
)
"""Fields of a beat that don't affect how it looks and sounds."""


def look_of(beat: Beat) -> JsonObject:
    """Returns how a beat looks and sounds, for the pages that show it."""
    return beat.model_dump(mode="json", by_alias=True, exclude=set(LOOK_FIELDS))


@dataclass(frozen=True)
class Kind(Generic[B]):
    """A kind of beat.

    Attributes:
        model: its model in the book.
        way: which of the three it is.
        output: the kind of output whose mark and switch it uses.
        resolve: decides its values when its run starts; raises CannotDo or NotThere.
        gear: the kind of gear it needs.
        snags: returns what can't work as it is set up.
        holds: the first property it holds, as far as known before it runs; may raise NotThere.
        needless: why it would have no effect with the current rest values; may raise NotThere.
        refs: its references in the book.
        renamed: the beat's JSON after a rename on the gear.
        own_ms: its length if it has none of its own, or a natural one that its settings define.
        span_ms: its shortest and longest natural length before its run; None if its media decide.
        look: how it looks and sounds, for a visible strike.
        limit_s: of a strike that goes out, how late it may still be sent.
        missed: of such a strike, the message if it wasn't done.
        struck: of such a strike, the id of the one piece of gear that does it, by the strike's value; None: any of its
        kind.
        noticed: how it counts in the figures of a night while it is up.
        tells: what it does in viewers' words (*shows one of 6 pictures*); empty: nothing that viewers notice.
        unnoticed: what it does, for the streamer, if viewers don't notice it.
        harmless: the fields that are imported from a file as they are.
        asked: those that are imported only if allowed, as they reach beyond the overlay.
        power: what it could do with them.
        act: what happens at its strike.
        fires: the cue that it fires, or the jar that it draws one from.
        counts: the count that it changes.
        outcomes: its possible outcomes, of which the roll gives one.
        first: of what is struck, what is sent at once; ``second``: what is sent once more at its end.
        to_channel: whether the channel does its strikes, not gear.
        speaks: whether its value is a text that is read aloud.
        captions: whether its value is its text, to be read on the overlay.
        sets: returns the values it holds, if its settings alone decide them; may raise NotThere.
        latch: the keys that it latches.
        limited: whether the house limits it, by its look and its length in ms.
        unseen: why nobody would see what it holds, as far as the other beats of the cue don't help.
        choices: the names on the gear that could replace one of this sort; None: all that the gear has of it.
    """

    model: type[B]
    way: Way
    output: str
    resolve: Callable[[Resolving, StartingBeat, B], None]
    gear: str | None = None
    snags: Callable[[B, CheckContext], Iterator[Snag]] = _no_snags
    holds: Callable[[B, Lengths, Catalogues, Sequence[Gear]], str | None] = _nothing
    needless: Callable[[B, CheckContext], str | None] = _nothing
    refs: Callable[[B], Iterator[Ref]] = _no_refs
    renamed: Callable[[JsonObject, Renamed], JsonObject] = _same
    own_ms: Callable[[B], int | None] = _nothing
    span_ms: Callable[[B, Lengths, int | None, int], tuple[int, int] | None] = _nothing
    look: Callable[[B], JsonObject] = look_of
    limit_s: float | None = None
    missed: str = ""
    struck: Callable[[Shown], str] | None = None
    noticed: frozenset[Noticed] = frozenset()
    tells: Callable[[B, Named], str] = _not_told
    unnoticed: str = ""
    harmless: Fields = field(kw_only=True)
    asked: Fields = field(kw_only=True)
    power: Callable[[B, Asking], Power] = _plain_power
    act: Act = "sends"
    fires: Callable[[B], str | FromJar | None] = _nothing
    counts: Callable[[B], str | None] = _nothing
    outcomes: Callable[[B], Sequence[Any]] = _no_outcomes
    first: Callable[[Shown], Shown] = _as_it_is
    second: Callable[[Shown], Shown | None] = _nothing
    to_channel: bool = False
    speaks: bool = False
    captions: bool = False
    sets: Callable[[B, Catalogues], list[tuple[str, PropertyValue]]] | None = None
    latch: Callable[[B], str | None] = _nothing
    limited: Callable[[JsonObject, int | None, HouseLimits], bool] = _no_limit
    unseen: Callable[[B, OtherBeats, CheckContext], Iterator[Snag]] = _all_seen
    choices: Callable[[B, str, Catalogues], Sequence[str]] | None = None
    name: str = field(init=False)

    @property
    def is_seen(self) -> bool:
        return "seen" in self.noticed

    @property
    def is_heard(self) -> bool:
        return "heard" in self.noticed

    def __post_init__(self) -> None:
        object.__setattr__(self, "name", self.model.model_fields["kind"].annotation.__args__[0])  # type: ignore[union-attr]


SEEN, HEARD = frozenset[Noticed](["seen"]), frozenset[Noticed](["heard"])
FELT, HELD = frozenset[Noticed](["felt"]), frozenset[Noticed](["held"])

# Fields that several kinds have
SUDDEN: Fields = "id kind start only_if unless whose length"
COMMON: Fields = f"{SUDDEN} fade_in_s fade_out_s"
VISIBLE: Fields = f"{COMMON} place layer opacity corner flip enter leave overlays"
AUDIBLE: Fields = f"{COMMON} volume duck overlays"

# What several kinds have in common


def loops_of(beat: object) -> int | None:
    length = getattr(beat, "length", None)
    return length.loops if isinstance(length, ForLoops) else None


class _HasMedia(Protocol):
    @property
    def media(self) -> FromFile | FromJar | FromFace: ...


def show_media(r: Resolving, beat: StartingBeat, b: _HasMedia) -> None:
    """Shows files, or draws from a jar of them, each for its own length."""
    drawn = r.media(beat, b.media)
    beat.value = drawn[0] if len(drawn) == 1 else drawn
    if beat.is_unmeasured:
        beat.own = max(r.lengths.of_media(media, loops_of(b)) for media in drawn)


def hold_each(
    r: Resolving,
    beat: StartingBeat,
    gear: Family,
    names: Sequence[tuple[str, str | None]],
    numbers: Sequence[tuple[str, PropertyValue]] = (),
) -> None:
    """Holds names of things on the gear, and plain values, at the gear's properties; None is left alone."""
    beat.sets += [
        (path_of(gear, what), r.catalogues.named(gear.value, what, name)) for what, name in names if name is not None
    ]
    beat.sets += [(path_of(gear, what), value) for what, value in numbers if value is not None]


def value_of(r: Resolving, template: str, path: str | None) -> str | int:
    """Returns a template's value for gear: the viewer's colour or number, or words.

    Raises:
        CannotDo: it has no value.
    """
    if "{{colour}}" in template:
        r.colour(path)
    text = r.fill(template)
    if not text.strip():
        raise CannotDo("the viewer wrote no value")
    if "{{number}}" in template and r.number is not None:
        return r.number
    if text == RANDOM:
        return r.random_colour(path)
    return as_hex(text) if text.startswith("#") else text


def lost_thing(beat: Beat, error: NotThere, keys: Mapping[str, str]) -> Snag:
    """Returns the snag of a thing, setting or deed that a bridge doesn't have; ``keys`` says where each name stands."""
    return lost(beat, keys.get(error.name, "thing"), error)


def no_bridge(beat: Beat, gear: str, context: CheckContext) -> Iterator[Snag]:
    """Returns the snag of a beat whose gear has no things."""
    named = context.by_id.get(gear)
    if named is not None and kind_of(named.kind).paths is not things_of:
        what = f"“{beat.id}” needs a thing, but {named.name or gear} has none ({kind_of(named.kind).title.lower()})."
        yield Snag("no_bridge", what, "Choose a bridge.", "gear", is_error=True)


def lost(beat: Beat, key: str, error: NotThere) -> Snag:
    """Returns the snag of a name that the gear doesn't have."""
    mend = f"Use “{error.near[0]}”." if error.near else "Choose another."
    return Snag("lost_name", f"“{beat.id}”: {error}.", mend, key, tuple(error.near), True)


def lost_names(
    beat: Beat, gear: str, names: Sequence[tuple[str, str, str | None]], catalogues: Catalogues
) -> Iterator[Snag]:
    """Yields a snag for each (key, what, name) that the gear doesn't have."""
    for key, what, name in names:
        if name is None:
            continue
        try:
            catalogues.named(gear, what, name)
        except NotThere as error:
            yield lost(beat, key, error)


def named_now(name: str, renamed: Renamed) -> str:
    """Returns a name after a rename."""
    return renamed.new if isinstance(name, str) and folded(name) == folded(renamed.old) else name
