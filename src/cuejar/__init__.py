"""Cue Jar: viewers' calls become effects that last as long as they should and go back by themselves."""

from cuejar.compiling import offer

__version__ = "0.1.0"
offer()
