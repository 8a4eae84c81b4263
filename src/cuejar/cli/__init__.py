"""The command line. Each command imports what it needs itself, so that it starts quickly."""

from cuejar.cli import asking, carrying, doctor, draws, hands, nights, rehearsing, serving
from cuejar.cli.base import app

__all__ = ["app", "asking", "carrying", "doctor", "draws", "hands", "nights", "rehearsing", "serving"]
