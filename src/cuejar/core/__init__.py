"""The computation: happenings in, orders out. No clock, no waiting, no I/O, no interface.

The packages build on each other; each knows only those below it:

    engine     applies the rules, step by step
    snags      what can't work in a book as it is set up
    rules      one rule per file: who is let in, who waits, what is drawn, what returns
    book       what the streamer set up
    kinds      one kind of beat per file
    measures   arithmetic of things: colours, lamps, loudness, throws, names of things
    facts      input and output
    parts      what everything is made of
"""
