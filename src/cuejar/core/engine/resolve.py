"""Decides the values of a beat when its run starts: what is rolled, what is drawn, the words with the viewer's text.

Nothing is decided before the start: a waiting viewer draws from the jar as it is when their turn comes. The order is
rolls first, then each beat in its place; a condition on what another beat drew settles that beat first. A beat whose
condition does not hold is left out and draws nothing; a beat that cannot do its work (an empty jar, a missing file)
fails with a line that says why, and the others go on.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence

from cuejar.core.book.book import Book, Jar
from cuejar.core.engine.night import Night
from cuejar.core.facts.happenings import Viewer
from cuejar.core.facts.orders import Draw, Fail, Order
from cuejar.core.facts.paths import SCENE, Family, read_path, within
from cuejar.core.kinds.base import CannotDo, StartingBeat
from cuejar.core.kinds.chance import ChanceBeat
from cuejar.core.kinds.draw import DRAWN, NOBODY
from cuejar.core.kinds.table import KINDS
from cuejar.core.measures.catalogue import Catalogues, NotThere
from cuejar.core.measures.colour import RANDOM, random_colour, read_colour
from cuejar.core.measures.monogram import FACE, face_address
from cuejar.core.parts.base import JsonObject, JsonRow
from cuejar.core.parts.folding import folded
from cuejar.core.parts.gear import Gear, HapticPattern
from cuejar.core.parts.steps import Beat, Condition, FromFace, FromFile, FromJar
from cuejar.core.rules.chance import roll
from cuejar.core.rules.conditions import holds
from cuejar.core.rules.crowd import EVERYBODY, Crowd, Entrant, draw_viewer, entrants, luck_of
from cuejar.core.rules.draw import JarState, draw
from cuejar.core.rules.holds import Holds
from cuejar.core.rules.playscript import speakable_name
from cuejar.core.rules.purse import Purse
from cuejar.core.rules.rig import Away
from cuejar.core.rules.run import Run, random_of, seed_of
from cuejar.core.rules.score import LEFT_OUT, Lengths, RunBeat
from cuejar.core.rules.words import filled, normalised, ordinal

CHANCES = frozenset({"rolls", "draws"})
"""Acts whose outcome other beats may depend on: they are settled first."""
SOMEBODY = Viewer("somebody", "somebody")
"""Whom a try draws if there is nobody else."""
NO_JAR = "viewers/now"
"""Where the memory of draws without a jar is kept; no jar has such an id."""
BOARD_NAMES = 24
"""How many names a draw flips through."""


class Jars:
    """The jars of the book with their memory, and the contents of their folders."""

    def __init__(self) -> None:
        self.states: dict[str, JarState] = {}
        self.folders: dict[str, tuple[str, ...]] = {}

    def can_be_drawn(self, book: Book, lengths: Lengths, jar_id: str) -> list[tuple[str, float]]:
        """Returns the entries that can be drawn now with their weights: switched on, with an existing file or cue."""
        jar = lengths.jars[jar_id]
        entries = [(entry.value, float(entry.weight)) for entry in jar.entries if entry.on and entry.weight > 0]
        listed = {entry.value for entry in jar.entries}
        entries += [(value, 1.0) for value in self.folders.get(jar_id, ()) if value not in listed]
        if jar.kind == "media":
            return [(value, weight) for value, weight in entries if lengths.known(value) is not None]
        if jar.kind == "cue":
            on = {cue.id for cue in book.cues if cue.on}
            return [(value, weight) for value, weight in entries if value in on]
        return entries

    def snapshot(self) -> JsonObject:
        states = {
            jar: [s.last, list(s.bag), s.filled_with, list(s.had), dict(s.times)] for jar, s in self.states.items()
        }
        return {"states": states, "folders": {jar: list(values) for jar, values in self.folders.items()}}

    def restore(self, data: JsonObject) -> None:
        self.states = {jar: _state_from(row) for jar, row in data["states"].items()}
        self.folders = {jar: tuple(values) for jar, values in data["folders"].items()}


def _state_from(row: JsonRow) -> JarState:
    last, bag, filled_with, had, times = [*row, [], {}][:5]
    return JarState(last, list(bag), filled_with, list(had), dict(times))


class Resolver:
    """Everything that beats may depend on when they are resolved."""

    def __init__(
        self,
        book: Book,
        lengths: Lengths,
        jars: Jars,
        holds: Holds,
        away: Away,
        night: Night,
        seed: int,
        speech_grace: int = 0,
    ) -> None:
        self.night, self.away = night, away
        self.book, self.lengths, self.jars, self.holds, self.seed = book, lengths, jars, holds, seed
        self.counts: Counter[str] = Counter()
        self.cue_counts: dict[str, int] = {}
        self.by_viewer: dict[str, dict[str, int]] = {}
        self.sources: dict[str, tuple[str, ...]] = {}
        self.crowd, self.purse = Crowd(), Purse()
        self.catalogues = Catalogues()
        self.speech_grace = speech_grace

    def resolve(self, run: Run) -> list[Order]:
        """Gives every beat of the run its value, leaves it out, or has it fail. Returns the draws and failures."""
        if run.score.settled and run.speed == 1 and not run.forced:
            return self._unvarying(run)
        run.beats = [RunBeat(spec, spec.own) for spec in run.score.at_speed(run.speed)]
        return _Resolving(self, run).all()

    def _unvarying(self, run: Run) -> list[Order]:
        """The short way for a cue whose beats are the same in every run."""
        failed: list[Order] = []
        for spec in run.score.specs:
            beat = RunBeat(spec, spec.own)
            run.beats.append(beat)
            if spec.sets is not None:
                try:
                    beat.sets = spec.sets(spec.beat, self.catalogues)
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
        """Returns the words of a waiting run as far as they are known: nothing is drawn or rolled yet."""
        return _Resolving(self, run).fill(template, said=True)

    # Circumstances

    def scene(self) -> str | None:
        scene = self.holds.showing(SCENE)
        return scene if isinstance(scene, str) else None

    def has_gear(self, gear: str) -> bool:
        """Returns whether gear of the book is connected."""
        return gear not in self.away.lost and any(one.id == gear and one.on for one in self.book.gear)

    @property
    def goals(self) -> dict[str, int]:
        return {count.id: count.goal for count in self.book.counts if count.goal is not None}

    def count(self, cue: str, viewer: str, name: str) -> int:
        """Returns the number of runs of a cue for a `viewer` or for `all`, or a count by its name."""
        if name == "all":
            return self.cue_counts.get(cue, 0)
        if name == "viewer":
            return self.by_viewer.get(cue, {}).get(viewer, 0)
        return self.counts[name]

    # Viewers

    def entrants(self, jar: Jar, caller: str = "") -> list[Entrant]:
        """Returns who may be drawn from a jar of viewers now."""
        now, stream = self.night.now, self.night.stream

        def points(viewer: str) -> int:
            return self.purse.held(viewer, now) if self.purse.on else 0

        return entrants(jar, self.crowd, self.book.house, now, stream, points, caller)

    def started(self, run: Run) -> None:
        """Counts a run of its cue, overall and for its viewer."""
        cue = run.score.id
        self.cue_counts[cue] = self.cue_counts.get(cue, 0) + 1
        if run.viewer is not None:
            counts = self.by_viewer.setdefault(cue, {})
            counts[run.viewer.id] = counts.get(run.viewer.id, 0) + 1

    def merge(self, viewer: str, into: str) -> None:
        """Counts the runs of two viewers together."""
        for counts in self.by_viewer.values():
            if viewer in counts:
                counts[into] = counts.get(into, 0) + counts.pop(viewer)

    def met_as(self, gone: str, kept: str) -> None:
        """Takes two accounts for one: whom it has met, and whose turn was had."""
        self.crowd.merge(gone, kept)
        for state in self.jars.states.values():
            state.rename(gone, kept)

    def tells_of(self, run: Run, viewer: str) -> bool:
        """Returns whether a run is a viewer's, or shows them in a draw."""
        if viewer in (run.viewer_id, run.drawn.id if run.drawn is not None else ""):
            return True
        met = self.crowd.met.get(viewer)
        name = normalised(met.viewer.name) if met is not None else None
        values = [beat.value for beat in run.beats if KINDS[beat.spec.kind].act == "draws" and beat.value]
        return any(name in value["names"] for value in values)

    def forget(self, viewer: str) -> None:
        """Forgets a viewer: whom it has met, and who was drawn."""
        self.crowd.forget(viewer)
        for state in self.jars.states.values():
            state.rename(viewer, None)

    def snapshot(self) -> JsonObject:
        return {
            "counts": dict(self.counts),
            "cue_counts": dict(self.cue_counts),
            "by_viewer": {cue: dict(counts) for cue, counts in self.by_viewer.items()},
            "sources": {scene: list(sources) for scene, sources in self.sources.items()},
            "catalogues": self.catalogues.snapshot(),
            "crowd": self.crowd.snapshot(),
        }

    def restore(self, data: JsonObject) -> None:
        self.counts = Counter(data["counts"])
        self.cue_counts = dict(data["cue_counts"])
        self.by_viewer = {cue: dict(counts) for cue, counts in data["by_viewer"].items()}
        self.sources = {scene: tuple(sources) for scene, sources in data["sources"].items()}
        self.catalogues.restore(data.get("catalogues", {}))
        self.crowd.restore(data.get("crowd", []))


