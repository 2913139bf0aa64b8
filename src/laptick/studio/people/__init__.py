"""Use cases of people: students, what was given to them, how far each has come."""
