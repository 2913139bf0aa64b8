"""What a student does next: the ladder of rungs and questions to be answered (docs/trade.md 1, 3.3).

Nouns: `Rung`, `Ladder`, `Question`.
"""
