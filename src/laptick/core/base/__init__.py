"""What every other room stands on: errors, levels, units of tempo, statistics.

Nouns: `LapTickError` and its family, `Level`, `BeatUnit`, means and intervals with their errors. Nothing here knows
what a note is, and nothing here imports anything of ours.
"""
