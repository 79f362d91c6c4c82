"""Shelf items of the stack along a pin: pins, bolts, nuts, washers, bearings, turned parts.

Each stands on its own axis with its lower face at height 0, so that joining sets it face to face.
Default bolt and nut sizes are those of an M8 thread (ISO 4014, ISO 4032, ISO 7089, from memory).
"""

from __future__ import annotations

from anakinema.document import model
from anakinema.parts.making import Recipe, circle, hexagon, place, slab

Made = tuple[tuple[model.Place, ...], tuple[model.Slab, ...]]
AXIS = (place("axis"),)


def _ring() -> Made:
    return AXIS, (slab("ring", 0, "length", circle("outer/2"), bore=circle("bore/2")),)


def _pin() -> Made:
    return AXIS, (slab("pin", 0, "length", circle("diameter/2")),)


def _bolt() -> Made:
    return AXIS, (
        slab("head", "-head", 0, hexagon("flats")),
        slab("shank", 0, "length", circle("diameter/2")),
    )


def _nut() -> Made:
    return AXIS, (slab("nut", 0, "height", hexagon("flats"), thread=circle("diameter/2")),)


def _bushing() -> Made:
    return AXIS, (
        slab("flange", 0, "flange_height", circle("flange/2"), bore=circle("bore/2")),
        slab("sleeve", "flange_height", "length", circle("outer/2"), bore=circle("bore/2")),
    )


def _turned() -> Made:
    first, second, third = "length_1", "length_1 + length_2", "length_1 + length_2 + length_3"
    return AXIS, (
        slab("step_1", 0, first, circle("diameter_1/2"), bore=circle("bore/2")),
        slab("step_2", first, second, circle("diameter_2/2"), bore=circle("bore/2")),
        slab("step_3", second, third, circle("diameter_3/2"), bore=circle("bore/2")),
    )


def _rings(
    kind: str, title: str, bore: str, outer: str, length: str, colour: model.Colour
) -> Recipe:
    sizes = (("bore", bore), ("outer", outer), ("length", length))
    return Recipe(kind, title, "Hardware", sizes, _ring, colour)


RECIPES = (
    Recipe("pin", "pin", "Hardware", (("diameter", "8 mm"), ("length", "16 mm")), _pin, "steel"),
    Recipe(
        "bolt",
        "bolt",
        "Hardware",
        (("diameter", "8 mm"), ("length", "25 mm"), ("flats", "13 mm"), ("head", "5.3 mm")),
        _bolt,
        "steel",
    ),
    Recipe(
        "nut",
        "nut",
        "Hardware",
        (("diameter", "8 mm"), ("flats", "13 mm"), ("height", "6.8 mm")),
        _nut,
        "steel",
    ),
    _rings("washer", "washer", "8.4 mm", "16 mm", "1.6 mm", "steel"),
    _rings("spacer", "spacer", "8.4 mm", "14 mm", "6 mm", "steel"),
    _rings("collar", "collar", "8 mm", "16 mm", "8 mm", "ochre"),
    _rings("standoff", "standoff", "4.3 mm", "8 mm", "20 mm", "steel"),
    _rings("bearing", "bearing", "8 mm", "22 mm", "7 mm", "teal"),
    Recipe(
        "bushing",
        "bushing",
        "Hardware",
        (
            ("bore", "8 mm"),
            ("outer", "10 mm"),
            ("length", "8 mm"),
            ("flange", "15 mm"),
            ("flange_height", "1 mm"),
        ),
        _bushing,
        "ochre",
    ),
    Recipe(
        "turned",
        "turned part",
        "Hardware",
        (
            ("diameter_1", "20 mm"),
            ("length_1", "8 mm"),
            ("diameter_2", "14 mm"),
            ("length_2", "20 mm"),
            ("diameter_3", "10 mm"),
            ("length_3", "10 mm"),
            ("bore", "4 mm"),
        ),
        _turned,
        "steel",
    ),
)
