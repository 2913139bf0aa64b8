"""Signing in, what stands before it, and a teacher's own account."""

from __future__ import annotations

from typing import Annotated, Literal
from urllib.parse import urlsplit

from pydantic import AfterValidator, Field

from laptick.api.schemas.common import Schema, UtcTime
from laptick.studio.people.secret_words import MOST_PASSWORD
from laptick.studio.use_case import AskerRole

Password = Annotated[str, Field(min_length=1, max_length=MOST_PASSWORD * 4)]
TeacherName = Annotated[str, Field(min_length=1, max_length=120)]
Code = Annotated[str, Field(max_length=20)]
Token = Annotated[str, Field(min_length=1, max_length=200)]


class MePublic(Schema):
    """Who is signed in. Of nobody: ``is_set_up``: a teacher can sign in; ``has_demo``: one press looks at the demo.
    ``student_id``: whose own is seen, ``None``: every one's."""

    role: AskerRole
    name: str
    student_id: int | None
    is_demo: bool
    is_set_up: bool
    has_demo: bool


class SetUp(Schema):
    """``stays``: it is her own computer."""

    studio: Annotated[str, Field(min_length=1, max_length=200)]
    time_zone: Annotated[str, Field(max_length=64)] = ""
    name: TeacherName
    password: Password
    stays: bool = False


class SignIn(Schema):
    """``code``: of the second factor, where one is asked for."""

    name: TeacherName
    password: Password
    code: Code = ""
    stays: bool = False


class Recover(Schema):
    """``password``: the new one."""

    name: TeacherName
    recovery_code: Token
    password: Password


class LinkOpen(Schema):
    token: Token
    pin: Code = ""


class SessionPublic(Schema):
    """``is_this``: the one that asks."""

    id: int
    device: str
    created_at: UtcTime
    seen_at: UtcTime
    is_this: bool


class AccountPublic(Schema):
    """``code_asked``: a second factor is on; ``has_recovery``: there is a recovery code that was not used."""

    name: str
    code_asked: bool
    has_recovery: bool
    is_demo: bool
    sessions: list[SessionPublic]


class PasswordChange(Schema):
    before: Password
    after: Password


class PasswordGiven(Schema):
    password: Password


class RecoveryCodePublic(Schema):
    """Shown once."""

    code: str


class SecondFactorPublic(Schema):
    """``picture``: the address as a QR code (SVG)."""

    secret: str
    address: str
    picture: str


class SecondFactorUpdate(Schema):
    """``secret``: ``None`` turns it off."""

    password: Password
    secret: Annotated[str, Field(min_length=26, max_length=64, pattern="^[A-Z2-7]+$")] | None
    code: Code = ""


class AddressPublic(Schema):
    address: str
    picture: str


class LinkPublic(Schema):
    """``held_by``: by which parent, as the consents name them; ``has_agreed``: a consent that holds names that one, who
    hears what is kept by it."""

    id: int
    role: AskerRole
    held_by: str
    has_agreed: bool
    has_pin: bool
    created_at: UtcTime
    opened_at: UtcTime | None


def _is_address(origin: str) -> str:
    """
    Raises:
        ValueError: what stands in brackets is no address, or the port is none.
    """
    _ = urlsplit(origin).port
    return origin


class LinkCreate(Schema):
    """``origin``: the address at which this page is open, and so the link's; ``held_by``: which parent it is for, as
    the consents name them: that one hears the sound that they agreed to."""

    role: Literal["student", "parent"]
    held_by: Annotated[str, Field(max_length=120)] = ""
    pin: Annotated[str, Field(max_length=8)] | None = None
    origin: Annotated[
        str,
        Field(max_length=200, pattern=r"^https?://([A-Za-z0-9.\-]+|\[[0-9A-Fa-f:.]+\])(:[0-9]{1,5})?$"),
        AfterValidator(_is_address),
    ]


class AddressesPublic(Schema):
    """By what addresses other devices come in, the likeliest first, each with its QR code (SVG); none where they do
    not. ``install``: where a phone learns to trust them, ``None``: it does already; ``fingerprint``: of what it
    trusts then."""

    addresses: list[AddressPublic]
    install: AddressPublic | None
    fingerprint: str | None


class AuditLine(Schema):
    """``who``: by name, ``None``: one who is not here any more; ``what`` was done to ``of_kind`` number ``of_id``, a
    student's name where it was one who is still here."""

    id: int
    at: UtcTime
    role: AskerRole
    who: str | None
    what: str
    of_kind: str | None
    of_id: int | None
    of_name: str | None


class AuditPage(Schema):
    items: list[AuditLine]
    next: int | None


class WhoLeftPublic(Schema):
    id: int
    name: str
    left_at: UtcTime


class LinkMade(Schema):
    """Shown once: as words, as an address, and as its QR code (SVG)."""

    token: str
    address: str
    picture: str
