"""What the streamer set up: the whole book, checked, and as a file.

Contains the book's models, its validation, and the file formats. Nothing here knows what happens during a night; the
parts of a book are in `core.parts`, its kinds of beat in `core.kinds`.
"""
