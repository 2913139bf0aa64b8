"""Sound out: the play-along as WAV and MIDI, the sound pack, the drum kit, the counting voice."""
