"""A teacher's own account: where she is signed in, her password, a recovery code, a second factor. And what whoever
runs the machine does: a new recovery code for her, another studio."""

from __future__ import annotations

from dataclasses import dataclass

import pyotp

from laptick.core.base.errors import ConflictError, NotFoundError, OptionError, RefusedError, SignedOutError
from laptick.db.engine.connect import Row
from laptick.db.people import sessions as sessions_db
from laptick.db.people import studios as studios_db
from laptick.db.people import teachers as db
from laptick.studio.people.secret_words import is_right, new_token, password_hash, token_hash
from laptick.studio.people.sign_in import step_of, teacher_by_id
from laptick.studio.use_case import Asker, Studio, use_case

#: Names are at most so long.
MOST_STUDIO_NAME, MOST_TEACHER_NAME = 200, 120


@dataclass(frozen=True)
class Account:
    """``code_asked``: a second factor is on; ``has_recovery``: a recovery code was made and not used."""

    name: str
    code_asked: bool
    has_recovery: bool
    is_demo: bool
    sessions: list[Row]
    session_id: int


@use_case
def get_account(studio: Studio) -> Account:
    row = _own(studio)
    return Account(
        row["name"],
        row["totp_secret"] is not None,
        row["recovery_hash"] is not None,
        bool(row["is_demo"]),
        sessions_db.sessions_of_teacher(studio.connection, studio.id, row["id"]),
        _asker(studio).session_id,
    )


@use_case
def change_password(studio: Studio, before: str, after: str) -> None:
    """Every other session of hers ends.

    Raises:
        RefusedError: the old one is not right.
        OptionError: the new one is none.
    """
    row = _own(studio, hold=True)
    _check_password(row, before)
    db.set_password(studio.connection, row["id"], password_hash(after))
    sessions_db.end_others(studio.connection, studio.id, row["id"], _asker(studio).session_id)


@use_case
def new_recovery_code(studio: Studio, password: str) -> str:
    """In place of the one before; shown once.

    Raises:
        RefusedError: the password is not right.
    """
    row = _own(studio, hold=True)
    _check_password(row, password)
    code = new_token()
    db.set_recovery(studio.connection, row["id"], token_hash(code))
    return code


@dataclass(frozen=True)
class SecondFactor:
    """``address``: as programs for it read it off a picture."""

    secret: str
    address: str


@use_case
def offer_second_factor(studio: Studio, password: str) -> SecondFactor:
    """One that is on as soon as a code of it was given.

    Raises:
        RefusedError: the password is not right.
    """
    row = _own(studio)
    _check_password(row, password)
    secret = pyotp.random_base32()
    return SecondFactor(secret, pyotp.TOTP(secret).provisioning_uri(name=row["name"], issuer_name="Lap Tick"))


@use_case
def set_second_factor(studio: Studio, password: str, secret: str | None, code: str) -> None:
    """Turns it on, with a code of it, or off.

    Raises:
        RefusedError: the password is not right.
        OptionError: the code is not one of this secret.
    """
    row = _own(studio, hold=True)
    _check_password(row, password)
    if secret is not None and step_of(secret, code) is None:
        raise OptionError("this code is not right.", where="code", kept="Nothing was changed.", todo="Take the next.")
    db.set_second_factor(studio.connection, row["id"], secret)


@use_case
def end_session(studio: Studio, session_id: int) -> None:
    """
    Raises:
        NotFoundError: it is over, or another's.
    """
    teacher_id = _own(studio)["id"]
    if not sessions_db.end_session_of(studio.connection, studio.id, teacher_id, session_id):
        raise NotFoundError("this session is over already.", kept="Nothing was changed.")


# -- what whoever runs the machine does ------------------------------------------------------------------


@use_case
def recovery_code_for(studio: Studio, name: str) -> str:
    """For a teacher of any studio, in place of the one before.

    Raises:
        NotFoundError: there is no teacher of that name.
    """
    row = db.teacher_named(studio.connection, name.strip(), hold=True)
    if row is None or row["is_demo"]:
        raise NotFoundError("there is no teacher of that name.", where=name[:120], kept="Nothing was changed.")
    code = new_token()
    db.set_recovery(studio.connection, row["id"], token_hash(code))
    return code


@use_case
def add_studio(studio: Studio, studio_name: str, teacher_name: str) -> str:
    """Another studio on the same server, with a teacher; gives the recovery code with which she chooses a password.

    Raises:
        OptionError: a name is missing or too long.
        ConflictError: there is a teacher of that name.
    """
    names = studio_name.strip(), teacher_name.strip()
    if not all(names) or len(names[0]) > MOST_STUDIO_NAME or len(names[1]) > MOST_TEACHER_NAME:
        raise OptionError("a studio and its teacher have names.", kept="Nothing was changed.")
    if db.teacher_named(studio.connection, names[1]) is not None:
        raise ConflictError("there is a teacher of that name.", where=names[1], kept="Nothing was changed.")
    studio_id = studios_db.add_studio(studio.connection, names[0])
    teacher_id = db.add_teacher(studio.connection, studio_id, names[1], password_hash(new_token()))
    code = new_token()
    db.set_recovery(studio.connection, teacher_id, token_hash(code))
    return code


# -- beneath ---------------------------------------------------------------------------------------------


def _asker(studio: Studio) -> Asker:
    if studio.asker is None:
        raise SignedOutError("you are signed out.", todo="Sign in.")
    return studio.asker


def _own(studio: Studio, *, hold: bool = False) -> Row:
    asker = _asker(studio)
    if asker.teacher_id is None:
        raise RefusedError("this is for teachers.", kept="Nothing was changed.")
    return teacher_by_id(studio, studio.id, asker.teacher_id, hold=hold)


def _check_password(row: Row, password: str) -> None:
    if row["is_demo"]:
        raise RefusedError("the demo’s teacher has no password.", kept="Nothing was changed.")
    if not is_right(row["password_hash"], password):
        raise RefusedError("the password is not right.", where="password", kept="Nothing was changed.")
