"""The kinds of beat, one per file: what each is in the book, its values, what it holds, what can be wrong with it.

`base` defines a kind, `table` lists them all. A new kind is a file here and a row there. No kind knows another, nor
who runs it: `base.Resolving` is what it may ask.
"""
