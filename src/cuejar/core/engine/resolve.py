"""What a beat comes to when its run starts: what was rolled, what was drawn, the words with the viewer's in them.

Nothing is resolved before the start: someone who waits draws from the jar as it is when their turn comes. The order is
rolls first, then each beat in its place; a condition on what another beat drew settles that beat first. A beat whose
condition does not hold is left out and draws nothing; a beat that cannot do its work (an empty jar, a missing file)
fails with a line that says why, and the others go on.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping
from typing import Any

from cuejar.core.book.base import ms
from cuejar.core.book.beats import Condition, ForLoops, FromFile, FromJar
from cuejar.core.book.book import Book
from cuejar.core.book.folding import folded
from cuejar.core.book.gear import HookOut, meant_lamps
from cuejar.core.facts.orders import Draw, Fail, Order
from cuejar.core.measures.colour import RANDOM, as_hex, random_colour, read_colour
from cuejar.core.measures.haptics import found
from cuejar.core.measures.lamps import Motion
from cuejar.core.rules.catalogue import Catalogues, NotThere, near_names
from cuejar.core.rules.chance import roll
from cuejar.core.rules.door import has_role
from cuejar.core.rules.draw import JarState, draw
from cuejar.core.rules.holds import Holds
from cuejar.core.rules.playscript import speakable_name
from cuejar.core.rules.run import Run, random_of
from cuejar.core.rules.score import LEFT_OUT, Lengths, RunBeat
from cuejar.core.rules.words import filled, normalised

NOT_SAID = "the text could not be turned into speech"


class CannotDo(Exception):
    """A beat cannot do its work; the text says why, in the streamer's words."""


class Jars:
    """The jars of the book with what they remember, and what their folders hold."""

    def __init__(self) -> None:
        self.states: dict[str, JarState] = {}
        self.folders: dict[str, tuple[str, ...]] = {}

    def can_be_drawn(self, book: Book, lengths: Lengths, jar_id: str) -> list[tuple[str, float]]:
        """The entries that can be drawn now with their weights: switched on, and their file or cue there."""
        jar = lengths.jars[jar_id]
        entries = [(entry.value, entry.weight) for entry in jar.entries if entry.on and entry.weight > 0]
        listed = {entry.value for entry in jar.entries}
        entries += [(value, 1.0) for value in self.folders.get(jar_id, ()) if value not in listed]
        if jar.kind == "media":
            return [(value, weight) for value, weight in entries if lengths.known(value) is not None]
        if jar.kind == "cue":
            on = {cue.id for cue in book.cues if cue.on}
            return [(value, weight) for value, weight in entries if value in on]
        return entries

    def snapshot(self) -> dict[str, Any]:
        states = {jar: [s.last, list(s.bag), s.filled_with] for jar, s in self.states.items()}
        return {"states": states, "folders": {jar: list(values) for jar, values in self.folders.items()}}

    def restore(self, data: Mapping[str, Any]) -> None:
        self.states = {jar: JarState(last, list(bag), with_) for jar, (last, bag, with_) in data["states"].items()}
        self.folders = {jar: tuple(values) for jar, values in data["folders"].items()}


