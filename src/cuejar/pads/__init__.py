"""The pads' own door: a port that serves the pads and nothing else, on this computer and, where that is switched on, beyond it."""
