"""What the studio does: one use case is one function and one transaction.

Nouns: `Studio` (whose data, through which connection), `Piece` (a stored piece with everything known of it),
`TakeSettings` (what a take was asked to be). Called by the API, the command line, the demo and workers; knows no web.
A use case that raises has changed nothing.
"""
