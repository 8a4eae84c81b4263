"""Addresses of Open Sound Control, and patterns that match them (OSC 1.0, “OSC Message Dispatching and Pattern
Matching”).

    /pads/*          /pads/1, but not /pads/1/press
    /pads/[1-4]      /pads/3, not /pads/5;   [!…] none of these
    /{red,blue}/on   /red/on, /blue/on
    /fader?          /fader1

Parts between slashes are matched one by one, so that matching takes time proportional to their length.
"""

from __future__ import annotations

import fnmatch
import itertools
import re
from functools import lru_cache

MOST_ADDRESS = 200
MOST_CHOICES = 200
_BRACES = re.compile(r"\{([^{}]*)\}")


def problem_of(pattern: str) -> str:
    """Returns why a pattern is invalid; empty if it is valid."""
    if not pattern.startswith("/") or len(pattern) > MOST_ADDRESS:
        return f"must begin with / and be up to {MOST_ADDRESS} characters"
    if any(character in pattern for character in " #\n\t") or not pattern.isprintable():
        return "has a character that no address has"
    if pattern.count("[") != pattern.count("]") or pattern.count("{") != pattern.count("}"):
        return "has a bracket that is not closed"
    return ""


@lru_cache(maxsize=512)
def _parts(pattern: str) -> tuple[tuple[str, ...], ...]:
    """Returns each part as its plain alternatives."""
    return tuple(_choices(part) for part in pattern.split("/"))


def _choices(part: str) -> tuple[str, ...]:
    found = [match.group(1).split(",") for match in _BRACES.finditer(part)]
    plain = _BRACES.split(part)[::2]
    made = []
    for chosen in itertools.islice(itertools.product(*found), MOST_CHOICES):
        made.append("".join(itertools.chain.from_iterable(itertools.zip_longest(plain, chosen, fillvalue=""))))
    return tuple(made)


def stands_for(wanted: str, told: str) -> bool:
    """Returns whether the expected address or pattern and the incoming one match: either may be a pattern."""
    return matches(wanted, told) or (
        any(sign in told for sign in "*?[{") and not problem_of(told) and matches(told, wanted)
    )


def matches(pattern: str, address: str) -> bool:
    """Returns whether a pattern matches an address."""
    wanted, there = _parts(pattern), address.split("/")
    if len(wanted) != len(there) or len(address) > MOST_ADDRESS:
        return False
    return all(
        any(fnmatch.fnmatchcase(part, one) for one in choices) for choices, part in zip(wanted, there, strict=True)
    )
