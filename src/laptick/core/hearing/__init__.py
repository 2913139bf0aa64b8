"""The ear: what of a sound is a strike, when it fell, and whether it is the note that is looked for.

Nouns: `Sound`, `Spectrum`, `Group` (what of a sound may be one strike), `Tuning`, `Listened` (an event found in the
sound again). It knows pitches and times, no score; `following.by_ear` lays it beside one. Method and figures:
docs/hearing.md.
"""
