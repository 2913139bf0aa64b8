"""Names of people, as they are compared."""

from __future__ import annotations


def is_same_name(one: str, other: str) -> bool:
    """Are they the same but for capitals and spaces?"""
    return " ".join(one.split()).casefold() == " ".join(other.split()).casefold()
