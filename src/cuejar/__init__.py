"""Cue Jar: viewers' calls become effects that last as long as they should and go back by themselves."""

__version__ = "0.1.0"
