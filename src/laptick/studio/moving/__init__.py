"""A studio as one file, and back: all of it, or what is one student's.

Owns: bundle (the file), contents (what is in it), brought (what came of bringing one in).
"""
