"""What rides on a cam and how it moves: the one list that drives, forms and diagnostics read."""

from __future__ import annotations

from dataclasses import dataclass

from anakinema.document import model
from anakinema.units import ANGLE, LENGTH, Dimension


@dataclass(frozen=True, slots=True)
class FaceKind:
    """What of a follower is on the cam.

    ``is_round``: it has a radius, its centre goes along a path beside the profile. ``rolls``: it is
    a body of its own. ``wears``: for slow and light work only.
    """

    title: str
    is_round: bool = False
    is_flat: bool = False
    rolls: bool = False
    wears: bool = False


@dataclass(frozen=True, slots=True)
class FollowerWay:
    """How a follower moves.

    ``steep``: deg of pressure angle that are usually not passed (common practice, no source).
    """

    title: str
    swings: bool
    lifted: Dimension
    first_lift: str
    steep: float
    own_lift: str


FACES: dict[str, FaceKind] = {
    "roller": FaceKind("roller", is_round=True, rolls=True),
    "round": FaceKind("round face", is_round=True),
    "knife": FaceKind("knife edge", wears=True),
    "flat": FaceKind("flat face", is_flat=True),
}
WAYS: dict[str, FollowerWay] = {
    "translating": FollowerWay("slides", False, LENGTH, "12 mm", 30.0, "its lift is a length."),
    "swinging": FollowerWay("swings", True, ANGLE, "15 deg", 35.0, "its lift is a turn."),
}
RETURNS: dict[str, str] = {"spring": "spring", "gravity": "its weight", "groove": "groove"}


def face_of(follower: model.CamFollower) -> FaceKind:
    """The kind of face of a follower."""
    return FACES[follower.face]


def way_of(follower: model.CamFollower) -> FollowerWay:
    """How a follower moves."""
    return WAYS[follower.moves]


def numbers_used(face: FaceKind, way: FollowerWay) -> tuple[str, ...]:
    """The fields of a `CamFollower` that count for a face and a way of moving."""
    used = ["radius"] if face.is_round else []
    if way.swings:
        used += ["centres"] if face.is_flat else ["arm", "centres"]
    if way.swings == face.is_flat:
        used.append("offset")
    return tuple(used)
