"""A new cam with its follower, hung on a body that stands: parts, bodies, joints and a driver."""

from __future__ import annotations

import math
from dataclasses import dataclass

from anakinema.authoring.borrowing import renamed
from anakinema.document import model
from anakinema.document.resolve import Resolved
from anakinema.edits.base import Edit, Together, fresh_id
from anakinema.edits.parts import AddPlaces
from anakinema.edits.structure import Add, AddDriver
from anakinema.errors import ValueOutOfRangeError
from anakinema.geometry.contour import Floats
from anakinema.geometry.poses import transform, within
from anakinema.parts.making import circle, hull, place, rectangle, slab

CAM = "lobe"
"""Name of the cam on the part of a new one."""
ROOM = 130.0
"""mm beside what stands there already, for a cam and its follower."""
STANDARD = {
    "base": "30 mm",
    "roller": "8 mm",
    "bore": "10 mm",
    "thickness": "10 mm",
    "offset": "0 mm",
    "arm": "70 mm",
    "centres": "80 mm",
    "pad": "70 mm",
    "wall": "8 mm",
    "floor": "6 mm",
    "play": "0.2 mm",
}


@dataclass(frozen=True, slots=True)
class CamWish:
    """What a new cam is to be: what rides on it, how that moves, and how far it is lifted.

    ``returns``: what keeps it on; a groove is cut round a roller. ``like``, part and cam: it takes
    the lift of another cam, whatever its own follower.
    """

    face: str = "roller"
    moves: str = "translating"
    lift: str = "12 mm"
    returns: str = "spring"
    like: tuple[str, str] | None = None


@dataclass(frozen=True, slots=True)
class _Named:
    """Ids of what is new."""

    cam: str
    follower: str
    roller: str


def new_cam(resolved: Resolved, x: float, y: float, wish: CamWish) -> tuple[Edit, str, str]:
    """The edit that makes a cam and its follower about x, y (mm); ids of its part and body.

    They hang on the first body that stands, or on a new plate. A driver turns the cam. Raises a
    `ValueOutOfRangeError` if the lift of another cam is of another kind, or a groove has no roller.
    """
    if wish.returns == "groove" and wish.face != "roller":
        raise ValueOutOfRangeError(
            "a groove guides a roller on both sides.",
            where="follower",
            remedy="Choose a roller, or a spring or weight.",
        )
    document = resolved.source
    lift = _lift(document, wish)
    taken = [p.id for p in document.parts] + [b.id for b in document.bodies]
    names = _Named(*(fresh_id(n, taken) for n in ("cam", "follower", "roller")))
    cam = _cam_part(names, wish, lift)
    parts = [cam, _follower_part(names, wish)]
    has_roller = wish.face == "roller"
    if has_roller:
        parts.append(_roller_part(names))
    frame = next((b for b in document.bodies if b.fixed and not b.off), None)
    edits: list[Edit] = []
    bodies: list[model.Body] = []
    if frame is None:
        plate = fresh_id("plate", taken)
        parts.append(_plate(plate))
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
    """A cam that has the lift asked for; its numbers are told for a part of any name."""
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
            "its lift is a turn." if cam.follower.moves == "swinging" else "its lift is a length.",
            where=f"lift of {part.title}",
            remedy="Choose a follower that moves as its own does, or a lift of its own.",
        )
    told: model.Cam = renamed(cam, {d.id: f"{part.id}.{d.id}" for d in part.dimensions})
    return told


def _top(resolved: Resolved, index: int) -> float:
    """mm: height of the upper face of a body."""
    slabs = resolved.part_of(resolved.document.bodies[index]).slabs
    return float(resolved.heights[index]) + max((s.top for s in slabs), default=0.0)


