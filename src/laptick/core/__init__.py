"""The rules of the trade: pure computation.

Nothing here reads a file, a clock, a database or a request, and nothing is random unless a seed is
given. Score time is exact (``fractions.Fraction`` of a quarter note), played time is float seconds.
"""
