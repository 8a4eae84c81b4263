"""Keys: taps over JSON-RPC 2.0 on a WebSocket, or on this machine's own keyboard.

Nobody can read the state of what a latch toggles in another program. So the driver remembers what it left every latch at,
over a restart too, and taps only when that differs from what is wanted. A hand that toggled it outside is told on the Rig page.
"""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator, Callable, Mapping
from typing import Any, Protocol

from cuejar.core.happenings import PropertyValue
from cuejar.core.keys import canonical, parts, unknown
from cuejar.core.orders import Strike
from cuejar.live.drivers.base import AwayError, Catalogue, GearRefused, PropertyPath, Report
from cuejar.live.drivers.rpc import Rpc

OWN_KEYBOARD = "keyboard:"


class Tapper(Protocol):
    """What can press keys."""

    async def open(self) -> None:
        """Raises AwayError."""

    async def tap(self, codes: list[str]) -> None:
        """Presses them together and lets go. Raises AwayError or GearRefused."""

    async def gone(self) -> None:
        """Waits until it is away, and raises AwayError then."""

    async def close(self) -> None: ...


class KeysDriver:
    """Keys by way of a tapper."""

    def __init__(
        self, tapper: Tapper, latched: dict[PropertyPath, PropertyValue], keep: Callable[[PropertyPath], None]
    ) -> None:
        """Args:
        latched: what every latch was left at; it is changed here, and ``keep`` called after it.
        """
        self._tapper, self._latched, self._keep = tapper, latched, keep
        self.actual: dict[PropertyPath, PropertyValue] = _Latches(latched)
        self.changes: dict[PropertyPath, int] = {}

    async def connect(self) -> Catalogue:
        await self._tapper.open()
        return Catalogue()

    async def show(self, wanted: Mapping[PropertyPath, PropertyValue]) -> Mapping[PropertyPath, PropertyValue | None]:
        shown: dict[PropertyPath, PropertyValue | None] = {}
        for path, value in wanted.items():
            if self.actual[path] != value:
                try:
                    await self._tap(path.removeprefix("keys/"))
                except GearRefused:
                    shown[path] = None
                    continue
                self._latched[path] = value
                self._keep(path)
            shown[path] = value
        return shown

    async def _tap(self, combo: str) -> None:
        combo = canonical(combo)
        wrong = unknown(combo)
        if wrong or not parts(combo):
            raise GearRefused(f"“{', '.join(wrong) or combo}” is no key")
        await self._tapper.tap(parts(combo))

    async def strike(self, strike: Strike) -> None:
        await self._tap(str(strike.value))

    def correct(self, path: PropertyPath, value: PropertyValue) -> None:
        """A hand toggled it: that is what it shows."""
        self._latched[path] = value
        self._keep(path)

    async def reports(self) -> AsyncIterator[Report]:
        await self._tapper.gone()
        yield Catalogue()

    async def picture(self) -> bytes | None:
        return None

    async def close(self) -> None:
        await self._tapper.close()


class _Latches(dict[PropertyPath, PropertyValue]):
    """What latches show; one that was never tapped is off."""

    def __init__(self, latched: dict[PropertyPath, PropertyValue]) -> None:
        super().__init__()
        self._latched = latched

    def __contains__(self, path: object) -> bool:
        return isinstance(path, str) and path.startswith("keys/")

    def __getitem__(self, path: PropertyPath) -> PropertyValue:
        return self._latched.get(path, "off")

    def get(self, path: PropertyPath, default: Any = None) -> Any:
        return self._latched.get(path, "off") if path.startswith("keys/") else default

    def __iter__(self) -> Any:
        return iter(self._latched)

    def __len__(self) -> int:
        return len(self._latched)

    def items(self) -> Any:
        return self._latched.items()


class WireTapper:
    """Keys pressed by a program elsewhere: ``tap {"keys": [...]}``."""

    def __init__(self, address: str) -> None:
        self.address = address
        self._rpc = Rpc(lambda method, params: None, self._lost)
        self._over: asyncio.Future[None] | None = None

    def _lost(self, why: AwayError) -> None:
        if self._over is not None and not self._over.done():
            self._over.set_exception(why)

    async def open(self) -> None:
        self._over = asyncio.get_running_loop().create_future()
        await self._rpc.open(self.address)

    async def tap(self, codes: list[str]) -> None:
        await self._rpc.ask("tap", {"keys": codes})

    async def gone(self) -> None:
        assert self._over is not None
        await self._over

    async def close(self) -> None:
        await self._rpc.close()
        if self._over is not None and self._over.done():
            self._over.exception()


class OwnKeyboard:
    """This machine's own keyboard, by ``pynput``, where that is installed (``pip install cuejar[keys]``)."""

    def __init__(self) -> None:
        self._controller: Any = None
        self._keys: Any = None

    async def open(self) -> None:
        try:
            from pynput import keyboard
        except Exception as error:
            raise AwayError(f"the keyboard cannot be pressed from here ({type(error).__name__}: {error})") from error
        self._keys, self._controller = keyboard, keyboard.Controller()

    async def tap(self, codes: list[str]) -> None:
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


def tapper(address: str) -> Tapper:
    """The tapper of an address: ``keyboard:`` is this machine's own, everything else a WebSocket."""
    return OwnKeyboard() if address.startswith(OWN_KEYBOARD) else WireTapper(address)
