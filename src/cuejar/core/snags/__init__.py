"""Snags: what of a book cannot work as it is set up, said before anybody is let down by it.

They look at the book by the rules (how long is it really? what is there under this name?), so they stand above both.
"""
