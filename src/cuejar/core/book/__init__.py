"""What the streamer set up: the whole book, checked, and as a file.

Here live the book's models, what makes a book whole (`validation`), and the files' formats. Nothing here knows what happens in a
night; the parts that a book is made of are in `core.parts`, its kinds of beat in `core.kinds`.
"""
