"""Toothed parts on the shelf: wheels, rings and racks to ISO 53, and pulleys."""

from __future__ import annotations

from anakinema.document import model
from anakinema.parts.recipe import Recipe, circle, place, slab

Made = tuple[tuple[model.Place, ...], tuple[model.Slab, ...]]
SIZES = (("module", "2 mm"), ("teeth", "20"))
PRESSURE = ("pressure_angle", "20 deg")
BACKLASH = ("backlash", "0.05 mm")
"""Half of 0.1 mm of play for each wheel of a pair: common practice, no source."""
THICK = ("thickness", "8 mm")


def _toothed(**more: str) -> model.ToothedWheel:
    return model.ToothedWheel.model_validate(
        {
            "shape": "toothed_wheel", "module": "module", "teeth": "teeth",
            "pressure_angle": "pressure_angle", "backlash": "backlash", **more,
        }
    )  # fmt: skip


def _wheel() -> Made:
    places = (place("centre"), place("pin", "module*teeth/4"))
    return places, (
        slab("wheel", 0.0, "thickness", _toothed(shift="shift"), bore=circle("bore/2")),
    )


def _ring() -> Made:
    outer = circle("module*(teeth + 2.5)/2 + rim")
    return (place("centre"),), (slab("ring", 0.0, "thickness", outer, teeth=_toothed()),)


def _rack() -> Made:
    outline = model.ToothedRack(
        shape="toothed_rack", module="module", teeth="teeth", pressure_angle="pressure_angle",
        depth="depth",
    )  # fmt: skip
    middle = "(teeth - 1)*pi*module/2"
    places = (place("pitch", middle), place("first"), place("back", middle, "-depth"))
    return places, (slab("rack", 0.0, "thickness", outline),)


def _pulley() -> Made:
    rim = circle("diameter/2 + flange")
    bore = circle("bore/2")
    return (place("centre"),), (
        slab("lower", 0.0, "width/5", rim, bore=bore),
        slab("groove", "width/5", "4*width/5", circle("diameter/2"), bore=bore),
        slab("upper", "4*width/5", "width", rim, bore=bore),
    )


RECIPES = (
    Recipe("wheel", "toothed wheel", "Toothed",
           (*SIZES, PRESSURE, ("shift", "0"), BACKLASH, ("bore", "8.2 mm"), THICK), _wheel,
           "ochre"),
    Recipe("ring", "toothed ring", "Toothed",
           (("module", "2 mm"), ("teeth", "60"), PRESSURE, BACKLASH, ("rim", "8 mm"), THICK), _ring,
           "steel"),
    Recipe("rack", "toothed rack", "Toothed",
           (("module", "2 mm"), ("teeth", "24"), PRESSURE, ("depth", "8 mm"), THICK), _rack,
           "sage"),
    Recipe("pulley", "pulley", "Toothed",
           (("diameter", "60 mm"), ("flange", "3 mm"), ("width", "12 mm"), ("bore", "8.2 mm")),
           _pulley, "rose"),
)  # fmt: skip
