"""The pads' own server: a port that serves the pads and nothing else, on this computer and, if switched on, beyond it."""
