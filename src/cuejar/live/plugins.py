"""Plug-ins: packages that bring a whole kind of gear, by the entry point ``cuejar.gear`` (``docs/inside/plugins.md``).

One that cannot be loaded costs its own gear alone, which says the last line of what went wrong.
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
"""Why a plug-in is not to be had, by the name of its entry point, which is that of its kind."""


def load(found: Iterable[EntryPoint] | None = None) -> None:
    """Takes in every plug-in that is installed; those that are in already stay."""
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
