"""Toothed and indexing parts on the shelf: wheels to ISO 53 and 606, ratchets, Genevas, pulleys."""

from __future__ import annotations

from anakinema.document import model
from anakinema.parts.making import Recipe, circle, place, slab

Made = tuple[tuple[model.Place, ...], tuple[model.Slab, ...]]
SIZES = (("module", "2 mm"), ("teeth", "20"))
PRESSURE = ("pressure_angle", "20 deg")
BACKLASH = ("backlash", "0.05 mm")
"""Half of 0.1 mm of play for each wheel of a pair: common practice, no source."""
THICK = ("thickness", "8 mm")


def _toothed(**more: str) -> model.ToothedWheel:
    return model.ToothedWheel.model_validate(
        {
            "shape": "toothed_wheel",
            "module": "module",
            "teeth": "teeth",
            "pressure_angle": "pressure_angle",
            "backlash": "backlash",
            **more,
        }
    )


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
        shape="toothed_rack",
        module="module",
        teeth="teeth",
        pressure_angle="pressure_angle",
        depth="depth",
    )
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


def _ratchet() -> Made:
    outline = model.RatchetWheel(
        shape="ratchet_wheel",
        teeth="teeth",
        tip="diameter/2",
        root="diameter/2 - height",
        lean="lean",
    )
    places = (place("centre"), place("tip", "diameter/2"))
    return places, (slab("wheel", 0.0, "thickness", outline, bore=circle("bore/2")),)


def _pawl() -> Made:
    """A finger hollow below, so that only its point at the end of its length reaches a wheel."""
    outline = model.Path(
        shape="path",
        vertices=tuple(
            model.Vertex(x=x, y=y, bulge=bulge)
            for x, y, bulge in (
                ("0 mm", "-width/2", 0.0),
                ("length*0.72", "width*0.35", 0.0),
                ("length", "0 mm", 0.0),
                ("length*0.9", "width", 0.0),
                ("0 mm", "width/2", 1.0),
            )
        ),
    )
    places = (place("pivot"), place("tip", "length"))
    return places, (slab("finger", 0.0, "thickness", outline, bore=circle("bore/2")),)


GENEVA = (
    ("slots", "4"),
    ("centres", "60 mm"),
    ("pin", "8 mm"),
    ("play", "0.1 mm"),
    ("lock", "30 mm"),
)


def _geneva() -> Made:
    outline = model.GenevaWheel(
        shape="geneva_wheel", slots="slots", centres="centres", slot="pin + play", lock="lock"
    )
    places = (place("centre"), place("slot", "centres*cos(180 deg/slots)"))
    return places, (slab("wheel", 0.0, "thickness", outline, bore=circle("bore/2")),)


def _geneva_driver() -> Made:
    crank = "centres*sin(180 deg/slots)"
    disc = model.LockingDisc(
        shape="locking_disc", slots="slots", centres="centres", lock="lock", play="play"
    )
    arm = model.Hull(
        shape="hull", rounds=(model.Round(radius="pin"), model.Round(x=crank, radius="pin*0.8"))
    )
    return (place("centre"), place("pin", crank)), (
        slab("disc", 0.0, "thickness", disc, bore=circle("bore/2")),
        slab("arm", "-thickness", 0.0, arm, bore=circle("bore/2")),
        slab("pin", 0.0, "thickness", circle("pin/2", crank)),
    )


def _sprocket() -> Made:
    outline = model.Sprocket(shape="sprocket", teeth="teeth", pitch="pitch", roller="roller")
    places = (place("centre"), place("seat", "pitch/(2*sin(180 deg/teeth))"))
    return places, (slab("wheel", 0.0, "thickness", outline, bore=circle("bore/2")),)


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
    Recipe("ratchet_wheel", "ratchet wheel", "Indexing",
           (("teeth", "12"), ("diameter", "100 mm"), ("height", "10 mm"), ("lean", "3 deg"),
            ("bore", "10 mm"), THICK), _ratchet, "ochre"),
    Recipe("pawl", "pawl", "Indexing",
           (("length", "40 mm"), ("width", "10 mm"), ("bore", "5 mm"), THICK), _pawl, "clay"),
    Recipe("geneva_wheel", "Geneva wheel", "Indexing",
           (*GENEVA, ("bore", "10 mm"), THICK), _geneva, "sage",
           "Made for the Geneva crank of the same numbers."),
    Recipe("geneva_crank", "Geneva crank", "Indexing",
           (*GENEVA, ("bore", "10 mm"), THICK), _geneva_driver, "ochre",
           "Its centre belongs the wheel's centres away."),
    Recipe("sprocket", "sprocket", "Toothed",
           (("teeth", "19"), ("pitch", "12.7 mm"), ("roller", "8.51 mm"), ("bore", "12 mm"),
            ("thickness", "7.2 mm")), _sprocket, "steel",
           "Pitches and rollers of ISO 606: 9.525 and 6.35, 12.7 and 8.51, 15.875 and 10.16 mm."),
)  # fmt: skip
