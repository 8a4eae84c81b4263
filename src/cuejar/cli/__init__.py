"""The command line. Each command imports what it needs itself: every worker process reads these files when it starts."""

from cuejar.cli import asking, carrying, doctor, hands, nights, rehearsing, serving
from cuejar.cli.base import app

__all__ = ["app", "asking", "carrying", "doctor", "hands", "nights", "rehearsing", "serving"]
