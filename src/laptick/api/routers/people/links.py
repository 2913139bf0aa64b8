"""Personal links of a student: made, listed, taken back."""

from __future__ import annotations

from fastapi import APIRouter, Request

from laptick.api.request.asking import StudioNow
from laptick.api.request.reach import read_reach
from laptick.api.request.sending import ModelRoute
from laptick.api.schemas.common import Id
from laptick.api.schemas.people.sign_in import AddressesPublic, AddressPublic, LinkCreate, LinkMade, LinkPublic
from laptick.api.views.pictures import qr_picture
from laptick.studio.people import links
from laptick.studio.use_case import AskerRole

router = APIRouter(route_class=ModelRoute, tags=["people"])


@router.get("/addresses")
def list_addresses(_studio: StudioNow, request: Request) -> AddressesPublic:
    """By what addresses other devices come in."""
    told = read_reach(request.app.state.reach)
    return AddressesPublic(
        addresses=[AddressPublic(address=one, picture=qr_picture(one)) for one in told.urls],
        install=None if told.install is None else AddressPublic(address=told.install, picture=qr_picture(told.install)),
        fingerprint=told.fingerprint,
    )


@router.get("/students/{student_id}/links")
def list_links(studio: StudioNow, student_id: Id) -> list[LinkPublic]:
    """The links that are good, without their tokens."""
    return [
        LinkPublic(
            id=one.id,
            role=one.role,
            held_by=one.held_by,
            has_agreed=one.has_agreed,
            has_pin=one.has_pin,
            created_at=one.created_at,
            opened_at=one.opened_at,
        )
        for one in links.list_links(studio, student_id)
    ]


@router.post("/students/{student_id}/links", status_code=201)
def make_link(studio: StudioNow, student_id: Id, wanted: LinkCreate) -> LinkMade:
    """A link in place of the one that the same person had, shown this once; what was opened by the old one ends."""
    token = links.make_link(studio, student_id, AskerRole(wanted.role), wanted.pin, wanted.held_by)
    address = f"{wanted.origin}/come#{token}"  # what follows the # is sent to no server and stands in no log
    return LinkMade(token=token, address=address, picture=qr_picture(address))


@router.delete("/students/{student_id}/links/{link_id}", status_code=204)
def remove_link(studio: StudioNow, student_id: Id, link_id: Id) -> None:
    """Takes a link back; what was opened by it ends."""
    links.remove_link(studio, student_id, link_id)
