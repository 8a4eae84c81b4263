"""Phrases spoken by the streamer, heard on this computer."""

from importlib.util import find_spec

MISSING = "Speech recognition isn’t installed. Install Cue Jar with its extra “voice”."


def is_installed() -> bool:
    """Returns whether phrases can be heard here."""
    return find_spec("pocketsphinx") is not None
