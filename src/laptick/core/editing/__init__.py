"""Changing a score by hand: the pencil over an imported one, and typing a passage.

Nouns: `Change`, `Bench` (a score under the pencil), `Passage` (what is typed). The score as it came is never altered.
"""
