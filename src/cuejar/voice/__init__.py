"""Phrases spoken by the streamer, heard on this computer."""
