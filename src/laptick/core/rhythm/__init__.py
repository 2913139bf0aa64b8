"""What a rhythm is like: syncopations, cells, rests, bars that are alike, phrases (docs/trade.md 2.6, 3.1).

Nouns: `Syncopation`, `Cell`, `Rest`, `Likeness`, `Phrase`. Sources stand with each module.
"""
