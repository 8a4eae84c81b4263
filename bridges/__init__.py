"""Small programs that make a channel or things known to Cue Jar. Written from ``docs/reference/wires/`` alone; none knows Cue Jar's code."""
