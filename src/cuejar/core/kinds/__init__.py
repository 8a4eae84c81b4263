"""The kinds of beat, one a file: what each is in the book, what it comes to, what it holds, what can be wrong with it.

`base` says what a kind is, `table` lists them all. A new kind is a file here and a row there. No kind knows another, and none
knows who runs it: what it may ask is in `base.Resolving`.
"""
