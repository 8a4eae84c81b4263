"""The rules of the job, one a file: the door, calls, lanes, runs, the score, holds, draws, chance, prices, words.

A rule is asked and answers; it does not know the step of the engine in which it is asked, and gives no orders.
"""