class Resolver:
    """Everything that beats may look at when they are resolved."""

    def __init__(
        self, book: Book, lengths: Lengths, jars: Jars, holds: Holds, seed: int, speech_grace: int = 0
    ) -> None:
        self.book, self.lengths, self.jars, self.holds, self.seed = book, lengths, jars, holds, seed
        self.counts: Counter[str] = Counter()
        self.cue_counts: dict[str, int] = {}
        self.by_viewer: dict[str, dict[str, int]] = {}
        self.sources: dict[str, tuple[str, ...]] = {}
        self.catalogues = Catalogues()
        self.speech_grace = speech_grace

    def resolve(self, run: Run) -> list[Order]:
        """Gives every beat of the run its value, or leaves it out, or has it fail. Returns the draws and failures."""
        if run.score.settled and run.speed == 1 and not run.forced:
            return self._settled(run)
        specs = [spec.faster(run.speed) for spec in run.score.specs] if run.speed > 1 else run.score.specs
        run.beats = [RunBeat(spec, spec.own) for spec in specs]
        return _Resolving(self, run).all()

    def _settled(self, run: Run) -> list[Order]:
        """The short way for a cue whose beats are the same in every run."""
        failed: list[Order] = []
        for spec in run.score.specs:
            beat = RunBeat(spec, spec.own)
            run.beats.append(beat)
            if spec.sets is not None:
                try:
                    path, scene = spec.sets[0]
                    beat.sets = [(path, self.catalogues.scene(scene))] if self.catalogues.known else spec.sets
                except NotThere as problem:
                    beat.failed, beat.own = str(problem), 0
                    failed.append(Fail(run.id, spec.id, beat.failed))
            elif spec.file is not None:
                beat.value = spec.file
                if self.lengths.known(spec.file) is None:
                    beat.failed = f"the file “{spec.file}” is missing"
                    beat.own = 0
                    failed.append(Fail(run.id, spec.id, beat.failed))
        return failed

    def beforehand(self, run: Run, template: str) -> str:
        """The words of a waiting run as far as they can be known: nothing is drawn or rolled yet."""
        return _Resolving(self, run).fill(template, said=True)

    def started(self, run: Run) -> None:
        """Counts a run of its cue, in all and for its viewer."""
        cue = run.score.id
        self.cue_counts[cue] = self.cue_counts.get(cue, 0) + 1
        if run.viewer is not None:
            counts = self.by_viewer.setdefault(cue, {})
            counts[run.viewer.id] = counts.get(run.viewer.id, 0) + 1

    def snapshot(self) -> dict[str, Any]:
        return {
            "counts": dict(self.counts),
            "cue_counts": dict(self.cue_counts),
            "by_viewer": {cue: dict(counts) for cue, counts in self.by_viewer.items()},
            "sources": {scene: list(sources) for scene, sources in self.sources.items()},
            "catalogues": self.catalogues.snapshot(),
        }

    def restore(self, data: Mapping[str, Any]) -> None:
        self.counts = Counter(data["counts"])
        self.cue_counts = dict(data["cue_counts"])
        self.by_viewer = {cue: dict(counts) for cue, counts in data["by_viewer"].items()}
        self.sources = {scene: tuple(sources) for scene, sources in data["sources"].items()}
        self.catalogues.restore(data.get("catalogues", {}))


