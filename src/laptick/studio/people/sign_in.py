"""Teachers sign in: set up at the first start, a password and a second factor, a recovery code; who is signed in.

A wrong password costs time from the fifth in a row on: half a minute, twice as long each time, a quarter of an hour at
the most. It is counted device by device, all strange ones together, so that whoever guesses elsewhere cannot keep a
teacher from her own; the recovery code lets her in whatever was guessed.

Source: common practice; OWASP ASVS 4, chapter 2, from memory.
"""

from __future__ import annotations

import time
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

import pyotp

from laptick.core.base.errors import ConflictError, NotFoundError, OptionError, RefusedError
from laptick.core.base.units import Seconds
from laptick.db.engine.connect import Row
from laptick.db.people import sessions as sessions_db
from laptick.db.people import studios as studios_db
from laptick.db.people import teachers as db
from laptick.studio.days import zone_named
from laptick.studio.people.secret_words import (
    is_right,
    needs_anew,
    new_token,
    password_hash,
    token_hash,
    wastes_as_long,
)
from laptick.studio.use_case import Asker, AskerRole, Studio, use_case

#: Of whoever is not signed in: there is none of that number.
NO_STUDIO = 0

#: The studio that is set up at the first start.
FIRST_STUDIO = 1

#: How long one stays signed in: on a strange computer, and on one's own.
SHORT_STAY, LONG_STAY = timedelta(hours=12), timedelta(days=180)

#: So many wrong in a row cost nothing; then one waits, twice as long each time.
FREE_FAILS = 5
FIRST_WAIT_S: Seconds = 30.0
MOST_WAIT_S: Seconds = 900.0

#: A step of the second factor, as every program for it has it (RFC 6238); one before and one after are good, too.
TOTP_STEP_S = 30

DEMO_NAME = "The demo’s teacher"


@dataclass(frozen=True)
class SignedIn:
    """``token``: what the browser keeps; ``device``: what it keeps longer, by which it is known again."""

    token: str
    device: str
    asker: Asker
    stays: bool


@dataclass(frozen=True)
class Credentials:
    """``code``: of the second factor, empty where none was asked; ``device``: by which the browser is known, if it
    is; ``calls_itself``: as it says what it is; ``stays``: it is her own computer."""

    name: str
    password: str
    code: str = ""
    device: str = ""
    calls_itself: str = ""
    stays: bool = False


@dataclass(frozen=True)
class Door:
    """What stands before whoever is not signed in: a studio to be set up, or the demo with one press."""

    is_set_up: bool
    has_demo: bool


def asker_of(row: Row) -> Asker:
    """Who is signed in, from a stored session; one whose role is damaged may do nothing."""
    role = AskerRole.TEACHER if row["teacher_id"] is not None else _LINK_ROLES.get(row["role"], AskerRole.NOBODY)
    return Asker(
        role,
        row["studio_id"],
        row["id"],
        row["name"],
        teacher_id=row["teacher_id"],
        student_id=row["student_id"],
        is_demo=bool(row["is_demo"]),
        held_by=row["held_by"] or "",
    )


_LINK_ROLES = {"student": AskerRole.STUDENT, "parent": AskerRole.PARENT}


@use_case
def who_asks(studio: Studio, token: str) -> Asker | None:
    """Who is signed in by what the browser keeps, if anybody; that it was used is noted once a minute."""
    row = sessions_db.session_of(studio.connection, token_hash(token))
    if row is None:
        return None
    if row["is_stale"]:
        sessions_db.was_seen(studio.connection, row["id"])
    return asker_of(row)


@use_case
def the_door(studio: Studio, demo: bool) -> Door:
    """``demo``: this server was started for it, and asked from its own machine."""
    is_set_up = db.has_teacher(studio.connection)
    has_demo = demo and not is_set_up and db.demo_teacher(studio.connection, FIRST_STUDIO) is not None
    return Door(is_set_up, has_demo)


# -- in and out ------------------------------------------------------------------------------------------


