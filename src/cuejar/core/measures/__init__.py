"""Arithmetic of things: flashes, loudness, mouths, lamps, haptics, throws, keys, colours, jars as files, names and their near ones.

Each file is about one kind of thing and can be tried alone with numbers. No cue, no run, no viewer comes in here.
"""