class _Resolving:
    def __init__(self, by: Resolver, run: Run) -> None:
        self.by, self.run = by, run
        self.orders: list[Order] = []
        self.beats = {beat.spec.id: beat for beat in run.beats}
        self.begun: set[str] = set()
        self.drawn: dict[str, str] = {}
        self.rolled: dict[str, str] = {}
        self._random: Callable[[], float] | None = None
        self._colour: str | None = None
        self._values: dict[str, Any] | None = None

    def random(self) -> float:
        if self._random is None:
            self._random = random_of(self.by.seed, self.run.number)
        return self._random()

    def all(self) -> list[Order]:
        for beat in self.run.beats:
            if beat.spec.kind == "chance":
                self._one(beat)
        for beat in self.run.beats:
            self._one(beat)
        return self.orders

    def _one(self, beat: RunBeat) -> None:
        if beat.spec.id in self.begun:
            return
        self.begun.add(beat.spec.id)
        if not all(self._holds(condition) for condition in beat.spec.beat.only_if):
            beat.state = LEFT_OUT
            return
        try:
            _WORK[beat.spec.kind](self, beat, beat.spec.beat)
        except (CannotDo, ValueError) as problem:
            beat.failed, beat.own = str(problem), 0
            self.orders.append(Fail(self.run.id, beat.spec.id, str(problem)))

    def _holds(self, condition: Condition) -> bool:
        run = self.run
        if condition.role is not None:
            return run.viewer is not None and has_role(run.viewer, condition.role)
        if condition.text_has is not None:
            return folded(condition.text_has) in folded(run.text.text).split()
        if condition.count is not None:
            return _compared(self._count(condition.count), condition.is_, condition.number or 0)
        for beat in self.run.beats:
            if beat.spec.id == condition.drawn or (condition.rolled is not None and beat.spec.kind == "chance"):
                self._one(beat)
        if condition.rolled is not None:
            return condition.rolled in self.rolled.values()
        return folded(self.drawn.get(condition.drawn or "", "")) == folded(condition.value or "")

    def _count(self, name: str) -> int:
        cue = self.run.score.id
        if name == "all":
            return self.by.cue_counts.get(cue, 0)
        if name == "viewer":
            return self.by.by_viewer.get(cue, {}).get(self.run.viewer_id, 0)
        return self.by.counts[name]

    def values(self) -> dict[str, Any]:
        """What a template may name."""
        if self._values is None:
            run, text = self.run, self.run.text
            self._values = {
                "viewer": normalised(run.viewer.name) if run.viewer else "",
                "text": text.text,
                "colour": self.colour(None) if text.colour else "",
                "number": "" if text.number is None else str(text.number),
                "choice": text.choice or "",
                "count_viewer": self._count("viewer"),
                "count_all": self._count("all"),
                "drawn": self.drawn,
                "rolled": ", ".join(self.rolled.values()),
                "count": self.by.counts,
                **run.facts,
            }
        return self._values

    def fill(self, template: str, said: bool = False) -> str:
        """The template with its values; ``said``: for reading aloud, with names as one says them."""
        if "{{" not in template:
            return template
        if "{{rolled" in template:
            self._values = None
        values = self.values()
        if said:
            values = {**values, "viewer": speakable_name(values["viewer"])}
        return filled(template, values)

    def colour(self, path: str | None) -> str:
        """The viewer's colour; `random` becomes one colour for the whole run, away from what ``path`` shows."""
        if self._colour is None:
            said = self.run.text.colour
            if said == RANDOM:
                said = self._random_colour(path)
            self._colour = said or ""
        return self._colour

    def _random_colour(self, path: str | None) -> str:
        showing = self.by.holds.showing(path) if path else None
        near = showing if isinstance(showing, str) and read_colour(showing) else None
        return random_colour(self.random, near)

    def draw(self, beat: RunBeat, source: FromJar) -> list[str]:
        forced = self.run.forced.get(beat.spec.id)
        entries = self.by.jars.can_be_drawn(self.by.book, self.by.lengths, source.jar)
        if forced is not None:
            drawn = [forced]
        else:
            numbers: list[float] = []

            def note() -> float:
                numbers.append(self.random())
                return numbers[-1]

            state = self.by.jars.states.setdefault(source.jar, JarState())
            rule = self.by.lengths.jars[source.jar].rule
            drawn = draw(entries, rule, state, note, source.count)
            self.orders.append(Draw(self.run.id, beat.spec.id, source.jar, entries, numbers, drawn))
        if not drawn:
            raise CannotDo(f"the jar “{source.jar}” has nothing that can be drawn")
        self.drawn[beat.spec.id] = ", ".join(drawn)
        return drawn

    def words(self, beat: RunBeat, source: str | FromJar, said: bool = False) -> str:
        return self.fill(self.draw(beat, source)[0] if isinstance(source, FromJar) else source, said)

    def media(self, beat: RunBeat, source: FromFile | FromJar) -> list[str]:
        if isinstance(source, FromJar):
            return self.draw(beat, source)
        if self.by.lengths.known(source.file) is None:
            raise CannotDo(f"the file “{source.file}” is missing")
        return [source.file]


def _compared(count: int, how: str, number: int) -> bool:
    return {"=": count == number, ">=": count >= number, "<=": count <= number}[how]


def _media_beat(r: _Resolving, beat: RunBeat, b: Any) -> None:
    drawn = r.media(beat, b.media)
    beat.value = drawn[0] if len(drawn) == 1 else drawn
    if beat.own is None and beat.spec.length in ("natural", "loops"):
        loops = b.length.loops if isinstance(b.length, ForLoops) else None
        beat.own = max(r.by.lengths.of_media(media, loops) for media in drawn)


def _speech(r: _Resolving, beat: RunBeat, b: Any) -> None:
    beat.value = r.words(beat, b.text, said=True)
    if not beat.value.strip():
        raise CannotDo("there is nothing to say")
    if r.run.speech_ms.get(beat.spec.id) == 0:
        raise CannotDo(NOT_SAID)
    if beat.own is None and beat.spec.length in ("natural", "loops"):
        ready = r.run.speech_ms.get(beat.spec.id)
        reckoned = r.by.lengths.of_speech(beat.value, b.part) + r.by.speech_grace
        beat.own = ready if ready is not None else reckoned


def _caption(r: _Resolving, beat: RunBeat, b: Any) -> None:
    beat.value = r.words(beat, b.text)
    if not beat.value.strip():
        raise CannotDo("the caption is empty")
    if beat.own is None and beat.spec.length in ("natural", "loops"):
        beat.own = r.by.lengths.of_speech(beat.value, None)


