"""A new cam with its follower, hung on a body that stands: parts, bodies, joints and a driver."""

from __future__ import annotations

import math

from anakinema.authoring.borrowing import renamed
from anakinema.authoring.cam_parts import (
    CAM,
    CamWish,
    Named,
    cam_part,
    follower_part,
    plate_part,
    riding_slab,
    roller_part,
)
from anakinema.document import model
from anakinema.document.follower_kinds import FACES, WAYS, way_of
from anakinema.document.resolve import Resolved
from anakinema.edits.base import Edit, Together, fresh_id
from anakinema.edits.parts import AddPlaces
from anakinema.edits.structure import Add, AddDriver
from anakinema.errors import ValueOutOfRangeError
from anakinema.geometry.contour import Floats
from anakinema.geometry.poses import transform, within
from anakinema.parts.making import place

ROOM = 130.0
"""mm beside what stands there already, for a cam and its follower."""


def new_cam(resolved: Resolved, x: float, y: float, wish: CamWish) -> tuple[Edit, str, str]:
    """The edit that makes a cam and its follower about x, y (mm); ids of its part and body.

    They hang on the first body that stands, or on a new plate. A driver turns the cam. Raises a
    `ValueOutOfRangeError` if the lift of another cam is of another kind, or a groove has no roller.
    """
    if wish.returns == "groove" and not FACES[wish.face].rolls:
        raise ValueOutOfRangeError(
            "a groove guides a roller on both sides.",
            where="follower",
            remedy="Choose a roller, or a spring or weight.",
        )
    document = resolved.source
    lift = _lift(document, wish)
    taken = [p.id for p in document.parts] + [b.id for b in document.bodies]
    names = Named(*(fresh_id(n, taken) for n in ("cam", "follower", "roller")))
    cam = cam_part(names, wish, lift)
    parts = [cam, follower_part(names, wish)]
    has_roller = FACES[wish.face].rolls
    if has_roller:
        parts.append(roller_part(names))
    frame = next((b for b in document.bodies if b.fixed and not b.off), None)
    edits: list[Edit] = []
    bodies: list[model.Body] = []
    if frame is None:
        plate = fresh_id("plate", taken)
        parts.append(plate_part(plate))
        frame = model.Body(id=plate, part=plate, fixed=True)
        bodies.append(frame)
        lx, ly, turned, top = x, y, 0.0, 0.0
    else:
        index = [b.id for b in resolved.document.bodies].index(frame.id)
        lx, ly = within(resolved.poses[index], (x, y))
        turned = float(resolved.poses[index, 2])
        top = _top(resolved, index)
    known = {p.id for p in document.part(frame.part).places} if not bodies else set()
    marks = _frame_places(names, wish, lx, ly, math.degrees(turned), known)
    if bodies:
        parts[-1] = parts[-1].model_copy(update={"places": tuple(marks)})
    else:
        edits.append(AddPlaces(frame.part, tuple(marks)))
    above = f"{top + 1:.9g} mm"
    height = f"{above} + {names.cam}.floor" if wish.returns == "groove" else above
    bodies += _bodies(names, wish, x, y, height, has_roller=has_roller)
    joints = _joints(names, wish, frame.id, marks, has_roller=has_roller)
    edits.append(Add("New cam", parts=tuple(parts), bodies=tuple(bodies), joints=tuple(joints)))
    driver = model.Driver(
        id=fresh_id("camshaft", (d.id for d in document.program.drivers)),
        joint=joints[0].id,
        start="0 deg",
        rate="60 rpm",
    )
    edits.append(AddDriver(driver, "360 deg", "2 deg"))
    return Together("New cam", tuple(edits)), names.cam, names.cam


def free_place(resolved: Resolved, poses: Floats) -> float:
    """mm along x where nothing stands to the right, with room for a cam; 0 on an empty stage."""
    edges = [
        float(transform(slab.region.centre[None], poses[index][None])[0, 0, 0]) + slab.region.radius
        for index, body in enumerate(resolved.document.bodies)
        for slab in resolved.part_of(body).slabs
    ]
    return round(max(edges) + ROOM, -1) if edges else 0.0


def _lift(document: model.Document, wish: CamWish) -> model.Cam:
    """A cam that has the lift asked for; its numbers are stated for a part of any name."""
    if wish.like is None:
        segments = (
            model.CamSegment(turn="120 deg", to=wish.lift),
            model.CamSegment(turn="60 deg", to=wish.lift),
            model.CamSegment(turn="120 deg", to=0.0),
            model.CamSegment(turn="60 deg", to=0.0),
        )
        return model.Cam(id=CAM, base="base", segments=segments)
    part = document.part(wish.like[0])
    cam = model.next_by_id(part.cams, wish.like[1])
    if cam.follower.moves != wish.moves:
        raise ValueOutOfRangeError(
            way_of(cam.follower).own_lift,
            where=f"lift of {part.title}",
            remedy="Choose a follower that moves as its own does, or a lift of its own.",
        )
    taken: model.Cam = renamed(cam, {d.id: f"{part.id}.{d.id}" for d in part.dimensions})
    return taken


