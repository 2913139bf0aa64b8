"""Bytes ↔ core. Nothing here decides about music; nothing in core knows a file format."""
