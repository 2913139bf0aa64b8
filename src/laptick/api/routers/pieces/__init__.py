"""Routes of a piece: itself, its counts, roadmap, pages, play-along, pencil, entry and questions."""
