"""What the streamer set up: the book and its parts, checked, and as a file.

Here live the models, their limits and what makes a book whole. Nothing here knows what happens in a night; how names are
compared (`folding`) is here because the book's own names are.
"""