def _particles(r: _Resolving, beat: RunBeat, b: Any) -> None:
    beat.value = r.media(beat, b.media) if b.media is not None else getattr(b, "shape", "drop")
    if beat.own is None and beat.spec.length in ("natural", "loops"):
        beat.own = ms(getattr(b, "life_s", 3))


def _haptics(r: _Resolving, beat: RunBeat, b: Any) -> None:
    pattern = found(r.by.book.patterns, b.pattern)
    if pattern is None and r.by.book.patterns:
        near = near_names(b.pattern, [p.name for p in r.by.book.patterns])
        raise NotThere("pattern", b.pattern, near, "in the book")
    beat.value = pattern.id if pattern is not None else b.pattern
    if beat.own is None and beat.spec.length in ("natural", "loops"):
        loops = b.length.loops if isinstance(b.length, ForLoops) else None
        beat.own = r.by.lengths.of_pattern(b.pattern, loops)


def _scene(r: _Resolving, beat: RunBeat, b: Any) -> None:
    beat.sets = [("broadcast/scene", r.by.catalogues.scene(b.scene))]


def _one_source(r: _Resolving, beat: RunBeat, b: Any, scene: str, listed: tuple[str, ...]) -> str:
    fitting = [(s, 1.0) for s in listed if folded(s).startswith(folded(b.beginning))]
    numbers: list[float] = []

    def note() -> float:
        numbers.append(r.random())
        return numbers[-1]

    state = r.by.jars.states.setdefault(f"sources/{scene}", JarState())
    forced = r.run.forced.get(beat.spec.id)
    drawn = [forced] if forced is not None else draw(fitting, "no_repeat", state, note)
    if not drawn:
        raise CannotDo(f"the scene “{scene}” has no source beginning with “{b.beginning}”")
    r.orders.append(Draw(r.run.id, beat.spec.id, f"sources/{scene}", fitting, numbers, drawn))
    r.drawn[beat.spec.id] = drawn[0]
    return drawn[0]


def _source(r: _Resolving, beat: RunBeat, b: Any) -> None:
    scene = r.by.catalogues.scene(b.scene)
    listed = r.by.sources.get(scene, ())
    if b.any_source:
        chosen = _one_source(r, beat, b, scene, listed)
    else:
        scene, chosen = r.by.catalogues.source(scene, b.source)
    beat.sets = [(f"broadcast/source/{scene}/{chosen}/visible", b.visible)]
    if b.hide_others:
        others = [s for s in listed if s != chosen and folded(s).startswith(folded(b.beginning))]
        beat.sets += [(f"broadcast/source/{scene}/{other}/visible", not b.visible) for other in others]


def _filter(r: _Resolving, beat: RunBeat, b: Any) -> None:
    known = r.by.catalogues
    meant = [known.filter(source, b.filter, b.setting) for source in b.sources]
    paths = [f"broadcast/filter/{source}/{name}/{setting}" for source, name, setting in meant]
    value = b.value
    if isinstance(value, str):
        value = _filled_value(r, value, paths[0])
    beat.sets = [(path, known.fitting(*where, value)) for path, where in zip(paths, meant, strict=True)]


def _filled_value(r: _Resolving, template: str, path: str) -> Any:
    """What a template comes to as the value of a setting: the viewer's colour or number, or words."""
    if "{{colour}}" in template:
        r.colour(path)
    text = r.fill(template)
    if not text.strip():
        raise CannotDo("there is no value: the viewer wrote none")
    if "{{number}}" in template and r.run.text.number is not None:
        return r.run.text.number
    if text == RANDOM:
        return r._random_colour(path)
    return as_hex(text) if text.startswith("#") else text


def _light(r: _Resolving, beat: RunBeat, b: Any) -> None:
    fixtures = _fixtures(r, b.fixtures)
    if not fixtures:
        raise CannotDo("there are no lamps")
    if b.colour is not None:
        path = f"light/{fixtures[0]}/colour"
        if isinstance(b.colour, str) and "{{colour}}" in b.colour:
            r.colour(path)
        colour = as_hex(r.words(beat, b.colour))
        if not colour:
            raise CannotDo("there is no colour: the viewer named none")
        if colour == RANDOM:
            colour = r._random_colour(path)
        beat.sets += [(f"light/{fixture}/colour", colour) for fixture in fixtures]
    if b.level is not None:
        beat.sets += [(f"light/{fixture}/level", b.level) for fixture in fixtures]
    if b.look is not None:
        looks = [Motion(b.look, b.period_s, i, len(fixtures)) for i in range(len(fixtures))]
        beat.sets += [(f"light/{fixture}/look", str(look)) for fixture, look in zip(fixtures, looks, strict=True)]


