"""An icon in the desktop's tray: open Cue Jar, put everything to rest, start with the computer, quit. Where there is no
tray, nothing.
"""

from __future__ import annotations

import logging
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from threading import Thread
from typing import Any, Protocol

from cuejar.platform import has_tray, open_browser, start_with_computer, starts_with_computer
from cuejar.settings import WEB
from cuejar.starting import at_login

log = logging.getLogger(__name__)
TIMEOUT_S = 5.0


class Tray(Protocol):
    def stop(self) -> None: ...


class _Nothing:
    def stop(self) -> None:
        pass


NO_TRAY: Tray = _Nothing()
"""Stands in where there is no tray."""


class Icon:
    """The icon with its menu. Everything it does runs in threads of its own."""

    def __init__(self, address: str, folder: Path, quit_: Callable[[], object]) -> None:
        self._address, self._folder, self._quit, self._icon = address, folder, quit_, None

    def begin(self) -> None:
        """Shows the icon, in a thread of its own: a desktop may take a while to answer."""
        Thread(target=self._show, name="tray", daemon=True).start()

    def _show(self) -> None:
        try:
            import pystray
            from PIL import Image

            item = pystray.MenuItem
            menu = pystray.Menu(
                item("Open", lambda: open_browser(f"{self._address}/"), default=True),
                item("All to rest", self.all_to_rest),
                pystray.Menu.SEPARATOR,
                item("Start with the computer", self.turn_start, checked=lambda _: starts_with_computer()),
                item("Quit", self._quit),
            )
            icon: Any = pystray.Icon("cue-jar", Image.open(WEB / "pads" / "pads-192.png"), "Cue Jar", menu)
            self._icon = icon
            if (window := getattr(icon, "_window", None)) is not None:
                from Xlib import X

                # On plain X, pystray's window doesn't ask for clicks.
                mask = X.ExposureMask | X.StructureNotifyMask | X.ButtonPressMask
                window.change_attributes(event_mask=mask)
            icon.run()
        except Exception as error:  # No tray, or one that breaks: the show needs none.
            log.info("There is no icon in the tray: %s", error)

    def all_to_rest(self) -> None:
        """Puts everything to rest, as the desk's button does."""
        import httpx

        try:
            httpx.post(f"{self._address}/api/all-to-rest", timeout=TIMEOUT_S, trust_env=False).raise_for_status()
        except httpx.HTTPError as error:
            log.warning("All to rest, from the tray, didn’t work: %s", error)

    def turn_start(self) -> None:
        """Starts Cue Jar with the computer from now on, or no longer."""
        try:
            start_with_computer(None if starts_with_computer() else at_login(self._folder))
        except OSError as error:
            log.warning("Starting with the computer can’t be changed: %s", error)

    def stop(self) -> None:
        if self._icon is not None:
            with suppress(Exception):
                self._icon.stop()


def show_tray(address: str, folder: Path, quit_: Callable[[], object]) -> Tray:
    """Shows the icon, where there is a tray for it."""
    if has_tray():
        icon = Icon(address, folder, quit_)
        icon.begin()
        return icon
    return NO_TRAY
