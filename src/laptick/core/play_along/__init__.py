"""What sounds when a passage is played along, and when: count-in, click, voice, backing, hands, rounds.

Nouns: `Schedule`, `Rounds`, `Groove`, `Voice`. Times are seconds from the start; nothing here makes a sound.
"""
