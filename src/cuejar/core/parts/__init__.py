"""The building blocks: strict models with ids and seconds, names that are compared, the steps that beats have in
common.

The book, the kinds of beat and the measures share them. Nothing here knows cues.
"""
