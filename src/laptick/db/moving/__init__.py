"""What of a studio travels: rows as documents and back, and the files they travel in.

Owns: moved (a table's facts for travelling), document (a row as plain values), bundle (a file, in chunks).
"""
