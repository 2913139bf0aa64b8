"""What is practised when: the nouns are a *thing* (a rung to be practised tonight) and what is on the go.

Source: docs/trade.md 3.3, 3.6 and 5 (common practice).
"""
