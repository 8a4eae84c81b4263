"""Snags: what can't work in a book as it is set up, said before it lets anybody down.

They apply the rules to the book (how long is it really? what has this name?), so they are built on both.
"""
