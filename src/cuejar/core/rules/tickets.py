"""A reward at the channel: its automatic prompt, the limits with an exact equivalent, and what a change by hand there
means here.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from cuejar.core.book.book import Book, Cue, Reward, TextRule
from cuejar.core.parts.base import JsonObject

MOST_PROMPT = 400


def cues_of(book: Book) -> dict[str, list[Cue]]:
    """Returns the cues that each reward calls, by the reward's id."""
    called: dict[str, list[Cue]] = {}
    for cue in book.cues:
        for reward in {call.reward: None for call in cue.calls if call.kind == "reward"}:
            called.setdefault(reward, []).append(cue)
    return called


# The prompt


def _one_of(choices: Sequence[str]) -> str:
    if len(choices) < 2:
        return "".join(choices)
    return f"{', '.join(choices[:-1])} or {choices[-1]}"


def prompt_for(rule: TextRule | None, most: int, asks: bool) -> str:
    """Returns the prompt for viewers, from a door's rule for their text.

    Args:
        most: the maximum length of a text in this house.
        asks: whether to ask for a text if the door has no rule.
    """
    if rule is None:
        return f"Your words, up to {most} characters" if asks else ""
    if rule.kind == "colour":
        return "Name a colour: teal, brick red, #2a9d8f"
    if rule.kind == "number":
        return f"A number from {rule.range[0]} to {rule.range[1]}" if rule.range else "A whole number"
    if rule.kind == "choice":
        prompt = _one_of(rule.choices)
        return prompt if len(prompt) <= MOST_PROMPT else prompt[: MOST_PROMPT - 2].rsplit(", ", 1)[0] + " …"
    longest = min(rule.max or most, most)
    if rule.min is not None and rule.min > 1:
        return f"Your words, {rule.min} to {longest} characters"
    return f"Your words, up to {longest} characters"


def prompt_of(reward: Reward, cues: Sequence[Cue], most: int) -> str:
    """Returns a reward's prompt: written by hand, or from the first door among its cues that takes a text."""
    if reward.prompt is not None:
        return reward.prompt
    rule = next((cue.door.text for cue in cues if cue.door.text is not None), None)
    return prompt_for(rule, most, reward.text)


# Limits


class Limits(NamedTuple):
    """Limits that a channel can keep itself; 0: none. A refund frees a place in all of them."""

    cooldown_s: float = 0
    per_stream: int = 0
    per_viewer: int = 0


def limits_of(cues: Sequence[Cue], book: Book) -> Limits:
    """Returns the limits of a reward that mean the same at the channel as at the door.

    These are those of a cue that nothing else calls and that exempts nobody; a cooldown only if it starts when a call
    is let in and isn't shared.
    """
    if len(cues) != 1 or len(cues[0].calls) != 1 or cues[0].door.spared or book.house.spared:
        return Limits()
    door, house = cues[0].door, book.house
    cooldown = door.cooldown_s
    if cooldown is None and house.shared_cooldown_s is None:
        cooldown = house.cooldown_s
    if door.cooldown_from == "finished":
        cooldown = None
    return Limits(cooldown or 0, door.cap_stream or 0, door.cap_viewer or 0)


# Changes by hand at the channel


def by_hand(reward: Reward, changes: JsonObject, sold: int) -> JsonObject:
    """Returns the reward's JSON after a change by hand to these fields at the channel; the hand wins.

    Args:
        sold: how often it was redeemed this stream: whether its first price or the next one shows now.
    """
    data = reward.model_dump(mode="json", by_alias=True, exclude_defaults=True)
    changes = {name: value[:MOST_PROMPT] if name == "prompt" else value for name, value in changes.items()}
    for name in ("title", "prompt", "text", "on"):
        if name in changes:
            data[name] = changes[name]
    if "colour" in changes:
        data["colour"] = changes["colour"] or None
    if "cost" in changes:
        cost, price = changes["cost"], dict(data.get("price", {}))
        if reward.price.kind == "first" and sold:
            price["then"] = cost
        else:
            data["cost"] = cost
        if cost < reward.price.least:
            price["least"] = cost
        if cost > reward.price.most:
            price["most"] = cost
        if cost % reward.price.step:
            price["step"] = 1
        data = {**data, "price": price} if price else data
    return data
