"""Shelf items that stand still and guide: bases, rails, straight and curved guides, posts."""

from __future__ import annotations

from anakinema.document import model
from anakinema.parts.making import Recipe, circle, hull, place, rectangle, slab

Made = tuple[tuple[model.Place, ...], tuple[model.Slab, ...]]


def _base() -> Made:
    plate = rectangle("spacing + 2*margin", "depth", "spacing/2", 0, "corner")
    return (
        (place("a"), place("b", "spacing"), place("middle", "spacing/2")),
        (
            slab("plate", "-thickness", 0, plate),
            slab("pin_a", 0, "pin_length", circle("pin/2")),
            slab("pin_b", 0, "pin_length", circle("pin/2", "spacing")),
        ),
    )


def _eared_base() -> Made:
    foot = rectangle("spacing + 2*margin", "foot", "spacing/2", "-rise - foot/2")
    ears = tuple(
        slab(
            f"ear_{name}",
            0,
            "thickness",
            hull((x, 0, "ear/2"), (x, "-rise", "ear/2")),
            hole=circle("hole/2", x),
        )
        for name, x in (("a", 0), ("b", "spacing"))
    )
    return (
        (place("a"), place("b", "spacing"), place("foot", "spacing/2", "-rise")),
        (slab("foot", 0, "thickness", foot), *ears),
    )


def _rail() -> Made:
    return (
        (place("axis"), place("start", "-length/2"), place("end", "length/2")),
        (slab("rail", 0, "thickness", rectangle("length", "width")),),
    )


def _guide() -> Made:
    outline = rectangle("travel + 2*wall + 2*end", "width + 2*wall", corner="wall/2")
    slot = rectangle("travel + 2*end", "width")
    return (
        (place("axis"), place("start", "-travel/2"), place("end", "travel/2")),
        (slab("guide", 0, "thickness", outline, slot=slot),),
    )


def _arc_path(inner: str, outer: str) -> model.Path:
    """A ring segment about the origin, from -sweep/2 to sweep/2, its four corners bulged."""
    low, high = "-sweep/2", "sweep/2"
    vertices = (
        (inner, high, "-tan(sweep/4)"),
        (inner, low, "0"),
        (outer, low, "tan(sweep/4)"),
        (outer, high, "0"),
    )
    return model.Path(
        shape="path",
        vertices=tuple(
            model.Vertex(x=f"({r})*cos({angle})", y=f"({r})*sin({angle})", bulge=bulge)
            for r, angle, bulge in vertices
        ),
    )


def _arc_guide() -> Made:
    rail = _arc_path("radius - width/2", "radius + width/2")
    return (
        (place("centre"), place("middle", "radius", 0, "90 deg")),
        (slab("rail", 0, "thickness", rail),),
    )


def _post() -> Made:
    return ((place("middle"),), (slab("post", 0, "height", circle("diameter/2")),))


RECIPES = (
    Recipe(
        "base",
        "base with two pins",
        "Frame",
        (
            ("spacing", "120 mm"),
            ("margin", "20 mm"),
            ("depth", "50 mm"),
            ("pin", "8 mm"),
            ("pin_length", "6 mm"),
            ("corner", "8 mm"),
            ("thickness", "8 mm"),
        ),
        _base,
        "sand",
    ),
    Recipe(
        "eared_base",
        "base with ears",
        "Frame",
        (
            ("spacing", "100 mm"),
            ("rise", "24 mm"),
            ("ear", "24 mm"),
            ("foot", "12 mm"),
            ("margin", "20 mm"),
            ("hole", "8.2 mm"),
            ("thickness", "6 mm"),
        ),
        _eared_base,
        "sand",
    ),
    Recipe(
        "rail",
        "rail",
        "Frame",
        (("length", "200 mm"), ("width", "12 mm"), ("thickness", "6 mm")),
        _rail,
        "sand",
    ),
    Recipe(
        "guide",
        "straight guide",
        "Frame",
        (
            ("travel", "120 mm"),
            ("width", "24.2 mm"),
            ("wall", "8 mm"),
            ("end", "20 mm"),
            ("thickness", "6 mm"),
        ),
        _guide,
        "sand",
    ),
    Recipe(
        "arc_guide",
        "curved guide",
        "Frame",
        (("radius", "80 mm"), ("width", "10 mm"), ("sweep", "120 deg"), ("thickness", "6 mm")),
        _arc_guide,
        "sand",
    ),
    Recipe("post", "post", "Frame", (("diameter", "12 mm"), ("height", "12 mm")), _post, "rose"),
)
