"""Drills: scores that are made, not read: scales in ratios, cross-rhythms, turns of even notes, forms, a left hand.

Nouns: `Scale`, `Drill` (a score with what is to be looked at in it), `Meeting` (where both hands come to the same
note), `Pattern` (what a hand does in one bar, over a root). A drill is a score like any other: counted, mapped,
practised.
"""
