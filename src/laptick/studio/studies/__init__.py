"""Use cases of studies: one student's work on a piece or passage – its ladder, the teacher's hand in it, the takes.

Nouns: `Study` (opened), `NextStep` (what a take leads to).
"""
