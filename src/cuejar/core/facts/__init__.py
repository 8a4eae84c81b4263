"""What goes into the engine and what comes out of it: happenings and orders, valid, each as JSON and back.

This package has plain data and the gate that makes foreign input valid (`gate`). It decides nothing.
"""
