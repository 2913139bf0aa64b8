"""The simulated student: plays a score as people do, with the faults it is told to make.

Nouns: `Student`, `Fault`. The one place with randomness, always seeded.
"""