def _fixtures(r: _Resolving, wanted: Any) -> list[str]:
    gear = [g for g in r.by.book.gear if g.kind == "lights"]
    if gear or wanted != "all":
        return meant_lamps(gear, wanted)
    known = [path.split("/")[1] for path in r.by.holds.wanted() if path.startswith("light/")]
    return list(dict.fromkeys(known))


def _avatar(r: _Resolving, beat: RunBeat, b: Any) -> None:
    named = r.by.catalogues.named
    for what in ("model", "outfit", "pose"):
        name = getattr(b, what)
        if name is not None:
            beat.sets.append((f"avatar/{what}", named("avatar", what, name)))
    for name in [*([b.expression] if b.expression else []), *b.expressions]:
        beat.sets.append((f"avatar/expression/{named('avatar', 'expression', name)}", "on"))
    beat.sets = list(dict.fromkeys(beat.sets))


def _voice(r: _Resolving, beat: RunBeat, b: Any) -> None:
    if b.preset is not None:
        beat.sets.append(("voice/preset", r.by.catalogues.named("voice", "preset", b.preset)))
    beat.sets += [(f"voice/{what}", value) for what in ("pitch", "mix") if (value := getattr(b, what)) is not None]


def _keys(r: _Resolving, beat: RunBeat, b: Any) -> None:
    beat.sets = [(f"keys/{r.by.lengths.spelled(b.combo)}", "on")]


def _reward(r: _Resolving, beat: RunBeat, b: Any) -> None:
    for reward in b.rewards:
        if b.on is not None:
            beat.sets.append((f"reward/{reward}/on", b.on))
        if b.cost is not None:
            beat.sets.append((f"reward/{reward}/cost", b.cost))


def _tap(r: _Resolving, beat: RunBeat, b: Any) -> None:
    beat.value = b.combo


def _hook(r: _Resolving, beat: RunBeat, b: Any) -> None:
    values = r.values()
    beat.value = {"hook": b.hook, "payload": filled(b.payload, values, "json")}
    if any(gear.id == b.hook and (gear.address or gear.hook != HookOut()) for gear in r.by.book.gear):
        # The hook's own templates are filled where it goes out: they may hold secrets, which no ledger may have.
        beat.value["values"] = {**values, "count": dict(values["count"]), "drawn": dict(values["drawn"])}
    if b.then_s is not None:
        beat.value["then"] = filled(b.then_payload, values, "json")


def _count(r: _Resolving, beat: RunBeat, b: Any) -> None:
    beat.value = {"name": b.name, "add": b.add}


def _reply(r: _Resolving, beat: RunBeat, b: Any) -> None:
    beat.value = r.words(beat, b.text)
    if not beat.value.strip():
        raise CannotDo("the reply is empty")


def _fire(r: _Resolving, beat: RunBeat, b: Any) -> None:
    beat.value = r.draw(beat, b.cue)[0] if isinstance(b.cue, FromJar) else b.cue


def _chance(r: _Resolving, beat: RunBeat, b: Any) -> None:
    faces, outcome = roll(b, r.random, r.run.forced.get(beat.spec.id))
    beat.value = {"faces": faces, "outcome": outcome}
    r.rolled[beat.spec.id] = outcome


_WORK: dict[str, Callable[[_Resolving, RunBeat, Any], None]] = {
    "picture": _media_beat,
    "clip": _media_beat,
    "sound": _media_beat,
    "speech": _speech,
    "caption": _caption,
    "burst": _particles,
    "throw": _particles,
    "haptics": _haptics,
    "scene": _scene,
    "source": _source,
    "filter": _filter,
    "light": _light,
    "avatar": _avatar,
    "voice": _voice,
    "keys": _keys,
    "reward": _reward,
    "tap": _tap,
    "hook": _hook,
    "count": _count,
    "reply": _reply,
    "fire": _fire,
    "chance": _chance,
}
