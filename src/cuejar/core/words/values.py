"""Numbers, durations and lists in words."""

from __future__ import annotations

from collections.abc import Sequence


def seconds(value: float) -> str:
    """Returns seconds with their unit, as the pages write them: ``250 ms``, ``4.2 s``, ``1 min 30 s``, ``2 h``."""
    if 0 < value < 0.995:
        return f"{round(value * 1000)} ms"
    if value < 60:
        return f"{round(value, 2):g} s"
    minutes, rest = divmod(round(value), 60)
    parts = ((minutes // 60, "h"), (minutes % 60, "min"), (rest, "s"))
    return " ".join(f"{number} {unit}" for number, unit in parts if number)


def pace(value: float) -> str:
    """Returns a cooldown in seconds as a frequency: ``once a minute``, ``once every 20 s``, ``with no cooldown``."""
    plain: dict[float, str] = {0: "with no cooldown", 1: "once a second", 60: "once a minute", 3600: "once an hour"}
    return plain.get(round(value, 3)) or f"once every {seconds(value)}"


def watching(minutes: float) -> str:
    """Returns how long viewers must watch to earn something: ``under a minute``, ``25 min``, ``2.5 h``, ``3 days``."""
    if minutes < 1:
        return "under a minute"
    if minutes < 90:
        return f"{minutes:.0f} min"
    hours = minutes / 60
    return f"{round(hours * 2) / 2:g} h" if hours < 48 else f"{hours / 24:.0f} days"


def _number(value: float) -> str:
    return f"{value:,.10g}"


def between(low: float | None, high: float | None) -> str:
    """Returns bounds in words; empty without bounds: ``5 to 10``, ``5 or more``, ``up to 10``."""
    if low and high:
        return _number(low) if low == high else f"{_number(low)} to {_number(high)}"
    return f"{_number(low)} or more" if low else f"up to {_number(high)}" if high else ""


def counted(number: float, one: str, many: str = "") -> str:
    """Returns a number with its noun: ``1 cue``, ``2 cues``, ``3 entries``."""
    return f"{_number(number)} {one if number == 1 else many or f'{one}s'}"


def joined(some: Sequence[str], word: str = "and") -> str:
    """Returns a list as it reads in a sentence: ``a, b and c``."""
    return f"{', '.join(some[:-1])} {word} {some[-1]}" if len(some) > 1 else "".join(some)


def listed(some: Sequence[str], most: int = 6) -> str:
    """Returns the first items of a list, and how many more there are."""
    return ", ".join(some[:most]) + (f" and {len(some) - most} more" if len(some) > most else "")
