"""Calculations: flashes, loudness, mouths, lamps, haptics, throws, keys, colours, jars as files, names and near misses.

Each file is about one subject and can be tested alone with numbers. None knows cues, runs or viewers.
"""
