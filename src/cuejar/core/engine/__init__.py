"""The engine applies the rules, step by step.

`engine` keeps the order of a step; `night` is what its parts share, `calendar` what is due, `stage` the runs and their
beats, `reception` who gets to run, `surroundings` the gear; `resolve` decides the values of a beat; `state` is all of
it as JSON, `view` is how others look at it; `rehearsal` plays whole nights. Nothing here knows what time it is.
"""