def _top(resolved: Resolved, index: int) -> float:
    """mm: height of the upper face of a body."""
    slabs = resolved.part_of(resolved.document.bodies[index]).slabs
    return float(resolved.heights[index]) + max((s.top for s in slabs), default=0.0)


def _frame_places(
    names: Named, wish: CamWish, x: float, y: float, turned: float, known: set[str]
) -> list[model.Place]:
    """The shaft, and the guide or pivot of the follower, in the frame of the body that stands."""
    c, s = math.cos(math.radians(turned)), math.sin(math.radians(turned))
    shaft = fresh_id(f"{names.cam}_shaft", known)
    guide = fresh_id(f"{names.cam}_guide", {*known, shaft})
    if WAYS[wish.moves].swings:
        away, angle = f"{names.cam}.centres", 0.0
    else:
        away = "0 mm" if FACES[wish.face].is_flat else f"{names.cam}.offset"
        angle = 90.0 - turned
    return [
        place(shaft, f"{x:.9g} mm", f"{y:.9g} mm"),
        place(
            guide,
            f"{x:.9g} mm + ({away})*{c:.12g}",
            f"{y:.9g} mm - ({away})*{s:.12g}",
            f"{angle:.9g} deg",
        ),
    ]


def _bodies(
    names: Named, wish: CamWish, x: float, y: float, height: str, *, has_roller: bool
) -> list[model.Body]:
    """The cam, its follower at no lift, and the roller."""
    face, way = FACES[wish.face], WAYS[wish.moves]
    radius = 8.0 if face.is_round else 0.0
    base = 45.0 if face.is_flat else 30.0
    if not way.swings:
        pose = model.Pose(x=f"{x:.9g} mm", y=f"{y + base + radius:.9g} mm")
        at = x, y + base + radius
    elif face.is_flat:
        angle = math.degrees(math.pi - math.asin(base / 80.0))
        pose = model.Pose(x=f"{x + 80:.9g} mm", y=f"{y:.9g} mm", angle=f"{angle:.9g} deg")
        at = x, y
    else:
        prime = base + radius
        bend = math.pi - math.acos((80.0**2 + 70.0**2 - prime**2) / (2 * 80.0 * 70.0))
        pose = model.Pose(
            x=f"{x + 80:.9g} mm", y=f"{y:.9g} mm", angle=f"{math.degrees(bend):.9g} deg"
        )
        at = x + 80 + 70 * math.cos(bend), y + 70 * math.sin(bend)
    out = [
        model.Body(
            id=names.cam,
            part=names.cam,
            height=height,
            pose=model.Pose(x=f"{x:.9g} mm", y=f"{y:.9g} mm"),
        ),
        model.Body(id=names.follower, part=names.follower, height=height, pose=pose),
    ]
    if has_roller:
        rolling = model.Pose(x=f"{at[0]:.9g} mm", y=f"{at[1]:.9g} mm")
        out.append(model.Body(id=names.roller, part=names.roller, height=height, pose=rolling))
    return out


def _joints(
    names: Named, wish: CamWish, frame: str, marks: list[model.Place], *, has_roller: bool
) -> list[model.Joint]:
    cam, follower = names.cam, names.follower
    words = cam.replace("_", " ")

    def side(body: str, where: str, *pieces: model.OutlinePiece) -> model.Side:
        return model.Side(body=body, place=where, pieces=pieces)

    disc = model.OutlinePiece(slab="disc")
    zero: float | str = 0.0
    face, swings = FACES[wish.face], WAYS[wish.moves].swings
    if not swings:
        prime = f"({cam}.base + {cam}.roller)" if face.is_round else f"{cam}.base"
        zero = prime
        if not face.is_flat:
            zero = f"sqrt({prime}*{prime} - {cam}.offset*{cam}.offset)"
    touch = riding_slab(wish)
    rider = (
        side(names.roller, "centre", model.OutlinePiece(slab=touch))
        if has_roller
        else side(follower, "face", model.OutlinePiece(slab=touch))
    )
    joints = [
        model.Joint(
            id=f"{cam}_bearing",
            kind="revolute",
            name=f"{words} bearing",
            first=side(frame, marks[0].id),
            second=side(cam, "centre"),
        ),
        model.Joint(
            id=f"{follower}_guide",
            name=f"{follower.replace('_', ' ')} lift",
            kind="revolute" if swings else "prismatic",
            zero=zero,
            first=side(frame, marks[1].id),
            second=side(follower, "axis"),
        ),
        model.Joint(
            id=f"{follower}_ride",
            name=f"{follower.replace('_', ' ')} on {words}",
            kind="face_on_curve" if face.is_flat else "pin_on_curve",
            curve=CAM,
            offset=f"-{cam}.roller" if face.is_round else 0.0,
            first=side(cam, "centre", disc),
            second=rider,
        ),
    ]
    if has_roller:
        joints.append(
            model.Joint(
                id=f"{names.roller}_pin",
                kind="revolute",
                name=f"{names.roller} pin",
                first=side(
                    follower,
                    "face",
                    model.OutlinePiece(slab="lever" if swings else "stem", hole="bore"),
                ),
                second=side(names.roller, "centre", model.OutlinePiece(slab="axle")),
            )
        )
    return joints
