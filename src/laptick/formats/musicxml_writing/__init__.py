"""MusicXML out: a score from scratch, and counts or pencil changes put into the tree that came in.

Source: the W3C MusicXML 4.0 specification. What came in is never re-made, only added to.
"""
