"""What must not be guessed: passwords and PINs as they are kept, and what is made up so that nobody can guess it.

Passwords and PINs, which people choose, are kept by argon2id (RFC 9106; the parameters are those of the library's
``RFC_9106_LOW_MEMORY``). What is made here is as long as a key (128 bits and more), so a plain SHA-256 of it tells
nothing. What people have to read off a screen is made of syllables without letters that look alike.
"""

from __future__ import annotations

import hashlib
import secrets
import unicodedata

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from argon2.profiles import RFC_9106_LOW_MEMORY

from laptick.core.base.errors import OptionError

#: A password is at least and at most so long; a PIN is so many digits.
LEAST_PASSWORD, MOST_PASSWORD = 10, 200
LEAST_PIN, MOST_PIN = 4, 8

_CONSONANTS, _VOWELS = "bdfghkmnprstvwyz", "aeiu"
_SYLLABLES = [consonant + vowel for consonant in _CONSONANTS for vowel in _VOWELS]

#: A token has so many words of three syllables, six bits each: 144 bits. A recovery code as many.
TOKEN_WORDS = 8

_hasher = PasswordHasher.from_parameters(RFC_9106_LOW_MEMORY)

#: Verified where there is nobody of that name, so that it takes as long.
_nobodys = ""


def use_hasher(hasher: PasswordHasher) -> None:
    """Another cost of a guess: tests would else spend their time here."""
    global _hasher, _nobodys
    _hasher, _nobodys = hasher, ""


def password_hash(password: str) -> str:
    """
    Raises:
        OptionError: it is too short or too long, or one that everybody tries first.
    """
    plain = _plain(password)
    if not LEAST_PASSWORD <= len(plain) <= MOST_PASSWORD:
        raise OptionError(
            f"a password has {LEAST_PASSWORD} to {MOST_PASSWORD} characters.",
            where="password",
            kept="Nothing was changed.",
            todo="Four or five words of your own are long enough and easy to keep in mind.",
        )
    if len(set(plain.lower())) < 4 or plain.lower() in _TRIED_FIRST:
        raise OptionError("this password is one that is tried first.", where="password", kept="Nothing was changed.")
    return _hasher.hash(plain)


#: A few that are long enough and known to everybody; from memory.
_TRIED_FIRST = frozenset(
    {"1234567890", "0123456789", "password12", "password123", "passwort123", "qwertyuiop", "qwertzuiop", "letmein123"}
)


def pin_hash(pin: str) -> str:
    """
    Raises:
        OptionError: it is not some digits.
    """
    if not (LEAST_PIN <= len(pin) <= MOST_PIN and pin.isascii() and pin.isdigit()):
        raise OptionError(f"a PIN is {LEAST_PIN} to {MOST_PIN} digits.", where="pin", kept="Nothing was changed.")
    return _hasher.hash(pin)


def is_right(kept_hash: str, given: str) -> bool:
    """Is it what was chosen? What is kept may be damaged: then nothing is right."""
    try:
        return _hasher.verify(kept_hash, _plain(given))
    except (VerificationError, InvalidHashError):
        return False


def wastes_as_long(given: str) -> None:
    """As long as ``is_right`` takes, for a name that nobody has."""
    global _nobodys
    _nobodys = _nobodys or _hasher.hash(secrets.token_hex(16))
    is_right(_nobodys, given)


def needs_anew(kept_hash: str) -> bool:
    """Was it made with other parameters than are in use now?"""
    return _hasher.check_needs_rehash(kept_hash)


def _plain(text: str) -> str:
    """However it was typed: composed characters or not."""
    return unicodedata.normalize("NFKC", text)


def new_token() -> str:
    """Words that nobody can guess: ``bafiku-deromi-…``."""
    words = ("".join(secrets.choice(_SYLLABLES) for _ in range(3)) for _ in range(TOKEN_WORDS))
    return "-".join(words)


def token_hash(token: str) -> str:
    """As it is kept, and looked for: without what people add or leave out when they type it."""
    return hashlib.sha256("".join(token.lower().split()).replace("-", "").encode()).hexdigest()
