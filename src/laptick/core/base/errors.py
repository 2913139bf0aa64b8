"""The error family.

::

    LapTickError                 everything this product raises on purpose
    ├── InputError               the input is bad: HTTP 4xx, exit code 2
    │   ├── ScoreError           a score that cannot be read or used
    │   ├── TakeError            a take that cannot be read or used
    │   ├── OptionError          an option with a bad value, or one that is not supported
    │   ├── BundleError          a studio's file that cannot be read, or a stored row that cannot go into one
    │   └── LimitError           sound input, but larger than the stated limit
    ├── NotFoundError            what was asked for is not there (or belongs to another studio)
    ├── SignedOutError           nobody is signed in, and it is not for everybody
    ├── RefusedError             whoever asks may not do it, or not yet again
    ├── ConflictError            the thing changed or is in use: the request clashes with its state
    ├── StorageError             our own fault or the machine's: the store could not do it
    │   ├── DuplicateError       it is stored already, by another at the same time
    │   └── ContendedError       others were storing at the same place: tried again it may well succeed
    └── SpeechUnavailableError   words cannot be made into speech on this machine

Every error says what happened, where (a path into the file or the field), what was kept and what
to do. Each part is a plain sentence for a teacher; none holds a stack trace.
"""

from __future__ import annotations


class LapTickError(Exception):
    """Base of the family.

    Attributes:
        code: short stable name, the same in the API and in tests.
        what: what happened, one sentence.
        where: the place in the file or the name of the field, or ``None``.
        kept: what was kept or left untouched, or ``None``.
        todo: what the user can do, or ``None``.
    """

    code = "error"

    def __init__(
        self, what: str, *, where: str | None = None, kept: str | None = None, todo: str | None = None
    ) -> None:
        super().__init__(what)
        self.what = what
        self.where = where
        self.kept = kept
        self.todo = todo

    def one_line(self) -> str:
        """The error as one line for a shell."""
        parts = [self.what if self.where is None else f"{self.where}: {self.what}"]
        parts += [part for part in (self.kept, self.todo) if part]
        return " ".join(" ".join(part.split()) for part in parts)


class InputError(LapTickError):
    code = "bad-input"


class ScoreError(InputError):
    code = "bad-score"


class TakeError(InputError):
    code = "bad-take"


class OptionError(InputError):
    code = "bad-option"


class BundleError(InputError):
    code = "bad-bundle"


class LimitError(InputError):
    code = "too-large"


class NotFoundError(LapTickError):
    code = "not-found"


class SignedOutError(LapTickError):
    code = "signed-out"


class RefusedError(LapTickError):
    code = "refused"


class ConflictError(LapTickError):
    code = "conflict"


class StorageError(LapTickError):
    code = "storage"


class DuplicateError(StorageError):
    code = "stored-already"


class ContendedError(StorageError):
    code = "contended"


class SpeechUnavailableError(LapTickError):
    """Words cannot be made into speech on this machine."""

    code = "no-speech"
