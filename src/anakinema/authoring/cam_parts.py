"""The parts that a cam drive is made of."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from anakinema.document import model
from anakinema.document.follower_kinds import FACES, WAYS, numbers_used
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
    face = FACES[wish.face]
    used = {"roller" if n == "radius" else n: n for n in numbers_used(face, WAYS[wish.moves])}
    sizes = ["base", "bore", "thickness", *used]
    follower: dict[str, str] = {"face": wish.face, "moves": wish.moves, "returns": wish.returns}
    follower.update({field: size for size, field in used.items()})
    if face.is_flat:
        sizes.append("pad")
    bore = circle("bore/2")
    slabs = [slab("disc", 0.0, "thickness", model.CamOutline(shape="cam", cam=CAM), bore=bore)]
    if wish.returns == "groove":
        sizes += ["wall", "floor", "play"]
        slabs += _groove(bore)
    base = "45 mm" if face.is_flat else STANDARD["base"]
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
    """A stem or a lever, with what rides on the cam."""
    face, swings = FACES[wish.face], WAYS[wish.moves].swings
    make = (
        (_flat_lever if swings else _flat_stem) if face.is_flat else (_lever if swings else _stem)
    )
    places, slabs = make(names.cam)
    at: float | str = f"{names.cam}.arm" if swings else 0.0
    if face.rolls:
        hole = model.Hole(id="bore", outline=circle(f"{names.cam}.roller/3", at))
        slabs[-1] = slabs[-1].model_copy(update={"holes": (hole,)})
    tip = TIPS.get(wish.face)
    if tip is not None:
        slabs.append(slab(tip.slab, 0.0, _above(names.cam), tip.outline(names.cam, at)))
    return model.Part(
        id=names.follower,
        name=names.follower.replace("_", " "),
        colour="sage",
        places=tuple(places),
        slabs=tuple(slabs),
    )


def riding_slab(wish: CamWish) -> str:
    """Id of the slab that is on the cam."""
    if FACES[wish.face].is_flat:
        return "bar" if WAYS[wish.moves].swings else "pad"
    return TIPS[wish.face].slab if wish.face in TIPS else "ring"


def _above(cam: str) -> str:
    return f"{cam}.thickness + 1 mm"


def _top(cam: str) -> str:
    return f"{cam}.thickness + 7 mm"


_Made = tuple[list[model.Place], list[model.Slab]]


def _stem(cam: str) -> _Made:
    outline = hull((0.0, 0.0, "7 mm"), (0.0, "60 mm", "7 mm"))
    places = [place("axis", angle="90 deg"), place("face")]
    return places, [slab("stem", _above(cam), _top(cam), outline)]


def _flat_stem(cam: str) -> _Made:
    thick = f"{cam}.thickness"
    return [place("axis", angle="90 deg"), place("face", angle="-90 deg")], [
        slab("pad", 0.0, thick, rectangle(f"{cam}.pad", "8 mm", y="4 mm")),
        slab("stem", thick, _top(cam), rectangle("14 mm", "60 mm", y="34 mm")),
    ]


def _lever(cam: str) -> _Made:
    reach = f"{cam}.arm"
    outline = hull((0.0, 0.0, "9 mm"), (reach, 0.0, "7 mm"))
    return [place("axis"), place("face", reach)], [slab("lever", _above(cam), _top(cam), outline)]


def _flat_lever(cam: str) -> _Made:
    reach, down = f"{cam}.centres", f"-{cam}.offset"
    bar = rectangle(reach, "10 mm", f"{reach}/2", f"{down} - 5 mm")
    places = [place("axis"), place("face", y=down, angle="90 deg")]
    return places, [slab("bar", 0.0, f"{cam}.thickness", bar)]


@dataclass(frozen=True, slots=True)
class _Tip:
    """What a follower has of itself on the cam: the id of its slab, and its outline."""

    slab: str
    outline: Callable[[str, float | str], model.Outline]


def _nose(cam: str, at: float | str) -> model.Outline:
    return circle(f"{cam}.roller", at)


def _edge(cam: str, at: float | str) -> model.Outline:
    corners = ((0, 0), (5, 14), (-5, 14))
    vertices = tuple(model.Vertex(x=_plus(at, dx), y=f"{dy} mm") for dx, dy in corners)
    return model.Path(shape="path", vertices=vertices)


TIPS = {"round": _Tip("nose", _nose), "knife": _Tip("edge", _edge)}


def _plus(at: float | str, by: int) -> str:
    return f"{at} + {by} mm" if isinstance(at, str) else f"{by} mm"


def plate_part(plate: str) -> model.Part:
    return model.Part(
        id=plate,
        name=plate,
        colour="sand",
        slabs=(slab("plate", "-8 mm", 0.0, hull((0.0, 0.0, "40 mm"), (0.0, "90 mm", "30 mm"))),),
    )
