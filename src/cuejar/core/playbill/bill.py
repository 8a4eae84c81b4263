"""What stands on the playbill: rewards with what they do, how to write a text, the cast, what is held back for safety.

Everything follows from the book; each text has a key by which the streamer may say it otherwise (`book.playbill.words`).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

from cuejar.core.book.book import Book, Cue, Part, Reward, TextRule
from cuejar.core.kinds.table import KINDS
from cuejar.core.measures.colour import NAMES
from cuejar.core.parts.steps import Beat, ForSeconds, FromFile, FromJar
from cuejar.core.rules.door import switched_off
from cuejar.core.rules.price import minutes_to_earn
from cuejar.core.rules.tickets import cues_of, limits_of, prompt_of

SWATCHES = (
    "red", "brick", "orange", "gold", "olive", "green", "teal", "skyblue", "royalblue", "indigo", "plum", "hotpink", "white", "black",
)  # fmt: skip
MOST_TOLD = 4
"""How many things of a cue are told before it is "and more"."""


class Text(NamedTuple):
    """A text with its key, what it says by itself, and what it says."""

    key: str
    default: str
    said: str


@dataclass
class Entry:
    """A reward or a chat word: its title, what it costs, what it does, and how often."""

    title: str
    price: str
    does: Text
    prompt: str = ""
    limits: str = ""


@dataclass
class Voice:
    """A part of the cast; ``sample`` is a sound as a data URL, empty where none was made."""

    name: str
    words: Text
    sample: str = ""


@dataclass
class Bill:
    """Everything that stands on the playbill, in its order."""

    texts: dict[str, Text]
    rewards: list[Entry]
    chats: list[Entry]
    writing: list[Text]
    swatches: list[tuple[str, str]]
    cast: list[Voice]
    safety: list[Text]
    all_texts: list[Text] = field(default_factory=list)


class Noticed:
    """What of a book viewers notice, and what it is called."""

    def __init__(self, book: Book) -> None:
        self.house = book.house
        self._media = {entry.id: entry.name for entry in book.media}
        self._jars = {jar.id: jar for jar in book.jars}
        self._cues = {cue.id: cue.name for cue in book.cues}
        self._parts = {part.id: part.name for part in book.cast}

    def media(self, source: FromFile | FromJar | None, what: str) -> str:
        if isinstance(source, FromFile):
            return f"the {what} {self._media.get(source.file, source.file)}"
        if source is None:
            return f"a {what}"
        jar = self._jars.get(source.jar)
        count = len([entry for entry in jar.entries if entry.on]) if jar is not None else 0
        some = f"{source.count} of" if source.count > 1 else "one of"
        return f"{some} {count} {what}s" if count > 1 else f"a {what}"

    def cue(self, source: str | FromJar) -> str:
        return self._cues.get(source, source) if isinstance(source, str) else "one of several"

    def thing(self, gear: str, thing: str) -> str:
        return f"the {thing}"

    def part(self, part: str | None) -> str:
        return self._parts.get(part, "") if part is not None else ""


def beat_told(beat: Beat, names: Noticed) -> str:
    """What a beat does, in plain words; empty where viewers notice nothing of it."""
    kind = KINDS[getattr(beat, "kind", "")]
    words, length = kind.tells(beat, names), getattr(beat, "length", None)
    if words and kind.way != "strike" and isinstance(length, ForSeconds) and length.s >= 1:
        words += f" for {length.s:g} s"
    return words


def does(cue: Cue, names: Noticed) -> str:
    """What a cue does, in plain words, in the order in which it begins."""
    told = dict[str, None]()
    for beat in cue.beats:
        words = "" if switched_off(beat.kind, names.house) else beat_told(beat, names)
        if words:
            told[words] = None
    some = list(told)
    if not some:
        return "The streamer sees to it."
    said = ", ".join(some[:MOST_TOLD]) + (", and more" if len(some) > MOST_TOLD else "")
    return f"{said[0].upper()}{said[1:]}."


UNNOTICED = {
    "count": "counts",
    "hook": "calls a hook",
    "tap": "presses keys",
    "keys": "holds keys down",
    "reward": "switches rewards",
}
"""What kinds of beat do of which viewers notice nothing, for the streamer's lists."""


def effect(cue: Cue, names: Noticed) -> str:
    """What a cue does, for the streamer: also what viewers do not notice."""
    told = dict.fromkeys(
        beat_told(beat, names) or UNNOTICED.get(beat.kind, f"changes {beat.kind}") for beat in cue.beats
    )
    if not told:
        return "Does nothing yet"
    some = list(told)
    said = ", ".join(some[:MOST_TOLD]) + (f", and {len(some) - MOST_TOLD} more" if len(some) > MOST_TOLD else "")
    return f"{said[0].upper()}{said[1:]}"


def _all(roles: Sequence[str]) -> str:
    return " and ".join(f"{role}s" for role in roles)


def _limits(cues: list[Cue], book: Book) -> str:
    limits = limits_of(cues, book)
    parts = [
        f"{limits.per_stream} a stream" if limits.per_stream else "",
        f"{limits.per_viewer} for each of you" if limits.per_viewer else "",
        f"{limits.cooldown_s:g} s between" if limits.cooldown_s else "",
    ]
    who = next((cue.door.who for cue in cues if "everyone" not in cue.door.who), None)
    return ", ".join([*(part for part in parts if part), *([f"for {_all(who)}"] if who else [])])


