"""Tests wires from outside: Cue Jar's side against anybody's other side, rule by rule (``cuejar wire``).

Each rule is a sentence of the wire's page in ``docs/reference/wires/``, which a test checks.
"""
