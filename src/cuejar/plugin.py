"""What a plug-in needs: everything here is stable across versions. See ``docs/inside/plugins.md``."""

from cuejar.core.facts.happenings import Catalogue, Deed, Hand, PropertyValue, Setting, Thing
from cuejar.core.facts.orders import Strike
from cuejar.core.kinds.gear import GearKind, of_things
from cuejar.core.measures.catalogue import known_as
from cuejar.core.rules.rig import Found
from cuejar.live.drivers.base import AwayError, Driver, GearRefused, Greeting, PropertyPath, Report, Unanswered
from cuejar.live.drivers.table import Plugin
from cuejar.live.drivers.table import Set as SetUp

__all__ = [
    "AwayError",
    "Catalogue",
    "Deed",
    "Driver",
    "Found",
    "GearKind",
    "GearRefused",
    "Greeting",
    "Hand",
    "Plugin",
    "PropertyPath",
    "PropertyValue",
    "Report",
    "SetUp",
    "Setting",
    "Strike",
    "Thing",
    "Unanswered",
    "known_as",
    "of_things",
]