def _cam_part(names: _Named, wish: CamWish, lift: model.Cam) -> model.Part:
    sizes = ["base", "bore", "thickness"]
    follower: dict[str, str] = {"face": wish.face, "moves": wish.moves, "returns": wish.returns}
    if wish.face in ("roller", "round"):
        sizes.append("roller")
        follower["radius"] = "roller"
    if wish.moves == "swinging":
        sizes.append("centres")
        follower["centres"] = "centres"
    if wish.moves == "swinging" and wish.face != "flat":
        sizes.append("arm")
        follower["arm"] = "arm"
    if (wish.moves == "swinging") == (wish.face == "flat"):
        sizes.append("offset")
        follower["offset"] = "offset"
    if wish.face == "flat":
        sizes.append("pad")
    bore = circle("bore/2")
    slabs = [slab("disc", 0.0, "thickness", model.CamOutline(shape="cam", cam=CAM), bore=bore)]
    if wish.returns == "groove":
        sizes += ["wall", "floor", "play"]
        slabs += _groove(bore)
    base = "45 mm" if wish.face == "flat" else STANDARD["base"]
    cam = lift.model_copy(
        update={
            "id": CAM,
            "name": "",
            "base": "base",
            "follower": model.CamFollower.model_validate(follower),
        }
    )
    return model.Part(
        id=names.cam,
        name=names.cam.replace("_", " "),
        colour="ochre",
        dimensions=tuple(
            model.Parameter(id=n, value=base if n == "base" else STANDARD[n]) for n in sizes
        ),
        places=(place("centre"),),
        cams=(cam,),
        slabs=tuple(slabs),
    )


def _groove(bore: model.Outline) -> list[model.Slab]:
    """What lies round the profile of a grooved cam: the outer wall, and the floor below both."""
    opening = model.CamOutline(shape="cam", cam=CAM, beyond="2*roller + play")
    round_ = model.CamOutline(shape="cam", cam=CAM, beyond="2*roller + play + wall")
    return [
        slab("rim", 0.0, "thickness", round_, groove=opening),
        slab("floor", "-floor", 0.0, round_, bore=bore),
    ]


def _roller_part(names: _Named) -> model.Part:
    """A roller with its axle above it, clear of the cam's heights."""
    cam = names.cam
    return model.Part(
        id=names.roller,
        name=names.roller.replace("_", " "),
        colour="steel",
        places=(place("centre"),),
        slabs=(
            slab("ring", 0.0, f"{cam}.thickness", circle(f"{cam}.roller")),
            slab("axle", f"{cam}.thickness", f"{cam}.thickness + 7 mm", circle(f"{cam}.roller/3")),
        ),
    )


def _follower_part(names: _Named, wish: CamWish) -> model.Part:
    cam = names.cam
    thick, above = f"{cam}.thickness", f"{cam}.thickness + 1 mm"
    top = f"{cam}.thickness + 7 mm"
    slabs: list[model.Slab] = []
    if wish.moves == "translating":
        places = [place("axis", angle="90 deg")]
        stem = hull((0.0, 0.0, "7 mm"), (0.0, "60 mm", "7 mm"))
        if wish.face == "flat":
            places.append(place("face", angle="-90 deg"))
            slabs += [
                slab("pad", 0.0, thick, rectangle(f"{cam}.pad", "8 mm", y="4 mm")),
                slab("stem", thick, top, rectangle("14 mm", "60 mm", y="34 mm")),
            ]
        else:
            places.append(place("face"))
            slabs.append(slab("stem", above, top, stem))
    else:
        flat = wish.face == "flat"
        reach = f"{cam}.centres" if flat else f"{cam}.arm"
        places = [place("axis")]
        if flat:
            places.append(place("face", y=f"-{cam}.offset", angle="90 deg"))
            bar = rectangle(reach, "10 mm", f"{reach}/2", f"-{cam}.offset - 5 mm")
            slabs.append(slab("bar", 0.0, thick, bar))
        else:
            places.append(place("face", reach))
            slabs.append(slab("lever", above, top, hull((0.0, 0.0, "9 mm"), (reach, 0.0, "7 mm"))))
    at = 0.0 if wish.moves == "translating" else f"{cam}.arm"
    if wish.face == "roller":
        hole = model.Hole(id="bore", outline=circle(f"{cam}.roller/3", at))
        slabs[-1] = slabs[-1].model_copy(update={"holes": (hole,)})
    if wish.face == "round":
        slabs.append(slab("nose", 0.0, above, circle(f"{cam}.roller", at)))
    if wish.face == "knife":
        tip = model.Path(
            shape="path",
            vertices=tuple(
                model.Vertex(x=_plus(at, dx), y=f"{dy} mm")
                for dx, dy in ((0, 0), (5, 14), (-5, 14))
            ),
        )
        slabs.append(slab("edge", 0.0, above, tip))
    return model.Part(
        id=names.follower,
        name=names.follower.replace("_", " "),
        colour="sage",
        places=tuple(places),
        slabs=tuple(slabs),
    )


