"""The command line. What a command needs is imported by it alone: every worker process reads these files when it starts."""

from cuejar.cli import asking, carrying, doctor, nights, rehearsing, serving
from cuejar.cli.base import app

__all__ = ["app", "asking", "carrying", "doctor", "nights", "rehearsing", "serving"]
