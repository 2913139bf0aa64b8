"""Takes that are recorded: how their sound comes in, is heard, and is kept where somebody agreed to it."""
