"""Routes of the studio: how it counts, its voice, its limits."""