@use_case
def set_up(studio: Studio, studio_name: str, time_zone: str, given: Credentials) -> SignedIn:
    """The first start: the studio and its teacher.

    Raises:
        ConflictError: it was set up already.
        OptionError: a name is missing, or the password is none.
    """
    if not db.hold_studio(studio.connection, FIRST_STUDIO) or db.has_teacher(studio.connection):
        raise ConflictError("this studio is set up already.", kept="Nothing was changed.", todo="Sign in.")
    if not studio_name.strip() or not given.name.strip():
        raise OptionError("a studio and its teacher have names.", where="name", kept="Nothing was changed.")
    zone_named(time_zone)
    studios_db.put_studio(studio.connection, FIRST_STUDIO, studio_name.strip(), time_zone)
    teacher_id = add_teacher(studio, FIRST_STUDIO, given.name, given.password)
    return _signed_in(studio, teacher_by_id(studio, FIRST_STUDIO, teacher_id), given)


def add_teacher(studio: Studio, studio_id: int, name: str, password: str) -> int:
    """
    Raises:
        OptionError: the password is none.
        ConflictError: there is a teacher of that name.
    """
    if db.teacher_named(studio.connection, name.strip()) is not None:
        raise ConflictError("there is a teacher of that name.", where="name", kept="Nothing was changed.")
    return db.add_teacher(studio.connection, studio_id, name.strip(), password_hash(password))


@dataclass(frozen=True)
class Refused:
    """Told apart from an error so that what was counted stays counted."""

    error: RefusedError


@use_case
def try_to_sign_in(studio: Studio, given: Credentials) -> SignedIn | Refused:
    """Signs in, or counts that it was wrong."""
    row = db.teacher_named(studio.connection, given.name.strip(), hold=True)
    if row is None or row["is_demo"]:
        wastes_as_long(given.password)
        return Refused(_WRONG)
    device = token_hash(given.device) if given.device else ""
    tries = db.get_device(studio.connection, row["studio_id"], row["id"], device)
    if tries is None:
        device = ""
        tries = db.get_device(studio.connection, row["studio_id"], row["id"], device) or db.Tries()
    if tries.until is not None and tries.until > utc_now():
        return Refused(too_often(tries.until, "passwords", "use your recovery code"))
    if is_right(row["password_hash"], given.password):
        if row["totp_secret"] is None or _is_code(studio, row, given.code):
            if needs_anew(row["password_hash"]):
                db.set_password(studio.connection, row["id"], password_hash(given.password))
            return _signed_in(studio, row, given)
        if not given.code:  # the password was right: asking for the code is no wrong try
            return Refused(RefusedError("the code of your second factor is asked for.", where="code"))
        wrong = RefusedError("this code is not right, or was used already.", where="code", todo="Take the next one.")
    else:
        wrong = _WRONG
    wait_s = wait_after(tries.fails + 1)
    until = utc_now() + timedelta(seconds=wait_s) if wait_s else None
    db.set_device(studio.connection, row["studio_id"], row["id"], device, db.Tries(tries.fails + 1, until))
    return Refused(wrong)


def sign_in(studio: Studio, given: Credentials) -> SignedIn:
    """
    Raises:
        RefusedError: name, password or code are not right, or too many were not.
    """
    found = try_to_sign_in(studio, given)
    if isinstance(found, Refused):
        raise found.error
    return found


def wait_after(fails: int) -> Seconds:
    """How long nothing is tried after so many wrong ones in a row."""
    over = fails - FREE_FAILS
    return 0.0 if over < 0 else min(MOST_WAIT_S, FIRST_WAIT_S * 2.0 ** min(over, 20))


@use_case
def sign_in_to_demo(studio: Studio, given: Credentials, demo: bool) -> SignedIn:
    """The demo's teacher, with one press.

    Raises:
        RefusedError: this is no demo, or the studio has a teacher of its own by now.
    """
    row = db.demo_teacher(studio.connection, FIRST_STUDIO) if demo else None
    if row is None or db.has_teacher(studio.connection):
        raise RefusedError("there is no demo here.", todo="Sign in with your name and password.")
    return _signed_in(studio, row, given)


