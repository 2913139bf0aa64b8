"""The written music: what stands on the page, where, and in which order it is played.

Nouns: `Score`, `Measure`, `Note`, `TimeSignature`, `Place`, `HandLine`, `Roadmap`, `ScoreClock`. Score time is exact:
a `Fraction` of a quarter note from the start of the written bar. Knows no file format and no performance.
"""
