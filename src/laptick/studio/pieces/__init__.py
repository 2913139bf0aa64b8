"""Use cases of pieces: the shelf, the pencil, typed passages, questions, the play-along.

Noun: `Piece`, a stored piece with everything the studio knows of it.
"""
