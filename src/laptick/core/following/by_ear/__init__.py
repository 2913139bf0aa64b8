"""A score followed by ear: from a sound to the strikes of what is written, with when each fell.

What comes of it is a `Performance` like one from keys, whose pitches are those the score asks for where they were
heard: matched, measured and judged like any other. Method: docs/hearing.md.
"""
