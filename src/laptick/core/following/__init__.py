"""Which played strike is which written note (docs/trade.md 4.1, 4.2).

Nouns: `ScoreEvents`, `Hypothesis`, `Pass`, `Matching`, `OwnBeat`. Method: a beam search over score events and tempo
hypotheses, then pairing inside each pass; docs/checking.md tells it with its figures.
"""
