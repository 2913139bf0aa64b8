"""What is sent of people: the studio and its students."""
