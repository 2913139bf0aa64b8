"""What pulls at the beat: a take's strikes explained at once by its tempo, its phrases and what happens at each place
of a kind (runs, entries, landings, long gaps), and the tests whether the places of a kind lie beyond their limit.
"""
