"""In and out: set-up, password, demo, recovery code, a personal link; and a teacher's own account."""

from __future__ import annotations

import ipaddress

from fastapi import APIRouter, Request, Response

from laptick.api.request.asking import StudioNow
from laptick.api.request.cookies import device_token, forget_session, keep_device, keep_session
from laptick.api.request.sending import ModelRoute
from laptick.api.schemas.common import Id
from laptick.api.schemas.people.sign_in import (
    AccountPublic,
    LinkOpen,
    MePublic,
    PasswordChange,
    PasswordGiven,
    Recover,
    RecoveryCodePublic,
    SecondFactorPublic,
    SecondFactorUpdate,
    SessionPublic,
    SetUp,
    SignIn,
)
from laptick.api.views.pictures import qr_picture
from laptick.core.base.errors import RefusedError
from laptick.studio.people import account, links
from laptick.studio.people import sign_in as signing
from laptick.studio.people.sign_in import LONG_STAY, Credentials, Door, SignedIn
from laptick.studio.use_case import Asker, AskerRole

router = APIRouter(route_class=ModelRoute, tags=["sign-in"])


def _me(asker: Asker | None, door: Door) -> MePublic:
    return MePublic(
        role=asker.role if asker else AskerRole.NOBODY,
        name=asker.name if asker else "",
        student_id=asker.student_id if asker else None,
        is_demo=bool(asker and asker.is_demo),
        is_set_up=door.is_set_up,
        has_demo=door.has_demo,
    )


def _is_near(request: Request) -> bool:
    """Is it asked from the machine it runs on? (A proxy tells for whom it asks.)"""
    host = "" if request.client is None else request.client.host
    try:
        return ipaddress.ip_address(host).is_loopback
    except ValueError:  # no address: a test's
        return host == "testclient"


def _demo_here(request: Request) -> bool:
    return bool(request.app.state.demo) and _is_near(request)


def _credentials(request: Request, name: str, password: str, *, code: str = "", stays: bool = False) -> Credentials:
    return Credentials(name, password, code, device_token(request), request.headers.get("user-agent", ""), stays)


def _in(request: Request, found: SignedIn) -> Response:
    me = _me(found.asker, Door(is_set_up=True, has_demo=False))
    response = Response(me.model_dump_json(), media_type="application/json")
    keep_session(response, request, found.token, int(LONG_STAY.total_seconds()) if found.stays else None)
    if found.device:
        keep_device(response, request, found.device)
    return response


@router.get("/me")
def get_me(studio: StudioNow, request: Request) -> MePublic:
    """Who is signed in; of nobody, what can be done about it."""
    return _me(studio.asker, signing.the_door(studio, _demo_here(request)))


@router.post("/set-up", response_model=MePublic)
def set_up(studio: StudioNow, request: Request, given: SetUp) -> Response:
    """The first start: the studio and its teacher, who is signed in by it. From its own machine: else whoever is first
    to find it in the house would have it."""
    if not _is_near(request):
        raise RefusedError(
            "a studio is set up from the machine it runs on.",
            kept="Nothing was changed.",
            todo="Open it there; or run ./laptick teacher NAME --new-studio NAME on it.",
        )
    credentials = _credentials(request, given.name, given.password, stays=given.stays)
    return _in(request, signing.set_up(studio, given.studio, given.time_zone, credentials))


@router.post("/sign-in", response_model=MePublic)
def sign_in(studio: StudioNow, request: Request, given: SignIn) -> Response:
    """A teacher, by name and password, and the code of a second factor where one is on."""
    credentials = _credentials(request, given.name, given.password, code=given.code, stays=given.stays)
    return _in(request, signing.sign_in(studio, credentials))


@router.post("/sign-in/demo", response_model=MePublic)
def sign_in_to_demo(studio: StudioNow, request: Request) -> Response:
    """The demo's teacher, from the machine it runs on."""
    return _in(request, signing.sign_in_to_demo(studio, _credentials(request, "", ""), _demo_here(request)))


@router.post("/recover", response_model=MePublic)
def recover(studio: StudioNow, request: Request, given: Recover) -> Response:
    """A new password, by the recovery code, which is used up by it."""
    return _in(request, signing.recover(studio, _credentials(request, given.name, given.password), given.recovery_code))


@router.post("/links/open", response_model=MePublic)
def open_link(studio: StudioNow, request: Request, given: LinkOpen) -> Response:
    """Signs in by a personal link."""
    return _in(request, links.open_link(studio, given.token, given.pin, request.headers.get("user-agent", "")))


@router.post("/sign-out", status_code=204)
def sign_out(studio: StudioNow, request: Request) -> Response:
    signing.sign_out(studio)
    response = Response(status_code=204)
    forget_session(response, request)
    return response


@router.get("/account")
def get_account(studio: StudioNow) -> AccountPublic:
    """The teacher who asks: where she is signed in, and what she could sign in with."""
    own = account.get_account(studio)
    return AccountPublic(
        name=own.name,
        code_asked=own.code_asked,
        has_recovery=own.has_recovery,
        is_demo=own.is_demo,
        sessions=[
            SessionPublic(
                id=row["id"],
                device=row["device"],
                created_at=row["created_at"],
                seen_at=row["seen_at"],
                is_this=row["id"] == own.session_id,
            )
            for row in own.sessions
        ],
    )


@router.put("/account/password", status_code=204)
def change_password(studio: StudioNow, change: PasswordChange) -> None:
    """A new password; wherever else she is signed in, she is no longer."""
    account.change_password(studio, change.before, change.after)


@router.post("/account/recovery-code")
def new_recovery_code(studio: StudioNow, given: PasswordGiven) -> RecoveryCodePublic:
    """A recovery code in place of the one before; it is shown this once."""
    return RecoveryCodePublic(code=account.new_recovery_code(studio, given.password))


@router.post("/account/second-factor")
def offer_second_factor(studio: StudioNow, given: PasswordGiven) -> SecondFactorPublic:
    """A second factor to be set up; it is on once a code of it was given."""
    offered = account.offer_second_factor(studio, given.password)
    return SecondFactorPublic(secret=offered.secret, address=offered.address, picture=qr_picture(offered.address))


@router.put("/account/second-factor", status_code=204)
def set_second_factor(studio: StudioNow, update: SecondFactorUpdate) -> None:
    """Turns the second factor on, with a code of it, or off."""
    account.set_second_factor(studio, update.password, update.secret, update.code)


@router.delete("/account/sessions/{session_id}", status_code=204)
def end_session(studio: StudioNow, session_id: Id) -> None:
    """Signs out somewhere else."""
    account.end_session(studio, session_id)
