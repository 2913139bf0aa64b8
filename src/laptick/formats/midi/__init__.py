"""Standard MIDI files: scores in and out, takes in. Read with mido; tempo is per quarter note, ticks are integers."""
