"""Cams of given shape on the shelf: what touches them decides how it is lifted."""

from __future__ import annotations

import math

from anakinema.document import model
from anakinema.parts.making import Recipe, circle, hull, place, slab

Made = tuple[tuple[model.Place, ...], tuple[model.Slab, ...]]
COMMON = (("bore", "10 mm"), ("thickness", "8 mm"))


def _turning(outline: model.Outline) -> Made:
    return (place("centre"),), (slab("cam", 0.0, "thickness", outline, bore=circle("bore/2")),)


def _polygon(corners: int) -> Made:
    """Regular, its first corner upwards."""
    vertices = []
    for k in range(corners):
        angle = f"{90 + 360 * k / corners:g} deg"
        vertices.append(
            model.Vertex(x=f"radius*cos({angle})", y=f"radius*sin({angle})", fillet="corner")
        )
    return _turning(model.Path(shape="path", vertices=tuple(vertices)))


def _pear() -> Made:
    return _turning(hull((0.0, 0.0, "radius"), (0.0, "lift + radius - nose", "nose")))


def _snail() -> Made:
    """Two half circles that meet in one step: it lifts by ``lift`` over a turn, then drops."""
    out = model.Vertex(x="radius", y="0 mm", bulge=1.0)
    across = model.Vertex(x="-radius - lift/2", y="0 mm", bulge=1.0)
    return _turning(
        model.Path(shape="path", vertices=(out, across, model.Vertex(x="radius + lift", y="0 mm")))
    )


def _arcs() -> Made:
    """A base circle and a nose joined by flanks of one large radius each."""
    half = math.radians(40)
    c, s = math.cos(half), math.sin(half)
    bulge = 0.12
    vertices = (
        model.Vertex(
            x=f"-radius*{c:.12g}", y=f"radius*{s:.12g}", bulge=math.tan((math.pi + 2 * half) / 4)
        ),
        model.Vertex(x=f"radius*{c:.12g}", y=f"radius*{s:.12g}", bulge=bulge),
        model.Vertex(
            x=f"nose*{c:.12g}",
            y=f"lift + radius - nose + nose*{s:.12g}",
            bulge=math.tan((math.pi - 2 * half) / 4),
        ),
        model.Vertex(x=f"-nose*{c:.12g}", y=f"lift + radius - nose + nose*{s:.12g}", bulge=bulge),
    )
    return _turning(model.Path(shape="path", vertices=vertices))


HEART = model.Cam(
    id="heart",
    base="radius",
    ease="8 deg",
    follower=model.CamFollower(radius="roller", returns="spring"),
    segments=(
        model.CamSegment(turn="180 deg", to="lift", law="constant"),
        model.CamSegment(turn="180 deg", to="0 mm", law="constant"),
    ),
)
"""Constant speed up and down again."""


def _heart() -> Made:
    return _turning(model.CamOutline(shape="cam", cam="heart"))


RECIPES = (
    Recipe("triangle_cam", "three-sided cam", "Cams",
           (("radius", "30 mm"), ("corner", "6 mm"), *COMMON), lambda: _polygon(3), "ochre"),
    Recipe("square_cam", "four-sided cam", "Cams",
           (("radius", "30 mm"), ("corner", "5 mm"), *COMMON), lambda: _polygon(4), "ochre"),
    Recipe("six_sided_cam", "six-sided cam", "Cams",
           (("radius", "30 mm"), ("corner", "3 mm"), *COMMON), lambda: _polygon(6), "ochre"),
    Recipe("pear_cam", "pear cam", "Cams",
           (("radius", "20 mm"), ("lift", "12 mm"), ("nose", "8 mm"), *COMMON), _pear, "clay"),
    Recipe("drop_cam", "drop cam", "Cams",
           (("radius", "20 mm"), ("lift", "16 mm"), ("nose", "3 mm"), *COMMON), _pear, "clay"),
    Recipe("arc_cam", "cam of four arcs", "Cams",
           (("radius", "22 mm"), ("lift", "10 mm"), ("nose", "6 mm"), *COMMON), _arcs, "clay"),
    Recipe("heart_cam", "heart cam", "Cams",
           (("radius", "26 mm"), ("lift", "24 mm"), ("roller", "4 mm"), *COMMON), _heart, "rose",
           "Lifts at constant speed a roller of the radius stated, joined to its curve.", (HEART,)),
    Recipe("snail_cam", "snail cam", "Cams",
           (("radius", "20 mm"), ("lift", "8 mm"), *COMMON), _snail, "plum",
           "Its step drops what rides on it; turned the other way it blocks."),
)  # fmt: skip
