"""What a teacher writes into the studio: passages that are typed, and changes pencilled into a score."""
