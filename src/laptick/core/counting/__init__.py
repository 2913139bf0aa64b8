"""What is said at each position of a bar, how much of it, and why (docs/trade.md 2).

Nouns: `Count`, `CountChoices`, `CountedBeat`, `Division`, `WordTable`, `CountIn`, `Reason`, `Trap`. Sources stand with
each module; the systems are common practice but for *function* (Hoffman, Pelto & White 1996).
"""
