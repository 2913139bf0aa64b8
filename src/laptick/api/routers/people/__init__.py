"""Routes of people: the studio and its students."""
