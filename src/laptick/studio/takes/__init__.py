"""Use cases of takes: sent in, judged, judged anew, overruled, laid beside what the teacher heard.

Nouns: `TakeSettings` (what was asked for), `KeptSettings` (with what held in the piece), `ShownTake`, `Listening`.
"""
