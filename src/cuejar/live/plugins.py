"""Plug-ins: packages that add a whole kind of gear, through the entry point ``cuejar.gear``
(``docs/inside/plugins.md``).

If one can't be loaded, only its own gear fails, and shows the last line of the error.
"""

from __future__ import annotations

import logging
import traceback
from collections.abc import Iterable
from importlib.metadata import EntryPoint, entry_points

from cuejar.live.drivers.table import DRIVERS, Plugin, register

log = logging.getLogger(__name__)
GROUP = "cuejar.gear"
BROKEN: dict[str, str] = {}
"""Why a plug-in is unavailable, by the name of its entry point, which is that of its kind."""


def load(found: Iterable[EntryPoint] | None = None) -> None:
    """Loads every installed plug-in; loaded ones stay."""
    for entry in entry_points(group=GROUP) if found is None else found:
        if entry.name in DRIVERS:
            continue
        BROKEN.pop(entry.name, None)
        try:
            made = entry.load()
            plugin = made if isinstance(made, Plugin) else made()
            if not isinstance(plugin, Plugin):
                raise TypeError(f"{entry.value} isn’t a Plugin")
            if plugin.kind.name != entry.name:
                raise ValueError(f"its kind is called “{plugin.kind.name}”, its entry point “{entry.name}”")
            register(plugin)
        except Exception as error:
            log.exception("The plug-in %s can’t be loaded.", entry.name)
            line = traceback.format_exception_only(error)[-1].strip()
            BROKEN[entry.name] = f"Its plug-in is broken: {line[:500]}"