def _plus(at: float | str, by: int) -> str:
    return f"{at} + {by} mm" if isinstance(at, str) else f"{by} mm"


def _plate(plate: str) -> model.Part:
    return model.Part(
        id=plate,
        name=plate,
        colour="sand",
        slabs=(slab("plate", "-8 mm", 0.0, hull((0.0, 0.0, "40 mm"), (0.0, "90 mm", "30 mm"))),),
    )


def _frame_places(
    names: _Named, wish: CamWish, x: float, y: float, turned: float, known: set[str]
) -> list[model.Place]:
    """The shaft, and the guide or pivot of the follower, in the frame of the body that stands."""
    c, s = math.cos(math.radians(turned)), math.sin(math.radians(turned))
    shaft = fresh_id(f"{names.cam}_shaft", known)
    guide = fresh_id(f"{names.cam}_guide", {*known, shaft})
    if wish.moves == "swinging":
        away, angle = f"{names.cam}.centres", 0.0
    else:
        away = f"{names.cam}.offset" if wish.face != "flat" else "0 mm"
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
    names: _Named, wish: CamWish, x: float, y: float, height: str, *, has_roller: bool
) -> list[model.Body]:
    """The cam, its follower at no lift, and the roller."""
    radius = 8.0 if wish.face in ("roller", "round") else 0.0
    base = 45.0 if wish.face == "flat" else 30.0
    if wish.moves == "translating":
        pose = model.Pose(x=f"{x:.9g} mm", y=f"{y + base + radius:.9g} mm")
        at = x, y + base + radius
    elif wish.face == "flat":
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
    names: _Named, wish: CamWish, frame: str, marks: list[model.Place], *, has_roller: bool
) -> list[model.Joint]:
    cam, follower = names.cam, names.follower
    words = cam.replace("_", " ")

    def side(body: str, where: str, *pieces: model.OutlinePiece) -> model.Side:
        return model.Side(body=body, place=where, pieces=pieces)

    disc = model.OutlinePiece(slab="disc")
    zero: float | str = 0.0
    if wish.moves == "translating":
        prime = (
            f"({cam}.base + {cam}.roller)" if wish.face in ("roller", "round") else f"{cam}.base"
        )
        zero = prime
        if wish.face != "flat":
            zero = f"sqrt({prime}*{prime} - {cam}.offset*{cam}.offset)"
    touch = {"roller": "ring", "round": "nose", "knife": "edge"}.get(
        wish.face, "pad" if wish.moves == "translating" else "bar"
    )
    rider = (
        side(names.roller, "centre", model.OutlinePiece(slab=touch))
        if has_roller
        else side(follower, "face", model.OutlinePiece(slab=touch))
    )
    round_ = wish.face in ("roller", "round")
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
            kind="prismatic" if wish.moves == "translating" else "revolute",
            zero=zero,
            first=side(frame, marks[1].id),
            second=side(follower, "axis"),
        ),
        model.Joint(
            id=f"{follower}_ride",
            name=f"{follower.replace('_', ' ')} on {words}",
            kind="face_on_curve" if wish.face == "flat" else "pin_on_curve",
            curve=CAM,
            offset=f"-{cam}.roller" if round_ else 0.0,
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
                    model.OutlinePiece(
                        slab="stem" if wish.moves == "translating" else "lever", hole="bore"
                    ),
                ),
                second=side(names.roller, "centre", model.OutlinePiece(slab="axle")),
            )
        )
    return joints