class _Resolving:
    def __init__(self, by: Resolver, run: Run) -> None:
        self.by, self.run = by, run
        self.orders: list[Order] = []
        self.beats = {beat.spec.id: beat for beat in run.beats}
        self.begun: set[str] = set()
        self.drawn: dict[str, str] = {}
        self.rolled: dict[str, str] = {}
        self.turned_out: dict[str, str] = {}
        """The outcomes of draws of viewers."""
        self._random: Callable[[], float] | None = None
        self._colour: str | None = None
        self._drawn_values: JsonObject = {}
        self._values: JsonObject | None = None
        self.person: Viewer | None = run.viewer

    # What beats may ask (`kinds.base.Resolving`)

    @property
    def lengths(self) -> Lengths:
        return self.by.lengths

    @property
    def catalogues(self) -> Catalogues:
        return self.by.catalogues

    @property
    def gear(self) -> Sequence[Gear]:
        return self.by.book.gear

    @property
    def patterns(self) -> Sequence[HapticPattern]:
        return self.by.book.patterns

    @property
    def viewer_id(self) -> str:
        return self.person.id if self.person is not None else ""

    @property
    def has_points(self) -> bool:
        return self.by.purse.on

    @property
    def number(self) -> int | None:
        return self.run.text.number

    def sources(self, scene: str) -> Sequence[str]:
        return self.by.sources.get(scene, ())

    def in_set(self, named: str) -> Sequence[str]:
        return next((one.rewards for one in self.by.book.sets if one.id == named), [])

    def lamps(self) -> list[str]:
        known = [read_path(path).steps[0] for path in self.by.holds.wanted() if path.startswith(within(Family.LIGHT))]
        return list(dict.fromkeys(known))

    def speech_ms(self, beat: StartingBeat) -> int | None:
        return self.run.speech_ms.get(beat.id)

    def reckoned_ms(self, text: str, part: str | None) -> int:
        return self.by.lengths.of_speech(text, part) + self.by.speech_grace

    def filled(self, template: str, form: str) -> str:
        return filled(template, self.values(), form)

    def random(self) -> float:
        if self._random is None:
            self._random = random_of(self.by.seed, self.run, self.by.night.rules)
        return self._random()

    def all(self) -> list[Order]:
        for beat in self.run.beats:
            if KINDS[beat.spec.kind].act in CHANCES:
                self._one(beat)
        for beat in self.run.beats:
            self._one(beat)
        return self.orders

    def _one(self, beat: RunBeat) -> None:
        if beat.spec.id in self.begun:
            return
        self.begun.add(beat.spec.id)
        if beat.spec.beat.whose == "drawn" and not self._drawn_one():
            beat.state = LEFT_OUT
            return
        self._for(self.run.whose(beat))
        conditions = beat.spec.beat.only_if
        if conditions and all(map(self._holds, conditions)) == beat.spec.beat.unless:
            beat.state = LEFT_OUT
            return
        try:
            KINDS[beat.spec.kind].resolve(self, beat, beat.spec.beat)
        except (CannotDo, ValueError) as problem:
            beat.failed, beat.own = str(problem), 0
            self.orders.append(Fail(self.run.id, beat.spec.id, str(problem)))

    def _drawn_one(self) -> bool:
        """Returns whether a viewer was drawn, once everything that draws one has."""
        for beat in self.run.beats:
            if KINDS[beat.spec.kind].act == "draws":
                self._one(beat)
        return self.run.drawn is not None

    def _for(self, person: Viewer | None) -> None:
        """Makes a viewer the one whom templates and conditions mean."""
        if person is not self.person:
            self.person, self._values = person, None

    def _holds(self, condition: Condition) -> bool:
        if condition.drawn is None and condition.rolled is None:
            return holds(condition, self)
        return self._came_out(condition) != condition.not_

    def _came_out(self, condition: Condition) -> bool:
        person = self.person
        self._settle(condition)
        self._for(person)
        if condition.rolled is not None:
            return condition.rolled in self.rolled.values() or condition.rolled in self.turned_out.values()
        return folded(self.drawn.get(condition.drawn or "", "")) == folded(condition.value or "")

    def _settle(self, condition: Condition) -> None:
        """Settles what a condition asks for."""
        for beat in self.run.beats:
            if beat.spec.id == condition.drawn or (
                condition.rolled is not None and KINDS[beat.spec.kind].act in CHANCES
            ):
                self._one(beat)

    # What conditions may ask (`conditions.Standing`)

    @property
    def viewer(self) -> Viewer | None:
        return self.person

    @property
    def viewer_text(self) -> str:
        return self.run.text.text

    @property
    def on_air(self) -> bool:
        return self.by.night.on_air

    @property
    def category(self) -> str | None:
        return self.by.night.category

    def scene(self) -> str | None:
        return self.by.scene()

    def has_gear(self, gear: str) -> bool:
        return self.by.has_gear(gear)

    def count(self, name: str) -> int:
        return self.by.count(self.run.score.id, self.viewer_id, name)

    def values(self) -> JsonObject:
        """Returns what a template may use."""
        if self._values is None:
            run, text = self.run, self.run.text
            self._values = {
                "viewer": normalised(self.person.name) if self.person else "",
                "text": text.text,
                "colour": self.colour(None) if text.colour else "",
                "number": "" if text.number is None else str(text.number),
                "choice": text.choice or "",
                "count_viewer": self.count("viewer"),
                "count_all": self.count("all"),
                "nth_viewer": ordinal(self.count("viewer")),
                "nth_all": ordinal(self.count("all")),
                "drawn": {**self._drawn_values, **self.drawn},
                "rolled": ", ".join(self.rolled.values()),
                "count": self.by.counts,
                "goal": self.by.goals,
                **run.facts,
            }
        return self._values

    def fill(self, template: str, said: bool = False) -> str:
        """Fills in the template; ``said``: for reading aloud, with names as they are pronounced."""
        if "{{" not in template:
            return template
        if "{{rolled" in template or "{{drawn" in template:
            self._values = None
        values = self.values()
        if said:
            drawn = {**values["drawn"], "name": speakable_name(values["drawn"].get("name", ""))}
            values = {**values, "viewer": speakable_name(values["viewer"]), "drawn": drawn}
        return filled(template, values)

    def colour(self, path: str | None) -> str:
        """Returns the viewer's colour; `random` becomes one colour for the whole run, unlike what ``path`` shows."""
        if self._colour is None:
            said = self.run.text.colour
            if said == RANDOM:
                said = self.random_colour(path)
            self._colour = said or ""
        return self._colour

    def random_colour(self, path: str | None) -> str:
        showing = self.by.holds.showing(path) if path else None
        near = showing if isinstance(showing, str) and read_colour(showing) else None
        return random_colour(self.random, near)

    def progress(self, count: str) -> JsonObject:
        one = next((one for one in self.by.book.counts if one.id == count), None)
        name, goal = (one.name, one.goal) if one is not None else (count, None)
        return {"name": name, "now": self.by.counts[count], "goal": goal}

    def draw(self, beat: StartingBeat, source: FromJar) -> list[str]:
        entries = self.by.jars.can_be_drawn(self.by.book, self.by.lengths, source.jar)
        forced = self.run.forced.get(beat.id)
        rule = self.by.lengths.jars[source.jar].rule
        drawn = [forced] if forced is not None else self._drawn(beat, source.jar, entries, rule, source.count)
        if not drawn:
            raise CannotDo(f"the jar “{source.jar}” has nothing that can be drawn")
        self.drawn[beat.id] = ", ".join(drawn)
        return drawn

    def _drawn(
        self, beat: StartingBeat, jar: str, entries: list[tuple[str, float]], rule: str, count: int = 1
    ) -> list[str]:
        """Draws, and notes how the result came about."""
        numbers: list[float] = []

        def note() -> float:
            numbers.append(self.random())
            return numbers[-1]

        drawn = draw(entries, rule, self.by.jars.states.setdefault(jar, JarState()), note, count)
        self.orders.append(Draw(self.run.id, beat.id, jar, entries, numbers, drawn))
        return drawn

    def draw_viewer(self, beat: StartingBeat, jar: str | None) -> tuple[list[str], JsonObject | None]:
        run, jars = self.run, self.by.jars
        those = self.by.lengths.jars[jar] if jar is not None else EVERYBODY
        self.turned_out[beat.id] = NOBODY
        found = self.by.entrants(those, run.viewer_id)
        forced = run.forced.get(beat.id)
        state = jars.states.setdefault(jar or NO_JAR, JarState())
        seed = seed_of(self.by.seed, run, beat.id)
        if run.tried:  # A try takes nobody's turn.
            state = JarState(state.last, [], [], list(state.had), dict(state.times))
        if run.tried and not found:  # It can be tried with nobody there, too.
            found = [Entrant(run.viewer or SOMEBODY, 1.0)]
        if forced == NOBODY:
            return [], None
        if forced is not None and forced != DRAWN:
            drawn = self.by.crowd.named(forced) or Viewer(forced, forced)
        elif (drawing := draw_viewer(found, those.rule, state, luck_of(seed))) is not None:
            drawn = drawing.drawn
            self.orders.append(Draw(run.id, beat.id, those.id, drawing.weights, [drawing.number], [drawn.id], seed))
        else:
            return [], None
        run.drawn, self.turned_out[beat.id] = drawn, DRAWN
        name = normalised(drawn.name)
        self.drawn[beat.id] = name
        self._values, self._drawn_values = (
            None,
            {"name": name, "times": state.times.get(drawn.id, 0) or 1, "picture": face_address(drawn.id)},
        )
        return self._on_the_board(found, name), {"id": drawn.id, "name": name}

    def _on_the_board(self, found: Sequence[Entrant], name: str) -> list[str]:
        """Returns names to flip through, in an order that says nothing about the result."""
        names = sorted({normalised(viewer.name) for viewer, _ in found} | {name})
        step = max(1, len(names) // BOARD_NAMES)
        return names[::step][:BOARD_NAMES]

    def one_source(self, beat: StartingBeat, scene: str, beginning: str) -> str:
        fitting = [(s, 1.0) for s in self.sources(scene) if folded(s).startswith(folded(beginning))]
        forced = self.run.forced.get(beat.id)
        drawn = [forced] if forced is not None else self._drawn(beat, f"sources/{scene}", fitting, "no_repeat")
        if not drawn:
            raise CannotDo(f"the scene “{scene}” has no source beginning with “{beginning}”")
        self.drawn[beat.id] = drawn[0]
        return drawn[0]

    def roll(self, beat: StartingBeat, rolled: Beat) -> tuple[list[int], str]:
        assert isinstance(rolled, ChanceBeat)
        faces, outcome = roll(rolled, self.random, self.run.forced.get(beat.id))
        self.rolled[beat.id] = outcome
        return faces, outcome

    def words(self, beat: StartingBeat, source: str | FromJar, said: bool = False) -> str:
        return self.fill(self.draw(beat, source)[0] if isinstance(source, FromJar) else source, said)

    def media(self, beat: StartingBeat, source: FromFile | FromJar | FromFace) -> list[str]:
        if isinstance(source, FromFace):
            if self.person is None:
                raise CannotDo("it is for no viewer, so there is no picture to show")
            return [f"{FACE}{self.person.id}"]
        if isinstance(source, FromJar):
            return self.draw(beat, source)
        if self.by.lengths.known(source.file) is None:
            raise CannotDo(f"the file “{source.file}” is missing")
        return [source.file]
