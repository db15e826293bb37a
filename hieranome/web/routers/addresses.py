"""The owner's addresses: what each brings, what it is for, and new ones for one party alone."""

from __future__ import annotations

from fastapi import APIRouter

from hieranome.app.bulk import addresses
from hieranome.web.models.addresses import AddressIn, AddressOut, ForgetAddressIn, MakeAddressIn
from hieranome.web.state import RoomDep

router = APIRouter(tags=["addresses"])


@router.get("/addresses")
def list_addresses(room: RoomDep) -> list[AddressOut]:
    """The addresses mail reaches the owner at, those with most mail first."""
    return [AddressOut.model_validate(one) for one in addresses.find(room)]


@router.put("/addresses")
def describe_address(room: RoomDep, wanted: AddressIn) -> AddressOut:
    """Say what an address is for and whom it was given to."""
    return AddressOut.model_validate(addresses.describe(room, wanted.address, wanted.purpose, wanted.given_to))


@router.post("/addresses")
def make_address(room: RoomDep, wanted: MakeAddressIn) -> AddressOut:
    """Make an address for one party alone."""
    return AddressOut.model_validate(addresses.make_one(room, wanted.base, wanted.given_to))


@router.post("/addresses/forget", status_code=204)
def forget_address(room: RoomDep, wanted: ForgetAddressIn) -> None:
    """Forget what was said of an address."""
    addresses.forget(room, wanted.address)
