"""The content of the playbill: rewards with what they do, how to write a text, the cast, what is held back for safety.

Everything follows from the book; each text has a key by which the streamer may replace it (`book.playbill.words`).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

from cuejar.core.book.book import Book, Cue, Part, Reward, TextRule
from cuejar.core.kinds.table import KINDS
from cuejar.core.measures.colour import names
from cuejar.core.rules.price import minutes_to_earn
from cuejar.core.rules.tickets import cues_of, limits_of, prompt_of
from cuejar.core.words.cues import does
from cuejar.core.words.doors import people_said
from cuejar.core.words.names import ROLES, Noticed
from cuejar.core.words.rewards import limits_said
from cuejar.core.words.values import joined, seconds, watching

SWATCHES = (
    "red", "brick", "orange", "gold", "olive", "green", "teal", "skyblue", "royalblue", "indigo", "plum", "hotpink", "white", "black",
)  # fmt: skip


class Text(NamedTuple):
    """A text with its key, its default, and what it says."""

    key: str
    default: str
    said: str


@dataclass
class Entry:
    """A reward or a chat command: its title, price, effect, and how often it may be called; ``picture`` is a data URL, empty
    without one; ``colour`` is ``#rrggbb``, empty for none.
    """

    title: str
    price: str
    does: Text
    prompt: str = ""
    limits: str = ""
    picture: str = ""
    colour: str = ""


@dataclass
class Voice:
    """A part of the cast; ``sample`` is a sound as a data URL, empty if none was made."""

    name: str
    words: Text
    sample: str = ""


class Won(NamedTuple):
    """A winner: their name, what they won, and their picture as a data URL."""

    name: str
    what: str
    picture: str


@dataclass
class Bill:
    """The whole content of the playbill, in order."""

    texts: dict[str, Text]
    rewards: list[Entry]
    chats: list[Entry]
    writing: list[Text]
    swatches: list[tuple[str, str]]
    cast: list[Voice]
    safety: list[Text]
    winners: Sequence[Won] = ()
    all_texts: list[Text] = field(default_factory=list)


def _limits(cues: list[Cue], book: Book) -> str:
    who = next((people_said(cue.door) for cue in cues if "everyone" not in cue.door.who), "")
    parts = [limits_said(limits_of(cues, book)), f"for {who}" if who else ""]
    return ", ".join(part for part in parts if part)


def _price(reward: Reward, book: Book) -> str:
    said = f"{reward.cost:,} ({watching(minutes_to_earn(reward.cost, book.house.points_per_min))} of watching)"
    if reward.price.kind == "first" and reward.price.then is not None:
        return f"{said}, then {reward.price.then:,} after the first of the stream"
    if reward.price.kind == "rising":
        return f"from {said}, rising with each redemption and falling over time"
    return said


def _ways(rule: TextRule) -> tuple[str, str] | None:
    if rule.kind == "colour":
        return "colour", "A colour: its name, or a code such as #2a9d8f. Write “random” for a random one."
    if rule.kind == "any":
        return "any", "Plain words. Links and blocked words are refused, and your points come back."
    return None


def build(
    book: Book,
    samples: Mapping[str, str] | None = None,
    pictures: Mapping[str, str] | None = None,
    winners: Sequence[Won] = (),
) -> Bill:
    """Returns the playbill of a book.

    Args:
        samples: a sound for each part of the cast, as data URLs.
        pictures: a picture for each reward, as data URLs.
        winners: the latest first.
    """
    own, seen = book.playbill.words, list[Text]()

    def text(key: str, default: str) -> Text:
        made = Text(key, default, own.get(key, default))
        seen.append(made)
        return made

    texts = {
        key: text(key, default)
        for key, default in (
            ("title", "On tonight"),
            ("intro", "Everything you can trigger while you watch, and what it costs."),
            ("rewards", "Rewards"),
            ("chat", "In chat"),
            ("writing", "How to write"),
            ("cast", "The cast"),
            ("winners", "Winners"),
            ("safety", "For your safety"),
            ("foot", "Every effect ends by itself. If something fails, your points come back."),
        )
    }
    cues, noticed = cues_of(book), Noticed(book, "your")
    rewards = []
    for reward in book.rewards:
        if not reward.on or reward.id in book.playbill.left_out:
            continue
        called = cues.get(reward.id, [])
        default = " ".join(does(cue, noticed) for cue in called if cue.on) or "The streamer does this."
        rewards.append(
            Entry(
                title=reward.title,
                price=_price(reward, book),
                does=text(f"reward/{reward.id}", default),
                prompt=prompt_of(reward, called, book.house.most_text),
                limits=_limits(called, book),
                picture=(pictures or {}).get(reward.id, ""),
                colour=reward.colour or "",
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
    speaks = any(KINDS[beat.kind].speaks for cue in on_show for beat in cue.beats)
    rules = [cue.door.text for cue in on_show if cue.door.text is not None]
    writing = [text(f"writing/{key}", said) for key, said in dict(filter(None, map(_ways, rules))).items()]
    if speaks and book.cast:
        first = book.cast[0]
        effect = next((f"{part.name} ({part.may[0]}): words" for part in book.cast if part.may), "")
        more = f" Some voices have effects: “{effect}”." if effect else ""
        default = f"Start a line with a name from the cast: “{first.name}: words”. A new line or “ / ” starts the next speaker.{more}"
        writing.append(text("writing/script", default))
    return Bill(
        texts=texts,
        rewards=rewards,
        chats=chats,
        writing=writing,
        swatches=[(name, names()[name]) for name in SWATCHES if name in names()]
        if any(r.kind == "colour" for r in rules)
        else [],
        cast=[_voice(part, text, samples or {}) for part in book.cast if part.on] if speaks else [],
        safety=_safety(book, text),
        winners=winners if book.playbill.winners else (),
        all_texts=seen,
    )


def _voice(part: Part, text: object, samples: Mapping[str, str]) -> Voice:
    assert callable(text)
    may = f"With {', '.join(part.may)}." if part.may else "Plain."
    who = "" if "everyone" in part.who else f" For {joined([ROLES[role] for role in part.who])}."
    return Voice(part.name, text(f"part/{part.id}", may + who), samples.get(part.id, ""))


def _safety(book: Book, text: object) -> list[Text]:
    assert callable(text)
    house, rows = book.house, []
    if house.flash_guard:
        rows.append(text("safety/flash", "Nothing flashes more than three times a second, neither pictures nor lamps."))
    if house.loudness_lufs is not None:
        rows.append(text("safety/loud", "All sounds play at the same loudness."))
    if any("felt" in KINDS[beat.kind].noticed for cue in book.cues for beat in cue.beats):
        words = (
            f"Haptics stay below {house.haptics_level:.0%} of full strength, last at most {seconds(house.haptics_most_s)} and then pause for "
            f"{seconds(house.haptics_pause_s)}."
        )
        rows.append(text("safety/haptics", words))
    return rows
