"""What stands out in a night: plain rules, each with its figure and what would mend it. Nothing is guessed."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from cuejar.core.book.book import Book
from cuejar.core.nights.tally import Result

REFUNDED, HOGS, FEW_CALLS, QUIET_S, SOUNDS, AWAY_S = 0.2, 1 / 3, 5, 900, 4, 900
"""From which share refunds are many, and one viewer's air time is; from how many calls on it is said; how long quiet is long; how many
sounds at once are many; how long gear is away for long."""
MENDS = {
    "cooldown": "Make its cooldown shorter, or its price higher.",
    "cooldown_viewer": "Make its cooldown for a viewer shorter, or its price higher.",
    "cap_stream": "Let more of it in a stream, or make its price higher.",
    "cap_viewer": "Let a viewer have more of it in a stream, or make its price higher.",
    "cap_window": "Let more of it in at a time, or make its price higher.",
    "busy": "Let it wait its turn, or make its lane wider.",
    "lane_full": "Make its lane wider, or its line longer.",
    "stale": "Make its lane wider, its cues shorter, or let them wait longer.",
    "role": "Say in its prompt whom it is for, or let everybody call it.",
    "off_air": "Nothing needs to change: it can be called only while you are live.",
    "on_air": "Nothing needs to change: it can be called only off air.",
    "category": "Put it into a set that is on only in its categories.",
    "scene": "Put it into a set that is on only while its scenes show.",
    "condition": "Say in its prompt when it can be called, or put it into a set that is on only then.",
    "house_closed": "Let it be paused while it cannot be called.",
    "cue_off": "Let it be paused while it cannot be called.",
    "by_hand": "Nothing needs to change: it was dropped by hand.",
    "failed": "Look in the ledger at what of it failed.",
    "gear_away": "Let it be paused while its gear is away.",
    "viewer_shut_out": "Nothing needs to change: it was called by who is shut out.",
    "too_few_points": "Make it cheaper.",
    **dict.fromkeys(
        ("text_missing", "text_short", "text_long", "text_colour", "text_number", "text_choice"),
        "Say in its prompt what to write, or ask for less.",
    ),
    "text_word": "Look at the word lists, or say in its prompt what is not read.",
}
"""What mends refunds, by their reason."""


class Standout(NamedTuple):
    """What stands out, of what in the book (``rewards/tea``, or empty), and what would mend it."""

    rule: str
    what: str
    mend: str
    of: str = ""


def _reason(result: Result, reward: str) -> str:
    """Why a reward was given back most often."""
    reasons = result.refund_reasons.get(reward, {})
    return max(reasons, key=lambda reason: reasons[reason], default="stale")


def standouts(result: Result, book: Book) -> Iterator[Standout]:
    """Everything that stands out; where nobody called anything that alone."""
    if not result.calls:
        yield Standout(
            "nobody",
            "Nobody called anything.",
            "Let a reward or a word in chat call a cue, and give the audience calls.",
        )
        return
    for reward in book.rewards:
        calls, refunds = result.calls_by_reward.get(reward.id, 0), result.refunds_by_reward.get(reward.id, 0)
        if calls >= FEW_CALLS and refunds / calls > REFUNDED:
            yield Standout(
                "refunded",
                f"{reward.title} was given back {refunds} of {calls} times.",
                MENDS[_reason(result, reward.id)],
                f"rewards/{reward.id}",
            )
        minutes = reward.cost / book.house.points_per_min
        if result.length_s and minutes > result.length_s / 60:
            yield Standout(
                "unaffordable",
                f"{reward.title} costs {minutes:.0f} minutes of watching; the night has {result.length_s / 60:.0f}.",
                "Make it cheaper, or mean it for regulars.",
                f"rewards/{reward.id}",
            )
    for lane in book.all_lanes:
        full = result.full_by_lane.get(lane.id, 0)
        if full:
            yield Standout(
                "full",
                f"The line of {lane.name} was full {full} times.",
                "Make it wider, or its line longer.",
                f"lanes/{lane.id}",
            )
    for cue in book.cues:
        let_in = result.let_in_by_cue.get(cue.id, 0)
        if cue.entry == "solo" and let_in and not result.runs_by_cue.get(cue.id, 0):
            yield Standout(
                "solo",
                f"{cue.name} runs alone, was let in {let_in} times and never came to run.",
                "Let it wait its turn, or give it a lane of its own.",
                f"cues/{cue.id}",
            )
        unseen, runs = result.unseen_by_cue.get(cue.id, 0), result.runs_by_cue.get(cue.id, 0)
        if unseen and unseen * 2 >= runs:
            yield Standout(
                "unseen",
                f"{cue.name} changed a source {unseen} of {runs} times while its scene was not on: nobody saw it.",
                "Let it change to that scene first, or let its door ask for the scene.",
                f"cues/{cue.id}",
            )
    if result.longest_quiet_s > QUIET_S:
        at = result.longest_quiet_at_s / 60
        yield Standout(
            "quiet",
            f"Nothing was seen for {result.longest_quiet_s / 60:.0f} minutes from minute {at:.0f} on.",
            "Make something cheaper, or let a clock call a cue.",
        )
    names = {gear.id: gear.name or gear.id for gear in book.gear}
    for gear, away_s in result.away_by_gear.items():
        if away_s >= AWAY_S:
            refunds = sum(reasons.get("gear_away", 0) for reasons in result.refund_reasons.values())
            lost = f"; {refunds} calls were given back because gear was away" if refunds else ""
            yield Standout(
                "away",
                f"{names.get(gear, gear)} was away for {away_s / 60:.0f} minutes{lost}.",
                "Look at its cable and its address before the next night.",
                f"gear/{gear}",
            )
    air = result.air_s
    who = next(iter(result.air_by_viewer), "")
    if result.air_viewers > FEW_CALLS and result.air_by_viewer[who] > HOGS * air:
        yield Standout(
            "hog",
            f"{who} had {result.air_by_viewer[who] / air:.0%} of the time on air.",
            "Give cues a pace for each viewer, or lanes a fair order.",
        )
    if result.most_sounds >= SOUNDS:
        yield Standout(
            "sounds",
            f"{result.most_sounds} sounds were heard at once.",
            "Let loud cues wait their turn in one lane.",
        )