@use_case
def add_demo_teacher(studio: Studio) -> None:
    """Who looks at the demo; nobody knows a password for it."""
    if db.demo_teacher(studio.connection, studio.id) is None:
        db.add_teacher(studio.connection, studio.id, DEMO_NAME, password_hash(new_token()), is_demo=True)


@use_case
def try_to_recover(studio: Studio, given: Credentials, recovery_code: str) -> SignedIn | Refused:
    """With the recovery code, which is used up by it: a new password, no second factor, signed out elsewhere."""
    row = db.teacher_named(studio.connection, given.name.strip(), hold=True)
    if row is None or row["recovery_hash"] is None or row["recovery_hash"] != token_hash(recovery_code):
        wastes_as_long(recovery_code)
        return Refused(
            RefusedError("name and recovery code do not belong together.", where="code", kept="Nothing was changed.")
        )
    db.set_password(studio.connection, row["id"], password_hash(given.password))
    db.set_recovery(studio.connection, row["id"], None)
    db.set_second_factor(studio.connection, row["id"], None)
    db.forget_devices(studio.connection, row["studio_id"], row["id"])
    sessions_db.end_others(studio.connection, row["studio_id"], row["id"], None)
    return _signed_in(studio, row, given)


def recover(studio: Studio, given: Credentials, recovery_code: str) -> SignedIn:
    """
    Raises:
        RefusedError: the code is not this teacher's.
        OptionError: the new password is none.
    """
    found = try_to_recover(studio, given, recovery_code)
    if isinstance(found, Refused):
        raise found.error
    return found


@use_case
def sign_out(studio: Studio) -> None:
    if studio.asker is not None:
        sessions_db.end_session(studio.connection, studio.id, studio.asker.session_id)


# -- beneath ---------------------------------------------------------------------------------------------

_WRONG = RefusedError("name or password is not right.", where="password", kept="Nothing was changed.")


def utc_now() -> datetime:
    """As instants are stored."""
    return datetime.now(UTC).replace(tzinfo=None)


def too_often(until: datetime, what: str, otherwise: str) -> RefusedError:
    """``what`` was wrong too many times in a row."""
    minutes = int((until - utc_now()).total_seconds() // 60) + 1
    return RefusedError(
        f"too many {what} were wrong.",
        where="password",
        kept="Nothing was changed.",
        todo=f"Try again in {minutes} min, or {otherwise}.",
    )


def teacher_by_id(studio: Studio, studio_id: int, teacher_id: int, *, hold: bool = False) -> Row:
    row = db.get_teacher(studio.connection, studio_id, teacher_id, hold=hold)
    if row is None:
        raise NotFoundError("this teacher is not here.", todo="Sign in again.")
    return row


def step_of(secret: str, code: str) -> int | None:
    """The step whose code it is, of those now, before and after."""
    try:
        totp, now = pyotp.TOTP(secret), int(time.time()) // TOTP_STEP_S
        given = "".join(code.split())
        fits = (now + by for by in (-1, 0, 1) if pyotp.utils.strings_equal(given, totp.generate_otp(now + by)))
        return next(fits, None)
    except ValueError:  # no secret
        return None


def _is_code(studio: Studio, row: Row, code: str) -> bool:
    """Is it the second factor's, and not used before? It is used up by it."""
    step = step_of(row["totp_secret"], code)
    if step is None or step <= row["totp_step"]:
        return False
    db.use_step(studio.connection, row["id"], step)
    return True


def _signed_in(studio: Studio, row: Row, given: Credentials) -> SignedIn:
    token = new_token()
    known = db.get_device(studio.connection, row["studio_id"], row["id"], token_hash(given.device)) is not None
    device = given.device if known else new_token()  # never one that somebody else put there
    db.set_device(studio.connection, row["studio_id"], row["id"], token_hash(device), db.Tries())
    stay = LONG_STAY if given.stays else SHORT_STAY
    sessions_db.add_session(
        studio.connection,
        sessions_db.NewSession(
            token_hash(token), row["studio_id"], row["id"], None, given.calls_itself[:200], utc_now() + stay
        ),
    )
    session = sessions_db.session_of(studio.connection, token_hash(token))
    assert session is not None
    return SignedIn(token, device, asker_of(session), given.stays)
