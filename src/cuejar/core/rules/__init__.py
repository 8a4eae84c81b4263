"""The rules of the job, one per file: the door, calls, lanes, runs, the score, holds, draws, chance, prices, words.

A rule answers questions; it doesn't know the engine's current step, and gives no orders.
"""
