"""Every figure that is taken of a followed take (docs/trade.md 4.3 to 4.12), without judging any.

Nouns: `Measured` and what it holds: notes, runs, ratios, long notes, rest entries, hesitations, touch; `Limits`.
"""
