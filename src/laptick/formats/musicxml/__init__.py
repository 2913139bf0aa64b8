"""MusicXML 1.0 to 4.0, plain and compressed, into a score: file, elements, notes, marks, and their joining.

Source: the W3C MusicXML 4.0 specification.
"""
