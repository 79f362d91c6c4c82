"""Shelf items that move: links, plates, discs, cranks and blocks.

Default sizes suit one another: 8 mm pins in 8.2 mm holes, 6 mm plates.
"""

from __future__ import annotations

from anakinema.document import model
from anakinema.parts.making import Recipe, circle, hull, place, rectangle, slab

Made = tuple[tuple[model.Place, ...], tuple[model.Slab, ...]]
HOLE = ("hole", "8.2 mm")
THICK = ("thickness", "6 mm")


def _link() -> Made:
    outline = hull((0, 0, "width/2"), ("length", 0, "width/2"))
    return (
        (place("a"), place("b", "length")),
        (slab("bar", 0, "thickness", outline, a=circle("hole/2"), b=circle("hole/2", "length")),),
    )


def _long_link() -> Made:
    outline = hull((0, 0, "width/2"), ("length", 0, "width/2"))
    holes = {
        "a": circle("hole/2"),
        "b": circle("hole/2", "middle"),
        "c": circle("hole/2", "length"),
    }
    return (
        (place("a"), place("b", "middle"), place("c", "length")),
        (slab("bar", 0, "thickness", outline, **holes),),
    )


def _slotted_link() -> Made:
    outline = hull((0, 0, "width/2"), ("length", 0, "width/2"))
    slot = hull(("slot_start", 0, "slot_width/2"), ("slot_end", 0, "slot_width/2"))
    holes: dict[str, model.Outline] = {
        "a": circle("hole/2"),
        "slot": slot,
        "b": circle("hole/2", "length"),
    }
    return (
        (place("a"), place("slot", "(slot_start + slot_end)/2"), place("b", "length")),
        (slab("bar", 0, "thickness", outline, **holes),),
    )


def _bell_crank() -> Made:
    x, y = "short_arm*cos(spread)", "short_arm*sin(spread)"
    arm = hull((0, 0, "width/2"), ("long_arm", 0, "width/2"))
    other = hull((0, 0, "width/2"), (x, y, "width/2"))
    return (
        (place("pivot"), place("a", "long_arm"), place("b", x, y)),
        (
            slab(
                "long", 0, "thickness", arm, pivot=circle("hole/2"), a=circle("hole/2", "long_arm")
            ),
            slab("short", 0, "thickness", other, pivot=circle("hole/2"), b=circle("hole/2", x, y)),
        ),
    )


def _ternary() -> Made:
    b, c = "side_ab", ("apex_x", "apex_y")
    outline = hull((0, 0, "width/2"), (b, 0, "width/2"), (*c, "width/2"))
    holes = {"a": circle("hole/2"), "b": circle("hole/2", b), "c": circle("hole/2", *c)}
    return (
        (place("a"), place("b", b), place("c", *c)),
        (slab("plate", 0, "thickness", outline, **holes),),
    )


def _disc() -> Made:
    holes = {"bore": circle("bore/2"), "a": circle("hole/2", "throw")}
    return (
        (place("centre"), place("a", "throw")),
        (slab("disc", 0, "thickness", circle("diameter/2"), **holes),),
    )


def _eccentric() -> Made:
    outline = circle("diameter/2", "throw")
    return (
        (place("shaft"), place("centre", "throw")),
        (slab("disc", 0, "thickness", outline, bore=circle("bore/2")),),
    )


def _crank() -> Made:
    web = hull((0, 0, "width/2"), ("throw", 0, "width/2"))
    top = "thickness + pin_length"
    return (
        (place("shaft"), place("pin", "throw")),
        (
            slab("web", 0, "thickness", web, bore=circle("bore/2")),
            slab("pin", "thickness", top, circle("pin/2", "throw")),
        ),
    )


def _block() -> Made:
    outline = rectangle("length", "width", corner="corner")
    return (
        (place("middle"), place("pin")),
        (slab("block", 0, "thickness", outline, pin=circle("hole/2")),),
    )


def _plate() -> Made:
    x, y = "spacing_x/2", "spacing_y/2"
    corners = (("a", f"-{x}", f"-{y}"), ("b", x, f"-{y}"), ("c", x, y), ("d", f"-{x}", y))
    holes = {name: circle("hole/2", px, py) for name, px, py in corners}
    outline = rectangle("length", "width", corner="corner")
    places = (place("middle"), *(place(name, px, py) for name, px, py in corners))
    return places, (slab("plate", 0, "thickness", outline, **holes),)


RECIPES = (
    Recipe("link", "link", "Links", (("length", "80 mm"), ("width", "20 mm"), HOLE, THICK), _link),
    Recipe(
        "long_link", "link with three holes", "Links",
        (("length", "120 mm"), ("middle", "60 mm"), ("width", "20 mm"), HOLE, THICK), _long_link,
        "sage",
    ),
    Recipe(
        "slotted_link", "slotted link", "Links",
        (("length", "140 mm"), ("slot_start", "40 mm"), ("slot_end", "110 mm"),
         ("slot_width", "8.2 mm"), ("width", "24 mm"), HOLE, THICK), _slotted_link, "clay",
    ),
    Recipe(
        "bell_crank", "bell crank", "Links",
        (("long_arm", "60 mm"), ("short_arm", "40 mm"), ("spread", "90 deg"), ("width", "20 mm"),
         HOLE, THICK), _bell_crank, "plum",
    ),
    Recipe(
        "ternary_plate", "ternary plate", "Links",
        (("side_ab", "80 mm"), ("apex_x", "40 mm"), ("apex_y", "50 mm"), ("width", "20 mm"), HOLE,
         THICK), _ternary, "teal",
    ),
    Recipe(
        "crank", "crank with pin", "Turning",
        (("throw", "30 mm"), ("width", "22 mm"), ("bore", "8.2 mm"), ("pin", "8 mm"),
         ("pin_length", "8 mm"), THICK), _crank,
    ),
    Recipe(
        "disc", "disc", "Turning",
        (("diameter", "80 mm"), ("throw", "28 mm"), ("bore", "8.2 mm"), HOLE, THICK), _disc,
        "steel",
    ),
    Recipe(
        "eccentric", "eccentric", "Turning",
        (("diameter", "50 mm"), ("throw", "10 mm"), ("bore", "8.2 mm"), THICK), _eccentric,
        "ochre",
    ),
    Recipe(
        "block", "block", "Sliding",
        (("length", "40 mm"), ("width", "24 mm"), ("corner", "2 mm"), HOLE, THICK), _block,
        "plum",
    ),
    Recipe(
        "plate", "plate with holes", "Frame",
        (("length", "120 mm"), ("width", "80 mm"), ("spacing_x", "90 mm"), ("spacing_y", "50 mm"),
         ("corner", "8 mm"), HOLE, THICK), _plate, "sand",
    ),
)  # fmt: skip
