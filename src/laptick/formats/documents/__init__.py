"""JSON documents as they leave and enter the program (the command line's, the API's, the stored ones).

One module a document. Positions are fraction strings of a quarter, exact.
"""
