"""Small programs that connect a channel or things to Cue Jar. Written from ``docs/reference/wires/`` alone; none knows
Cue Jar's code.
"""
