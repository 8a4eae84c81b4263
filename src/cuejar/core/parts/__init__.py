"""What everything is made of: strict models with ids and seconds, names that are compared, the steps that beats have in common.

Here live the small things that the book, the kinds of beat and the measures share. Nothing here knows a cue.
"""
