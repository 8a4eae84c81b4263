"""This machine's own keyboard, through ``pynput``."""

from __future__ import annotations

import asyncio
from typing import Any

from cuejar.live.drivers.base import AwayError, GearRefused


class OwnKeyboard:
    """This machine's own keyboard, through ``pynput`` if installed (``pip install cuejar[keys]``)."""

    def __init__(self) -> None:
        self.memory = ""
        self._controller: Any = None
        self._keys: Any = None

    async def open(self) -> None:
        try:
            from pynput import keyboard
        except ModuleNotFoundError as error:
            raise AwayError("keys can’t be pressed on this computer: run pip install 'cuejar[keys]'") from error
        except ImportError as error:
            raise AwayError("keys can’t be pressed on this computer: there is no display") from error
        except Exception as error:
            why = str(error).partition("\n")[0] or type(error).__name__
            raise AwayError(f"keys can’t be pressed on this computer ({why})") from error
        self._keys, self._controller = keyboard, keyboard.Controller()

    async def tap(self, codes: list[str], tap_id: str) -> None:
        pressed = []
        try:
            for code in codes:
                key = _own_key(self._keys, code)
                self._controller.press(key)
                pressed.append(key)
            await asyncio.sleep(0.02)
        finally:
            for key in reversed(pressed):
                self._controller.release(key)

    async def known(self, tap_ids: list[str]) -> set[str]:
        return set()

    async def gone(self) -> None:
        await asyncio.Event().wait()

    async def close(self) -> None:
        self._controller = None


_OWN = {
    "ControlLeft": "ctrl_l", "ControlRight": "ctrl_r", "ShiftLeft": "shift_l", "ShiftRight": "shift_r", "AltLeft": "alt_l",
    "AltRight": "alt_r", "MetaLeft": "cmd_l", "MetaRight": "cmd_r", "Escape": "esc", "ArrowUp": "up", "ArrowDown": "down",
    "ArrowLeft": "left", "ArrowRight": "right", "PageUp": "page_up", "PageDown": "page_down", "CapsLock": "caps_lock",
    "NumLock": "num_lock", "ScrollLock": "scroll_lock", "PrintScreen": "print_screen", "ContextMenu": "menu",
    "AudioVolumeMute": "media_volume_mute", "AudioVolumeUp": "media_volume_up", "AudioVolumeDown": "media_volume_down",
    "MediaPlayPause": "media_play_pause", "MediaTrackNext": "media_next", "MediaTrackPrevious": "media_previous",
}  # fmt: skip
_SIGNS = {
    "Minus": "-", "Equal": "=", "BracketLeft": "[", "BracketRight": "]", "Backslash": "\\", "Semicolon": ";", "Quote": "'",
    "Backquote": "`", "Comma": ",", "Period": ".", "Slash": "/", "NumpadAdd": "+", "NumpadSubtract": "-",
    "NumpadMultiply": "*", "NumpadDivide": "/", "NumpadDecimal": ".",
}  # fmt: skip


def _own_key(keyboard: Any, code: str) -> Any:
    """Raises GearRefused: this keyboard has no such key."""
    if code.startswith("Key"):
        return keyboard.KeyCode.from_char(code[3:].lower())
    if code.startswith(("Digit", "Numpad")) and code[-1].isdigit():
        return keyboard.KeyCode.from_char(code[-1])
    if code in _SIGNS:
        return keyboard.KeyCode.from_char(_SIGNS[code])
    found = getattr(keyboard.Key, _OWN.get(code, code.lower()), None)
    if found is None:
        raise GearRefused(f"this keyboard has no {code}")
    return found
