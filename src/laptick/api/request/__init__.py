"""Who is asking, the connection of a request, its limits, and errors turned into HTTP once."""
