"""The parts that a cam drive is made of."""

from __future__ import annotations

from dataclasses import dataclass

from anakinema.document import model
from anakinema.parts.making import circle, hull, place, rectangle, slab

CAM = "lobe"
"""Name of the cam on the part of a new one."""
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
class Named:
    """Ids of what is new."""

    cam: str
    follower: str
    roller: str


def cam_part(names: Named, wish: CamWish, lift: model.Cam) -> model.Part:
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


def roller_part(names: Named) -> model.Part:
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


def follower_part(names: Named, wish: CamWish) -> model.Part:
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


def plate_part(plate: str) -> model.Part:
    return model.Part(
        id=plate,
        name=plate,
        colour="sand",
        slabs=(slab("plate", "-8 mm", 0.0, hull((0.0, 0.0, "40 mm"), (0.0, "90 mm", "30 mm"))),),
    )
