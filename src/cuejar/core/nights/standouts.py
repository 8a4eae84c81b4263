"""What stands out in a night: plain rules, each with its figure and a remedy. Nothing is guessed."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from cuejar.core.book.book import Book
from cuejar.core.nights.tally import Result

REFUNDED, HOGS, FEW_CALLS, QUIET_S, SOUNDS, AWAY_S = 0.2, 1 / 3, 5, 900, 4, 900
"""The share from which refunds are many, and a viewer's air time is large; the number of calls needed to say so; the
length of a long quiet stretch; a large number of simultaneous sounds; a long disconnection of gear.
"""
MENDS = {
    "cooldown": "Shorten its cooldown or raise its price.",
    "cooldown_viewer": "Shorten its viewer cooldown or raise its price.",
    "cap_stream": "Raise its limit per stream or its price.",
    "cap_viewer": "Raise its limit per viewer or its price.",
    "cap_window": "Raise its limit for a period or its price.",
    "busy": "Let it wait its turn or widen its lane.",
    "lane_full": "Widen its lane or allow a longer line.",
    "stale": "Widen its lane, shorten its cues or allow longer waits.",
    "role": "Say in its prompt who it is for, or let everyone call it.",
    "off_air": "No change needed: it only works while you are live.",
    "on_air": "No change needed: it only works off air.",
    "category": "Put it in a set that is on only in its categories.",
    "scene": "Put it in a set that is on only in its scenes.",
    "condition": "Say in its prompt when it works, or put it in a set that is on only then.",
    "house_closed": "Pause it while its cue can’t be called.",
    "cue_off": "Pause it while its cue can’t be called.",
    "by_hand": "No change needed: it was dropped by hand.",
    "sent_back": "No change needed: you sent it back.",
    "failed": "Check the ledger to see what failed.",
    "gear_away": "Pause it while its gear is disconnected.",
    "viewer_shut_out": "No change needed: blocked viewers called it.",
    "too_few_points": "Make it cheaper.",
    **dict.fromkeys(
        ("text_missing", "text_short", "text_long", "text_colour", "text_number", "text_choice"),
        "Say in its prompt what to write, or accept more.",
    ),
    "text_word": "Check the word lists, or say in its prompt what isn’t read.",
}
"""Remedies for refunds, by their reason."""


class Standout(NamedTuple):
    """Something that stands out, where in the book (``rewards/tea``, or empty), and what would help."""

    rule: str
    what: str
    mend: str
    of: str = ""


def _reason(result: Result, reward: str) -> str:
    """Returns the most common reason why a reward was refunded."""
    reasons = result.refund_reasons.get(reward, {})
    return max(reasons, key=lambda reason: reasons[reason], default="stale")


def standouts(result: Result, book: Book) -> Iterator[Standout]:
    """Returns everything that stands out; if nobody called anything, only that."""
    if not result.calls:
        yield Standout(
            "nobody",
            "There were no calls.",
            "Connect a cue to a reward or a chat message, and give the audience calls.",
        )
        return
    for reward in book.rewards:
        calls, refunds = result.calls_by_reward.get(reward.id, 0), result.refunds_by_reward.get(reward.id, 0)
        if calls >= FEW_CALLS and refunds / calls > REFUNDED:
            yield Standout(
                "refunded",
                f"{reward.title} was refunded {refunds} of {calls} times.",
                MENDS[_reason(result, reward.id)],
                f"rewards/{reward.id}",
            )
        minutes = reward.cost / book.house.points_per_min
        if result.length_s and minutes > result.length_s / 60:
            yield Standout(
                "unaffordable",
                f"{reward.title} costs {minutes:.0f} minutes of watching; the night has {result.length_s / 60:.0f}.",
                "Make it cheaper, unless it is meant for regulars.",
                f"rewards/{reward.id}",
            )
    for lane in book.all_lanes:
        full = result.full_by_lane.get(lane.id, 0)
        if full:
            yield Standout(
                "full",
                f"The line of {lane.name} was full {full} times.",
                "Widen it or allow a longer line.",
                f"lanes/{lane.id}",
            )
    for cue in book.cues:
        let_in = result.let_in_by_cue.get(cue.id, 0)
        if cue.entry == "solo" and let_in and not result.runs_by_cue.get(cue.id, 0):
            yield Standout(
                "solo",
                f"{cue.name} runs alone; it was let in {let_in} times but never ran.",
                "Let it wait its turn or give it its own lane.",
                f"cues/{cue.id}",
            )
        unseen, runs = result.unseen_by_cue.get(cue.id, 0), result.runs_by_cue.get(cue.id, 0)
        if unseen and unseen * 2 >= runs:
            yield Standout(
                "unseen",
                f"{cue.name} changed a source {unseen} of {runs} times while its scene wasn’t on, so nobody saw it.",
                "Switch to that scene first, or let its door require the scene.",
                f"cues/{cue.id}",
            )
    if result.longest_quiet_s > QUIET_S:
        at = result.longest_quiet_at_s / 60
        yield Standout(
            "quiet",
            f"Nothing was visible for {result.longest_quiet_s / 60:.0f} minutes from minute {at:.0f} on.",
            "Make something cheaper, or add a timer.",
        )
    names = {gear.id: gear.name or gear.id for gear in book.gear}
    for gear, away_s in result.away_by_gear.items():
        if away_s >= AWAY_S:
            refunds = sum(reasons.get("gear_away", 0) for reasons in result.refund_reasons.values())
            lost = f"; {refunds} calls were refunded because gear was disconnected" if refunds else ""
            yield Standout(
                "away",
                f"{names.get(gear, gear)} was disconnected for {away_s / 60:.0f} minutes{lost}.",
                "Check its cable and address before the next night.",
                f"gear/{gear}",
            )
    air = result.air_s
    who = next(iter(result.air_by_viewer), "")
    if result.air_viewers > FEW_CALLS and result.air_by_viewer[who] > HOGS * air:
        yield Standout(
            "hog",
            f"{who} had {result.air_by_viewer[who] / air:.0%} of the time on air.",
            "Add viewer cooldowns or use a fair order in lanes.",
        )
    if result.most_sounds >= SOUNDS:
        yield Standout(
            "sounds",
            f"{result.most_sounds} sounds played at once.",
            "Put loud cues in one lane.",
        )