def _minutes(cost: int, book: Book) -> str:
    minutes = minutes_to_earn(cost, book.house.points_per_min)
    if minutes < 90:
        return f"{max(1, round(minutes))} min"
    return f"{round(minutes / 30) / 2:g} h"


def _price(reward: Reward, book: Book) -> str:
    said = f"{reward.cost:,} ({_minutes(reward.cost, book)} of watching)"
    if reward.price.kind == "first" and reward.price.then is not None:
        return f"{said}, after the first of the stream {reward.price.then:,}"
    if reward.price.kind == "rising":
        return f"from {said}, dearer each time, cheaper again by waiting"
    return said


def _ways(rule: TextRule) -> tuple[str, str] | None:
    if rule.kind == "colour":
        return "colour", "A colour: a name in any case, or a code such as #2a9d8f. “random” lets it be chosen for you."
    if rule.kind == "any":
        return "any", "Plain words. Links and blocked words are turned away, and what you paid comes back."
    return None


def build(book: Book, samples: Mapping[str, str] | None = None) -> Bill:
    """The playbill of a book.

    Args:
        samples: a sound for each part of the cast, as data URLs.
    """
    own, seen = book.playbill.words, list[Text]()

    def text(key: str, default: str) -> Text:
        made = Text(key, default, own.get(key, default))
        seen.append(made)
        return made

    texts = {
        key: text(key, default)
        for key, default in (
            ("title", "What is on tonight"),
            ("intro", "Everything you can set off while you watch, and what it takes."),
            ("rewards", "Rewards"),
            ("chat", "In chat"),
            ("writing", "How to write"),
            ("cast", "The cast"),
            ("safety", "Held back for safety"),
            ("foot", "Whatever you set off goes back by itself. What cannot be done is given back."),
        )
    }
    cues, noticed = cues_of(book), Noticed(book)
    rewards = []
    for reward in book.rewards:
        if not reward.on or reward.id in book.playbill.left_out:
            continue
        called = cues.get(reward.id, [])
        default = " ".join(does(cue, noticed) for cue in called if cue.on) or "The streamer sees to it."
        rewards.append(
            Entry(
                title=reward.title,
                price=_price(reward, book),
                does=text(f"reward/{reward.id}", default),
                prompt=prompt_of(reward, called, book.house.most_text),
                limits=_limits(called, book),
            )
        )
    chats = [
        Entry(
            title=call.text,
            price=f"{call.cost:,} {book.points.name}" if call.cost and book.points.on else "",
            does=text(f"cue/{cue.id}", does(cue, noticed)),
            limits=_limits([cue], book),
        )
        for cue in book.cues
        for call in cue.calls
        if call.kind == "chat" and cue.on
    ]
    on_show = [cue for cue in book.cues if cue.on and any(call.kind in ("reward", "chat") for call in cue.calls)]
    speaks = any(beat.kind == "speech" for cue in on_show for beat in cue.beats)
    rules = [cue.door.text for cue in on_show if cue.door.text is not None]
    writing = [text(f"writing/{key}", said) for key, said in dict(filter(None, map(_ways, rules))).items()]
    if speaks and book.cast:
        first = book.cast[0]
        effect = next((f"{part.name} ({part.may[0]}): words" for part in book.cast if part.may), "")
        more = f" Some have effects: “{effect}”." if effect else ""
        default = (
            f"Begin a line with a name of the cast: “{first.name}: words”. A new line, or “ / ”, begins the next.{more}"
        )
        writing.append(text("writing/script", default))
    return Bill(
        texts=texts,
        rewards=rewards,
        chats=chats,
        writing=writing,
        swatches=[(name, NAMES[name]) for name in SWATCHES if name in NAMES]
        if any(r.kind == "colour" for r in rules)
        else [],
        cast=[_voice(part, text, samples or {}) for part in book.cast if part.on] if speaks else [],
        safety=_safety(book, text),
        all_texts=seen,
    )


def _voice(part: Part, text: object, samples: Mapping[str, str]) -> Voice:
    assert callable(text)
    may = f"With {', '.join(part.may)}." if part.may else "Plain."
    who = "" if "everyone" in part.who else f" For {_all(part.who)}."
    return Voice(part.name, text(f"part/{part.id}", may + who), samples.get(part.id, ""))


def _safety(book: Book, text: object) -> list[Text]:
    assert callable(text)
    house, rows = book.house, []
    if house.flash_guard:
        rows.append(text("safety/flash", "Nothing flashes more than three times a second, lamps and pictures alike."))
    if house.loudness_lufs is not None:
        rows.append(text("safety/loud", "Every sound is brought to one loudness: nothing is louder than the rest."))
    if any(beat.kind == "haptics" for cue in book.cues for beat in cue.beats):
        words = (
            f"What is felt never passes {house.haptics_level:.0%} of its strength, lasts {house.haptics_most_s:g} s at most, and then pauses for "
            f"{house.haptics_pause_s:g} s."
        )
        rows.append(text("safety/haptics", words))
    return rows
