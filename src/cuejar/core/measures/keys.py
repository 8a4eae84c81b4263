"""Keys: combinations by the ``code`` names of W3C UI Events, in a fixed order, so that each combination has one name.

"control + shift+m"      ControlLeft+ShiftLeft+KeyM
"F5"                     F5
"""

from __future__ import annotations

import re

from cuejar.core.parts.folding import folded

MODIFIERS = ("ControlLeft", "ControlRight", "ShiftLeft", "ShiftRight", "AltLeft", "AltRight", "MetaLeft", "MetaRight")
NAMED = [
    "Backspace",
    "Tab",
    "Enter",
    "Escape",
    "Space",
    "CapsLock",
    "NumLock",
    "ScrollLock",
    "Pause",
    "PrintScreen",
    "ContextMenu",
    "Insert",
    "Delete",
    "Home",
    "End",
    "PageUp",
    "PageDown",
    "ArrowUp",
    "ArrowDown",
    "ArrowLeft",
    "ArrowRight",
    "Minus",
    "Equal",
    "BracketLeft",
    "BracketRight",
    "Backslash",
    "Semicolon",
    "Quote",
    "Backquote",
    "Comma",
    "Period",
    "Slash",
    "IntlBackslash",
    "NumpadAdd",
    "NumpadSubtract",
    "NumpadMultiply",
    "NumpadDivide",
    "NumpadDecimal",
    "NumpadEnter",
    "NumpadEqual",
    "AudioVolumeMute",
    "AudioVolumeUp",
    "AudioVolumeDown",
    "MediaPlayPause",
    "MediaStop",
    "MediaTrackNext",
    "MediaTrackPrevious",
]
CODES = frozenset(
    [*MODIFIERS, *NAMED]
    + [f"Key{letter}" for letter in "ABCDEFGHIJKLMNOPQRSTUVWXYZ"]
    + [f"Digit{n}" for n in range(10)]
    + [f"Numpad{n}" for n in range(10)]
    + [f"F{n}" for n in range(1, 25)]
)
_BY_FOLDED = {folded(code): code for code in CODES}
_SHORT = {
    "control": "ControlLeft",
    "ctrl": "ControlLeft",
    "shift": "ShiftLeft",
    "alt": "AltLeft",
    "meta": "MetaLeft",
    **{letter: f"Key{letter.upper()}" for letter in "abcdefghijklmnopqrstuvwxyz"},
    **{str(n): f"Digit{n}" for n in range(10)},
}


def code(name: str) -> str | None:
    """Returns the code that a key's name means, or None."""
    plain = folded(name).replace(" ", "")
    return _BY_FOLDED.get(plain) or _SHORT.get(plain)


def parts(combo: str) -> list[str]:
    """Returns the names in a combination, as written."""
    return [part.strip() for part in re.split(r"\s*\+\s*", combo.strip()) if part.strip()]


def unknown(combo: str) -> list[str]:
    """Returns the parts of a combination that aren't keys."""
    return [part for part in parts(combo) if code(part) is None]


def canonical(combo: str) -> str:
    """Returns the combination by codes, modifiers first; unchanged if some of it isn't a key."""
    codes = [code(part) for part in parts(combo)]
    known = [found for found in codes if found is not None]
    if not known or len(known) < len(codes):
        return combo.strip()
    order = {name: i for i, name in enumerate(MODIFIERS)}
    return "+".join(dict.fromkeys(sorted(known, key=lambda c: order.get(c, len(order)))))
