"""What the hands do together: what meets, what is held, what lifts, where the hands stand (docs/trade.md 3.1, 3.2).

Nouns: `Sound` (a key struck and held), `Event` (an instant at which a hand strikes), `Lift`. Sources stand with each
module.
"""
