"""A cylinder: a barrel and a rod, made of the sizes that a catalogue gives.

Both lie along x. The barrel's origin is its rear pivot, the rod's the eye at its front; the
piston runs in the bore between the barrel's rear wall and the shoulders of its gland, so that
what is drawn stops where the joint does. Above and below the rod the gland is drawn open.
"""

from __future__ import annotations

from collections.abc import Mapping

from anakinema.document import model
from anakinema.parts.making import Kit, Made, circle, hull, place, rectangle, slab

BARREL, ROD, JOINT = "barrel", "rod", "slide"
SIZES = (
    ("dead_length", "140 mm"),
    ("stroke", "80 mm"),
    ("bore", "20 mm"),
    ("rod", "10 mm"),
    ("wall", "3 mm"),
    ("eye", "16 mm"),
    ("hole", "8.2 mm"),
    ("play", "0.1 mm"),
)
"""The last is the play of piston and rod in their ways; piston and gland are half a bore long."""


def _barrel(name: str) -> model.Part:
    inner, front = "(eye/2 + wall)", "(eye/2 + wall + stroke + bore)"
    shoulder = "(eye/2 + wall + stroke + bore/2)"
    half, gap = "(bore/2 + wall)", "((rod + play)/2)"
    lower = ((inner, "bore/2"), (shoulder, "bore/2"), (shoulder, gap), (front, gap), (front, half))
    corners = [
        ("eye/2", f"-{half}"),
        *((x, f"-{y}") for x, y in reversed(lower)),
        *lower,
        ("eye/2", half),
    ]
    tube = model.Path(shape="path", vertices=tuple(model.Vertex(x=x, y=y) for x, y in corners))
    length = f"({front} - eye/2)"
    cover = rectangle(length, f"2*{half}", f"eye/2 + {length}/2")
    eye = hull((0, 0, "eye/2"), ("wall/2", 0, "eye/2"))
    top = "bore + 2*wall"
    return model.Part(
        id=name,
        name=name.replace("_", " "),
        dimensions=tuple(model.Parameter(id=key, value=value) for key, value in SIZES),
        places=(place("pivot"), place("axis")),
        slabs=(
            slab("eye", 0, top, eye, pin=circle("hole/2")),
            slab("back", 0, "wall", cover),
            slab("tube", "wall", "wall + bore", tube),
            slab("front", "wall + bore", top, cover),
        ),
    )


def _rod(name: str, barrel: str) -> model.Part:
    sizes = tuple(model.Parameter(id=key, value=f"{barrel}.{key}") for key, _ in SIZES)
    end = "(dead_length - eye/2 - wall)"
    piston = rectangle("bore/2", "bore - play", f"bore/4 - {end}")
    # The stem ends within the rim of its eye, clear of the pin.
    rim = "(eye + hole)/4"
    stem = rectangle(f"{end} - bore/2 - {rim}", "rod", f"-({end} - bore/2 + {rim})/2")
    low = "wall + (bore - rod)/2"
    return model.Part(
        id=name,
        name=name.replace("_", " "),
        dimensions=sizes,
        places=(place("eye"), place("axis")),
        slabs=(
            slab("piston", "wall", "wall + bore", piston),
            slab("stem", low, f"{low} + rod", stem),
            slab("eye", "wall", "wall + bore", circle("eye/2"), pin=circle("hole/2")),
        ),
    )


def _made(names: Mapping[str, str]) -> Made:
    barrel, rod = names[BARREL], names[ROD]

    def pieces(*slabs: str) -> tuple[model.OutlinePiece, ...]:
        return tuple(model.OutlinePiece(slab=each) for each in slabs)

    joint = model.Joint(
        id=names[JOINT],
        kind="cylinder",
        name=f"{rod.replace('_', ' ')} in {barrel.replace('_', ' ')}",
        first=model.Side(body=barrel, place="axis", pieces=pieces("tube", "eye")),
        second=model.Side(body=rod, place="axis", pieces=pieces("piston", "stem")),
        rise=0.0,
        dead_length=f"{barrel}.dead_length",
        stroke=f"{barrel}.stroke",
        guided=f"{barrel}.bore",
    )
    bodies = (
        model.Body(id=barrel, part=barrel),
        model.Body(id=rod, part=rod, pose=model.Pose(x=f"{barrel}.dead_length")),
    )
    return Made((_barrel(barrel), _rod(rod, barrel)), bodies, (joint,))


CYLINDER = Kit(
    "cylinder",
    "cylinder",
    "Sliding",
    SIZES,
    (BARREL, ROD, JOINT),
    _made,
    ("steel", "ochre"),
    "Place a barrel and its rod, by dead length, stroke, bore and rod.",
)
