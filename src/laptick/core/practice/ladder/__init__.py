"""From separate hands to together, rung by rung (docs/trade.md 1, 3.3, 3.4).

Nouns: `School` (how a studio teaches), `Rung` and `Ladder`, `Edit` (the teacher's own hand in it), `Event` and
`RungState` (what was tried, and what that comes to), `Tempo`.
"""
