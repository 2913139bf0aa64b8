"""From figures to a teacher's sentence: findings, verdict, cure (docs/trade.md 4, *Limits* and *The verdict*).

Nouns: `Finding`, `Verdict`, `Cure`, `Judgement`, `Slip` (what the teacher heard). A finding is named only where its
interval clears the limit.
"""
