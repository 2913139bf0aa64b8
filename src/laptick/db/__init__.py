"""Plain SQL by noun. Every statement names the studio it is asked for; nothing here decides music, and nothing here
commits: whoever calls stands inside a transaction (``studio.use_case``)."""
