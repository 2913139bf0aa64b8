"""One recorded run: what was asked for and what was played.

Nouns: `Task` with what is `Expected`, `Performance` of `Strike`s. Played time is seconds, score time is exact.
"""
