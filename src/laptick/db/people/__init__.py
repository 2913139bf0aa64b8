"""Plain SQL of people: students, and what hangs on each of them."""
