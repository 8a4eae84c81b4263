"""What goes into the engine and what comes out of it: happenings and orders, each sound, each as JSON and back.

Here live plain data and the gate that makes what is foreign sound (`gate`). Nothing here decides.
"""
