"""The computation: from happenings to orders. No clock, no waiting, no I/O, no interface.

The rooms stand on each other; each knows only those below it:

    engine     puts the rules to work, step by step
    snags      what of a book cannot work as it is set up
    rules      one rule a file: who is let in, who waits, what is drawn, what returns
    book       what the streamer set up
    kinds      one kind of beat a file
    measures   arithmetic of things: colours, lamps, loudness, throws, names of things
    facts      what goes in and what comes out
    parts      what everything is made of
"""
